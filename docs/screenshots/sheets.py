"""What the sheets of stills share: samples seen otherwise, stills made once, a sheet of them."""

import copy
import json
import sys
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path

import cv2
import numpy as np

from sow.commands import main as sow_command

HERE = Path(__file__).parent
FULL = HERE.parents[1] / ".tmp" / "screenshots"  # small.py makes this folder's of them
FULL.mkdir(parents=True, exist_ok=True)
SAMPLES = HERE.parents[1] / "samples"
PAPER, INK = (228, 239, 244), (43, 48, 35)  # as OpenCV takes them


def document(name: str) -> dict:
    """A sample as it ships."""
    return json.loads((SAMPLES / f"{name}.json").read_text())


def sample(name: str, shot: dict, **more) -> dict:
    """A sample seen from a shot, with other settings."""
    own = {"id": "sheet", "name": "Sheet", **shot}
    return {**document(name), "shots": [own], "moves": [], **more}


def through(name: str, shot: str, **more) -> dict:
    """A sample through the one of its own shots of that name, with other settings."""
    found = document(name)
    shots = [{**s, "name": "Sheet"} for s in found["shots"] if s["name"] == shot]
    return {**found, "shots": shots, "moves": [], **more}


def changed(entries: list[dict], **values) -> list[dict]:
    """Entries of which the first has other values."""
    return [{**entries[0], **values}, *entries[1:]]


def stills(
    sheet: str, makes: Sequence[Callable[[], dict]], size: tuple[int, int], quality: str
) -> list[np.ndarray]:
    """A still of what each function makes, kept in a folder beside and made again only where it is
    lacking or named on the command line.
    """
    made = Path(tempfile.gettempdir()) / f"sow-{sheet}"
    made.mkdir(exist_ok=True)
    out = []
    for make in makes:
        name = make.__name__
        file = made / f"{name}.png"
        if not file.exists() or name in sys.argv[1:]:
            scene = made / f"{name}.json"
            scene.write_text(json.dumps(copy.deepcopy(make())))
            asked = ["--size", f"{size[0]}x{size[1]}", "--quality", quality]
            sow_command(["still", str(scene), str(made / name), *asked])
            file.write_bytes((made / name / "sheet.png").read_bytes())
        out.append(cv2.imread(str(file)))
    return out


def labelled(picture: np.ndarray, label: str) -> np.ndarray:
    """A picture with a line of words below it."""
    rows, columns = picture.shape[:2]
    out = cv2.copyMakeBorder(picture, 0, 22, 0, 0, cv2.BORDER_CONSTANT, value=PAPER)
    at = cv2.FONT_HERSHEY_SIMPLEX
    cv2.putText(out, label, (6, rows + 16), at, 0.45, INK, 1, cv2.LINE_AA)
    return out


def laid_out(pictures: Sequence[np.ndarray], across: int) -> np.ndarray:
    """Pictures of one size in rows, so many across, with a rim of paper."""
    edge = [cv2.copyMakeBorder(p, 3, 3, 3, 3, cv2.BORDER_CONSTANT, value=PAPER) for p in pictures]
    while len(edge) % across:
        edge.append(np.full_like(edge[0], PAPER))
    return np.vstack([np.hstack(edge[i : i + across]) for i in range(0, len(edge), across)])


def write(name: str, sheet: np.ndarray) -> None:
    """Writes a sheet beside this file."""
    cv2.imwrite(str(FULL / f"{name}.png"), sheet, [cv2.IMWRITE_PNG_COMPRESSION, 9])
