"""Stills of all shots beside the other files of a hand-over. They are taken by a process of their
own: the renderer fills much of a machine and sets itself up for the whole of its process.
"""

import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Literal

from pydantic import Field

from ..document.entry import Strict
from ..document.fields import shown
from ..errors import SceneError
from .exporter import Grown, exporter
from .package import write_package
from .preview import of_layers, of_shot

ASKED_S = 0.3  # between looks at whether it is still wanted


class ShotFiles(Strict):
    """Whether and how stills are taken."""

    wanted: bool = Field(
        False,
        title="Stills of all shots",
        description="By following the light; minutes for each, at the size of its shot.",
    )
    quality: Literal["look", "good", "fine"] = Field(
        "good", title="Quality", json_schema_extra=shown(given="wanted")
    )
    layers: bool = Field(
        False,
        title="With all layers",
        description="Albedo, normals, and the share of every sowing, kind, water and material.",
        json_schema_extra=shown(given="wanted"),
    )


@exporter("stills", "Stills", ShotFiles, of_shot, {"wanted": of_shot, "layers": of_layers})
def shot_files(grown: Grown, options: ShotFiles) -> None:
    """stills/: for each shot a picture, its scene-linear EXR and what is told of it."""
    if not options.wanted:
        return
    scene = grown.build.scene
    if not scene.shots:
        raise SceneError(
            "There is no shot to take stills of.", "files.stills", "Keep a shot, or leave them out."
        )
    with tempfile.TemporaryDirectory() as folder:
        package = Path(folder) / "scene.zip"
        with open(package, "wb") as file:
            write_package(scene, grown.build.rasters, file)
        asked = [options.quality] + ["layers"] * options.layers
        out = grown.out / "stills"
        order = [sys.executable, "-m", "sow.core.picture.alone", str(package), str(out), *asked]
        errors = Path(folder) / "errors"
        with open(errors, "wb") as heard:
            run = subprocess.Popen(order, stdout=subprocess.DEVNULL, stderr=heard)
        try:
            while run.poll() is None:
                grown.check()
                time.sleep(ASKED_S)
        finally:
            if run.poll() is None:
                run.terminate()
                run.wait()
        if run.returncode:
            last = errors.read_text(errors="replace").strip().splitlines()[-1:] or ["it ended"]
            raise SceneError(
                f"The stills could not be taken: {last[0][:200]}",
                "files.stills",
                "The other files can be had without them.",
            )
