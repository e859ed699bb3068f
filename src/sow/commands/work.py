"""Do a work on a scene and write the new document."""

import argparse
import json
from pathlib import Path

from ..core.errors import SceneError
from ..core.formats.folder import open_scene
from ..core.works import do
from ._scene import SCENE, tell_left_out


def arguments(parser: argparse.ArgumentParser) -> None:
    """A scene, a work, what it is asked with, the file."""
    parser.add_argument("scene", help=SCENE)
    parser.add_argument("name", help="the work's name, as sow works lists them")
    parser.add_argument("values", help="what it is asked with, as JSON")
    parser.add_argument("out", type=Path, help="the scene.json to write")


def run(args: argparse.Namespace) -> None:
    """Writes the document and says what was done."""
    tell_left_out()
    scene, rasters = open_scene(args.scene)
    try:
        values = json.loads(args.values)
    except json.JSONDecodeError as e:
        raise SceneError(f"The values are no JSON: {e}.", "values", "Give an object.") from None
    done = do(args.name, scene, values, rasters=rasters)
    args.out.write_text(json.dumps(done.document, indent=1) + "\n")
    print(done.label or done.told or "Nothing was changed.")
