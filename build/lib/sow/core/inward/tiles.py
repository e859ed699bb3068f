"""A scene from tiles: heights, packed weights and plants, put together again."""

import csv
import io
import json
import zipfile
from typing import Any

import cv2
import numpy as np

from ..formats.elevation import read_elevation
from ..sample import resample
from .found import Found, Standing, refuse, shot_of, sun_of

MOST_POSTS = 4097


def read_tiles(data: bytes, name: str) -> Found:
    """A scene from a zip that holds tiles.json and what it names. Raises SceneError, which names a
    tile that is missing.
    """
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        inner = min((n for n in archive.namelist() if n.endswith("tiles.json")), key=len)
        facts = json.loads(archive.read(inner))
    except (zipfile.BadZipFile, ValueError) as e:
        raise refuse(
            f"“{name}” is no zip of tiles: {e}.", "Pack the folder that tiles.json lies in."
        ) from None
    try:
        return _Tiles(archive, inner.removesuffix("tiles.json"), facts).found
    except (KeyError, TypeError, IndexError) as e:
        raise refuse(
            f"tiles.json is not laid out as Sow writes it: {e}.", "Hand the tiles over again."
        ) from None


class _Tiles:
    """The tiles of an archive, laid side by side."""

    def __init__(self, archive: zipfile.ZipFile, inner: str, facts: dict[str, Any]):
        self.archive = archive
        self.inner = inner
        self.facts = facts
        own = facts.get("sow", {}).get("scene")
        self.found = Found(own["name"] if own else facts.get("scene", "Tiles"), document=own)
        self.found.width_m, self.found.depth_m = (float(v) for v in facts["plot_m"])
        self.posts = int(facts["posts"])
        whole = [facts["tiles"][side] * (self.posts - 1) + 1 for side in ("down", "across")]
        spacing = float(facts["spacing_m"])
        # what lies beyond the plot in the last tiles only fills them up
        plot = [round(side / spacing) + 1 for side in reversed(facts["plot_m"])]
        self.shape = tuple(min(a, b) for a, b in zip(plot, whole))
        self.step = 1
        while (max(self.shape) - 1) / self.step + 1 > MOST_POSTS:
            self.step *= 2
        self._heights()
        self._weights()
        self._plants()
        self._seen()

    def _bytes(self, name: str) -> bytes:
        try:
            return self.archive.read(self.inner + name)
        except KeyError:
            raise refuse(
                f"The tile “{name}” is missing.", "Pack all files that lie beside tiles.json."
            ) from None

    def _laid(self, read) -> np.ndarray:
        """What `read(line)` gives of each tile (..., posts, posts), side by side."""
        out: np.ndarray | None = None
        size = self.posts - 1
        for line in self.facts["list"]:
            part = read(line)[..., :: self.step, :: self.step]
            if out is None:
                ny, nx = ((n - 1) // self.step + 1 for n in self.shape)
                out = np.zeros((*part.shape[:-2], ny, nx), part.dtype)
            r0 = line["row"] * size // self.step
            c0 = line["column"] * size // self.step
            ny = min(part.shape[-2], out.shape[-2] - r0)
            nx = min(part.shape[-1], out.shape[-1] - c0)
            out[..., r0 : r0 + ny, c0 : c0 + nx] = part[..., :ny, :nx]
        if out is None:
            raise refuse("tiles.json lists no tile.", "Hand the tiles over again.")
        return out

    def _height(self, line: dict[str, Any]) -> np.ndarray:
        forms = line["heights"]
        if "tif" in forms:
            return read_elevation(self._bytes(forms["tif"]), "tile.tif").values.astype(np.float32)
        told = self.facts["heights"]
        span = told["highest_m"] - told["lowest_m"]
        if "png" in forms:
            raw = np.frombuffer(self._bytes(forms["png"]), np.uint8)
            steps = np.asarray(cv2.imdecode(raw, cv2.IMREAD_UNCHANGED))
        else:
            steps = np.frombuffer(self._bytes(forms["raw"]), "<u2").reshape(self.posts, self.posts)
        return (told["lowest_m"] + steps.astype(np.float64) * span / told["of"]).astype(np.float32)

    def _heights(self) -> None:
        self.found.heights = self._laid(self._height)
        ny, nx = self.found.heights.shape
        said = f"Heights of {len(self.facts['list'])} tiles, {nx} x {ny} posts."
        if self.step > 1:
            said += f" Every {self.step}th post: more than {MOST_POSTS:,} along a side do not fit."
        self.found.taken.append(said)

    def _weights(self) -> None:
        names = self.facts.get("materials") or []
        if not names or "weights" not in self.facts["list"][0]:
            return

        def packed(line: dict[str, Any]) -> np.ndarray:
            layers = []
            for file in line["weights"]:
                raw = np.frombuffer(self._bytes(file), np.uint8)
                rgba = cv2.cvtColor(
                    np.asarray(cv2.imdecode(raw, cv2.IMREAD_UNCHANGED)), cv2.COLOR_BGRA2RGBA
                )
                layers.append(rgba.transpose(2, 0, 1))
            return np.concatenate(layers)[: len(names)]

        shares = self._laid(packed).astype(np.float32) / 255
        most = 1025
        ny, nx = shares.shape[1:]
        if max(ny, nx) > most:
            k = (most - 1) / (max(ny, nx) - 1)
            size = round((ny - 1) * k) + 1, round((nx - 1) * k) + 1
            shares = np.stack([resample(s, size) for s in shares])
        self.found.shares = dict(zip(names, np.clip(shares, 0, 1)))

    def _plants(self) -> None:
        rows: dict[tuple[str, str], list[list[float]]] = {}
        for line in self.facts["list"]:
            if "plants" not in line:
                continue
            self._gather(rows, self._bytes(line["plants"]))
        beside = [n for n in self.archive.namelist() if n.rsplit("/", 1)[-1] == "plants.csv"]
        if not rows and beside:
            self._gather(rows, self.archive.read(min(beside, key=len)))
        for (sowing, kind), table in rows.items():
            self.found.standing.append(Standing(sowing, kind, np.array(table)))

    def _gather(self, rows: dict[tuple[str, str], list[list[float]]], data: bytes) -> None:
        for row in csv.DictReader(io.StringIO(data.decode("utf-8", "replace"))):
            values = [row["east"], row["north"], row["up"], row["turn_deg"], row["size"]]
            key = row["sowing"], row["kind"]
            rows.setdefault(key, []).append([*map(float, values), float(row["variant"])])

    def _seen(self) -> None:
        for shot in self.facts.get("shots", []):
            b, t = np.deg2rad([shot["bearing_deg"], shot["tilt_deg"]])
            ahead = np.array([np.sin(b) * np.cos(t), np.cos(b) * np.cos(t), np.sin(t)])
            across, up = np.tan(np.deg2rad(shot["angles_deg"]) / 2)
            eye = np.asarray(shot["eye_m"], float)
            self.found.shots.append(shot_of(shot["name"], eye, ahead, 18 / across, across / up))
        sun = self.facts.get("sun")
        if sun:
            b, h = np.deg2rad([sun["bearing_deg"], sun["height_deg"]])
            to = np.array([np.sin(b) * np.cos(h), np.cos(b) * np.cos(h), np.sin(h)])
            self.found.sun = sun_of(-to)
