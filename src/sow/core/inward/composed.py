"""A scene made of what was found in a file."""

from typing import Any

import numpy as np

from ..air.white import white_of
from ..cabinet import grounds, kinds
from ..cabinet.bent import told_bend
from ..cabinet.dressed import PLAIN_LOOK, Dressed
from ..cabinet.kind import MARK
from ..cabinet.likely import likely
from ..formats.lightfiles import kelvin_of
from ..formats.package import Package, is_left_out
from ..plot import Grid
from ..sample import heights_at
from ..scene import read_scene
from .found import Found, Standing, refuse

NEUTRAL = {"turn": 0, "smallest": 100, "largest": 100, "edge": 100, "sway": 0, "tint": 0}


def many(count: int, noun: str) -> str:
    """A count with its noun: 1 shot, 2 shots."""
    return f"{count:,} {noun}{'' if count == 1 else 's'}"


def composed(found: Found, measured: bool = False) -> Package:
    """A scene with its rasters. Where the scene that a file was written from travels along whole it
    is that one; `measured`, or a file of somebody else's, is told from what stands in it: land as a
    heightmap, materials as masks, plants as places.

    Raises SceneError when there is nothing of a scene in it.
    """
    whole = found.document
    if whole is not None and not measured:
        if not _needs(whole):
            read_scene(whole)
            found.taken[:] = ["The scene itself, entry by entry."]
            found.left.clear()
            return Package(whole, {})
        found.left.append("Its own entries: they ask for pictures that are not in the file.")
    if found.heights is None and not found.standing:
        raise refuse(
            f"“{found.name}” holds neither a ground nor things that stand on one.",
            "Give a scene: a GLB or USD with its ground, or the folder of tiles as a zip.",
        )
    return _Composer(found).package()


def _needs(value: Any) -> bool:
    """Whether a scene names rasters or models that lie outside it."""
    if isinstance(value, dict):
        return any(_needs(v) for v in value.values())
    if isinstance(value, list):
        return any(_needs(v) for v in value)
    return isinstance(value, str) and is_left_out(value)


