"""Makes the pictures of this folder of those in full size:
`python docs/screenshots/small.py [FOLDER]`.

Stills and sheets of stills (PHOTOGRAPHS) become JPEG, views of the page stay PNG; each is within
its bound. The other scripts here leave their pictures in FULL.
"""

import io
import sys
from pathlib import Path

from PIL import Image

HERE = Path(__file__).parent
FULL = HERE.parents[1] / ".tmp" / "screenshots"
PHOTOGRAPHS = ("kinds", "lights", "places", "still", "still-stones", "still-tors", "waters")
WIDEST = 1600
MOST_BYTES = 295_000
VIEW_BYTES = 200_000


def shrunk(picture: Image.Image, width: int) -> Image.Image:
    """A picture no wider than this, px."""
    if picture.width <= width:
        return picture
    return picture.resize((width, round(picture.height * width / picture.width)), Image.LANCZOS)


def jpeg(picture: Image.Image) -> bytes:
    """The best JPEG within the bound."""
    data = b""
    for width in (WIDEST, 1280, 1000):
        for quality in (88, 82, 76, 70):
            out = io.BytesIO()
            shrunk(picture, width).save(out, "JPEG", quality=quality, optimize=True)
            data = out.getvalue()
            if len(data) <= MOST_BYTES:
                return data
    return data


def png(picture: Image.Image) -> bytes:
    """The largest PNG of 256 colours, chosen for the picture, within the bound."""
    data = b""
    for width in (1280, 1100, 960, 860, 760, 680):
        small = shrunk(picture, width)
        few = small.quantize(256, Image.Quantize.MEDIANCUT, kmeans=1, dither=Image.Dither.NONE)
        out = io.BytesIO()
        few.save(out, "PNG", optimize=True)
        data = out.getvalue()
        if len(data) <= VIEW_BYTES:
            return data
    return data


def main(source: Path) -> None:
    """Every picture of a folder into this one."""
    for file in sorted(source.glob("*.png")):
        picture = Image.open(file).convert("RGB")
        photograph = file.stem in PHOTOGRAPHS
        made = jpeg(picture) if photograph else png(picture)
        (HERE / f"{file.stem}.{'jpg' if photograph else 'png'}").write_bytes(made)
        print(f"{file.stem}: {len(made):,} bytes")


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else FULL)
