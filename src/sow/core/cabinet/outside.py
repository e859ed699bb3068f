"""Kinds of extra files: grown within a time, looked over, and left out where they cannot be had."""

import ctypes
import threading
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from ..document.extra import PREFIX, Trouble, troubles
from ..errors import SceneError
from ..settings import settings
from .family import families
from .kind import Kind, KindShape, kinds, stake
from .mesh import Part

OFF = 0.5  # how far a kind may be from the height that it states, a part of it


class _Stopped(BaseException):
    """Ends what takes too long."""


def within(seconds: float, work: Callable[[], Any]) -> Any:
    """What some work gives, done in a thread of its own; it is stopped, and TimeoutError raised,
    when it takes longer. Other faults are those of the work.
    """
    found: dict[str, Any] = {}

    def run() -> None:
        try:
            found["made"] = work()
        except _Stopped:
            pass
        except BaseException as e:
            found["fault"] = e

    worker = threading.Thread(target=run, daemon=True)
    worker.start()
    worker.join(seconds)
    if worker.is_alive():
        # raised in that thread at its next step
        ctypes.pythonapi.PyThreadState_SetAsyncExc(
            ctypes.c_ulong(worker.ident or 0), ctypes.py_object(_Stopped)
        )
        raise TimeoutError
    if "fault" in found:
        raise found["fault"]
    return found["made"]


def faults_of(kind: Kind, shape: KindShape) -> str:
    """What is wrong with a kind as it was grown, in words; empty where nothing is."""
    meshes = [mesh for row in shape.levels for mesh in row]
    if not meshes or any(not len(row) for row in shape.levels):
        return "it has a variant without any level"
    near = [row[0] for row in shape.levels]
    if any(not len(mesh.faces) for mesh in near):
        return "it has no triangles: no leaves, no stem"
    if any(not np.isfinite(mesh.positions).all() for mesh in meshes):
        return "it has places that are no numbers"
    tall = max(float(mesh.positions[:, 2].max()) for mesh in near)
    if not (1 - OFF) * kind.height_m <= tall <= (1 + OFF) * kind.height_m:
        return f"it states a height of {kind.height_m:g} m and was grown {tall:.3g} m high"
    wide = max(float(np.hypot(*mesh.positions[:, :2].T).max()) for mesh in near)
    if wide > 3 * kind.reach_m:
        return f"it states a reach of {kind.reach_m:g} m and reaches {wide:.3g} m"
    return ""


class _Watched:
    """One kind of an extra file."""

    def __init__(self, kind: Kind, file: str) -> None:
        self.kind, self.file = kind, file
        self.made: dict[str, KindShape] = {}
        self.guard = threading.Lock()

    def shape(self, look: str) -> KindShape:
        """Its shape in a look, grown once; a stake where it cannot be had."""
        with self.guard:
            if look not in self.made:
                grown = self._tried(lambda: self.kind.make(look))
                wrong = grown and faults_of(self.kind, grown)
                if wrong:
                    self._tell(wrong)
                self.made[look] = stake(self.kind.name).make(look) if wrong or not grown else grown
            return self.made[look]

    def nearest(self, look: str, variant: int, share: float) -> list[Part]:
        """Its parts leaf by leaf; its nearest level where they cannot be had."""
        nearest = self.kind.nearest
        assert nearest is not None
        parts = self._tried(lambda: nearest(look, variant, share))
        if parts is not None and any(len(part.mesh.faces) for part in parts):
            return parts
        if parts is not None:
            self._tell("its nearest build has no leaves")
        levels = self.shape(look).levels
        return [Part(levels[variant % len(levels)][0], None)]

    def _tried(self, work: Callable[[], Any]) -> Any:
        limit = settings().grows_s
        try:
            return within(limit, work)
        except TimeoutError:
            self._tell(f"it took over {limit:g} s to grow and was stopped")
        except SceneError as e:
            self._tell(e.message)
        except Exception as e:
            self._tell(f"{type(e).__name__}: {e}")
        return None

    def _tell(self, what: str) -> None:
        told = Trouble(self.file, f"The kind “{self.kind.label}” cannot be had: {what}.")
        if told not in troubles:
            troubles.append(told)


def watch(shipped: frozenset[str]) -> None:
    """Watches over all kinds that do not ship."""
    for name, kind in list(kinds.items()):
        if name in shipped or kind.outside:
            continue
        module = getattr(kind.make, "__module__", "") or ""
        file = module.removeprefix(PREFIX) + ".py" if module.startswith(PREFIX) else "an extra file"
        own = _Watched(kind, file)
        near = own.nearest if kind.nearest else None
        if kind.family not in families:
            own._tell(f"there is no family “{kind.family}”")
            del kinds[name]
            continue
        kinds[name] = replace(kind, make=own.shape, nearest=near, outside=True)