class _Composer:
    """Puts a scene together, section by section."""

    def __init__(self, found: Found):
        self.found = found
        self.before = found.document or {}
        self.rasters: dict[str, np.ndarray] = {}
        if found.heights is None:
            every = np.concatenate([s.table[:, :2] for s in found.standing])
            low = every.min(0) - 5
            for group in found.standing:
                group.table[:, :2] -= low
            found.width_m, found.depth_m = (float(v) for v in np.ptp(every, axis=0) + 10)
            found.left.append("The land: no ground was found, so all stands on a level plot.")
        self.longer = max(found.width_m, found.depth_m)
        level = np.zeros((33, 33), np.float32)
        self.heights: np.ndarray = level if found.heights is None else found.heights
        ny, nx = self.heights.shape
        self.grid = Grid(nx, ny, found.width_m / (nx - 1))

    def package(self) -> Package:
        """The scene and its rasters."""
        posts = int(np.clip(max(self.heights.shape), 33, 4097))
        document: dict[str, Any] = {
            "format": "sow-scene-1",
            "name": (self.found.name or "Read")[:80],
            "plot": {
                **self.before.get("plot", {}),
                "width_m": self.found.width_m,
                "depth_m": self.found.depth_m,
                "posts": posts,
            },
            "land": self._land(),
        }
        for section in ("light", "air", "water", "season", "beyond", "grade"):
            if section in self.before and not _needs(self.before[section]):
                document[section] = self.before[section]
        document["ground"], document["marks"] = self._ground()
        document["planting"] = self._planting()
        document["pieces"] = self._pieces()
        document["shots"] = self._shots()
        self._light(document)
        read_scene(document)
        return Package(document, self.rasters)

    def _keep(self, name: str, values: np.ndarray) -> str:
        path = f"rasters/{name}"
        self.rasters[path] = values
        return path

    def _land(self) -> list[dict[str, Any]]:
        if self.found.heights is None:
            return []
        low, high = float(self.heights.min()), float(self.heights.max())
        entry = {
            "id": "read-land",
            "name": "Land as read",
            "kind": "heightmap",
            "raster": self._keep("land.tif", self.heights),
            "lowest_m": low,
            "highest_m": high,
            "combine": "replace",
        }
        return [entry]

    def _ground(self) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
        """Materials, each where its mask says. As a later one covers those before it, a mask holds
        its share of what the later ones leave.
        """
        if not self.found.shares:
            own = self.before.get("ground", [])
            return ([], []) if _needs(own) else ([_free_of_marks(m) for m in own], [])
        entries, marks = [], []
        names = list(self.found.shares)
        rest = np.ones_like(next(iter(self.found.shares.values())))
        masks: dict[str, np.ndarray] = {}
        for name in reversed(names):
            share = self.found.shares[name]
            masks[name] = np.clip(share / np.maximum(rest, 1e-6), 0, 1)
            rest = np.clip(rest - share, 0, 1)
        by_name = {m["name"]: m for m in self.before.get("ground", []) if not _needs(m)}
        for k, name in enumerate(names):
            kind = likely(name, grounds) or next(iter(grounds))
            plain = {"ground": kind, **by_name.get(name, {})}
            entry = {**plain, "id": f"read-ground-{k}", "name": name[:80], "where": []}
            entry |= {"broken": 0, "edge": 100, "stands": 0, "cover": 100}
            if k:
                mark = f"read-mask-{k}"
                steps = np.rint(masks[name] * 65535).astype(np.uint16)
                raster = self._keep(f"ground-{k}.png", steps)
                marks.append({"id": mark, "name": name[:80], "kind": "mask", "raster": raster})
                entry["where"] = [{"kind": "mask", "mark": mark}]
            entries.append(entry)
        self.found.taken.append(f"{many(len(entries), 'material')} by their weights.")
        return entries, marks

    def _planting(self) -> list[dict[str, Any]]:
        groups: dict[str, list[Standing]] = {}
        for standing in self.found.standing:
            groups.setdefault(standing.sowing, []).append(standing)
        by_name = {s["name"]: s for s in self.before.get("planting", [])}
        out = []
        for k, (name, parts) in enumerate(groups.items()):
            sowing = self._sowing(k, name, parts, by_name.get(name))
            if sowing is not None:
                out.append(sowing)
        return out

    def _sowing(
        self, k: int, name: str, parts: list[Standing], before: dict[str, Any] | None
    ) -> dict[str, Any] | None:
        names = sorted({p.kind for p in parts})
        kind_of = {n: likely(Dressed.read(n).kind, kinds) for n in names}
        for strange in [n for n in names if not kind_of[n]]:
            count = sum(len(p.table) for p in parts if p.kind == strange)
            self.found.left.append(f"“{strange}”, {count:,} times: no kind is called like it.")
        names = [n for n in names if kind_of[n]]
        rows = [
            np.column_stack([np.full(len(p.table), names.index(p.kind)), p.table[:, [0, 1, 3, 4]]])
            for p in parts
            if p.kind in names
        ]
        if not rows:
            return None
        table = np.concatenate(rows).astype(np.float32)
        mix = []
        for n in names:
            dressed = Dressed.read(n)
            own = {"kind": kind_of[n], "called": [n], "share": 100 / len(names)}
            plain = dressed.look == PLAIN_LOOK and not dressed.toned
            mix.append(own if plain else {**own, "look": dressed.look})
        stance = {**NEUTRAL}
        if before:
            stance |= {key: before["stance"][key] for key in ("sink_cm", "settle", "lean")}
        plants, sorts = many(len(table), "plant"), many(len(names), "kind")
        self.found.taken.append(f"“{name}”: {plants} of {sorts}.")
        return {
            "id": f"read-sowing-{k}",
            "name": name[:80],
            "mix": mix,
            "layout": "given",
            "places": self._keep(f"places-{k}.tif", table),
            "places_from": self.found.name[:120],
            "names": names,
            "keeps_off": 0,
            "wet": True,
            "stance": stance,
        }

    def _up(self, east: float, north: float) -> float:
        return float(heights_at(self.heights, self.grid, np.array([east]), np.array([north]))[0])

    def _pieces(self) -> list[dict[str, Any]]:
        by_id = {p["id"]: p for p in self.before.get("pieces", [])}
        out = []
        for piece in self.found.pieces:
            name, _, bend = Dressed.read(str(piece["kind"])).kind.partition(MARK)
            kind = likely(name, kinds)
            if not kind:
                self.found.left.append(f"The piece “{piece['name']}”: no kind is called like it.")
                continue
            own = by_id.get(piece["id"], {})
            up = piece["up_m"]
            values = {k: v for k, v in piece.items() if k != "up_m"}
            kept = {} if _needs(own) else own
            made = {**kept, **values, "kind": kept.get("kind", kind)}
            size = own.get("size", 100)
            made |= {side: piece[side] * 100 / size for side in ("wide", "deep", "tall")}
            if bend:  # whose name tells its three sizes
                made["bend"], sizes = told_bend(bend)
                of_all = piece["wide"] / size
                made |= {k: of_all * v for k, v in zip(("wide", "deep", "tall"), sizes)}
            if not own:
                made["sink_cm"] = 100 * (self._up(piece["east_m"], piece["north_m"]) - up)
            out.append(made)
        if out:
            self.found.taken.append(f"{many(len(out), 'piece')}.")
        return out

    def _shots(self) -> list[dict[str, Any]]:
        by_name = {s["name"]: s for s in self.before.get("shots", [])}
        out = []
        for k, shot in enumerate(self.found.shots):
            ground = self._up(shot["east_m"], shot["north_m"])
            values = {key: v for key, v in shot.items() if key != "up_m"}
            own = by_name.get(shot["name"], {"id": f"read-shot-{k}"})
            sizes = {key: own[key] for key in ("width_px", "height_px") if key in own}
            made = {**own, **values, **sizes, "aim_by": "angles"}
            out.append({**made, "eye_m": float(np.clip(shot["up_m"] - ground, 0.01, 1e5))})
        if out:
            self.found.taken.append(f"{many(len(out), 'shot')}.")
        return out

    def _light(self, document: dict[str, Any]) -> None:
        if "light" not in document and self.found.sun is not None:
            bearing, height = self.found.sun
            document["light"] = {"sun_bearing": bearing, "sun_height": height}
            self.found.taken.append(f"The sun, {height:.1f}° high.")
        if "air" not in document and self.found.lamps:
            document["air"] = [self._lamp(k, lamp) for k, lamp in enumerate(self.found.lamps)]
            self.found.taken.append(f"{many(len(self.found.lamps), 'lamp')}.")

    def _lamp(self, k: int, lamp: dict[str, Any]) -> dict[str, Any]:
        (east, north, up), aim = lamp["at"], lamp["aim"]
        return {
            "id": f"read-lamp-{k}",
            "name": lamp["name"][:80] or "Lamp",
            "kind": "lamp",
            "east_m": east,
            "north_m": north,
            "over_m": float(np.clip(up - self._up(east, north), 0.02, 5000)),
            "aim_east_m": aim[0],
            "aim_north_m": aim[1],
            "aim_over_m": float(np.clip(aim[2] - self._up(aim[0], aim[1]), -50, 5000)),
            "lumens": lamp["lumens"],
            "spread": float(np.clip(lamp["spread"], 2, 180)),
            "warmth_k": _warmth(np.asarray(lamp["rgb"])),
        }


def _warmth(rgb: np.ndarray) -> float:
    """The warmth (K) of a lamp whose light has this colour."""
    if rgb.max() <= 0:
        return 6500.0
    guess = float(np.clip(kelvin_of(rgb / rgb.max()), 1700, 20000))
    near = guess * np.linspace(0.85, 1.15, 61)
    lit = np.array([white_of(float(k)) for k in np.clip(near, 1700, 20000)])
    off = np.abs(lit / lit.max(1, keepdims=True) - rgb / rgb.max()).sum(1)
    return float(np.clip(near[int(np.argmin(off))], 1700, 20000))


def _free_of_marks(entry: dict[str, Any]) -> dict[str, Any]:
    """A material without conditions that ask for marks, which are not read."""
    where = [c for c in entry.get("where", []) if not c.get("mark")]
    return {**entry, "where": where}
