"""Moving pictures as files: the frames, and a clip of them (by PyAV, which holds FFmpeg)."""

from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np

from ..errors import SceneError
from ..picture.order import Form

try:
    import av
except ImportError:
    av = None  # type: ignore[assignment]

# coder, its options, and the suffix of the file
CODERS: dict[str, tuple[str, dict[str, str], str]] = {
    "mp4": ("libx264", {"crf": "16", "preset": "medium"}, ".mp4"),
    "webm": ("libvpx-vp9", {"crf": "24", "b:v": "0", "deadline": "good", "cpu-used": "3"}, ".webm"),
}
THREADS = 2  # always as many: a coder's bytes follow from their number


def refuse_without() -> None:
    """Raises SceneError where no clips can be written."""
    if av is None:
        raise SceneError(
            "Clips are written by PyAV, which is not installed here.",
            "clip",
            "Run: .venv/bin/pip install av, or order frames.",
        )


def write_clip(path: Path, frames: Sequence[Path], fps: int, form: Form) -> Path:
    """Writes PNG frames as a clip beside `path`, with the suffix of its form; BT.709, 4:2:0. The
    file is whole or not there. Raises SceneError.
    """
    refuse_without()
    coder, options, suffix = CODERS[form]
    out = path.with_name(path.name + suffix)
    part = out.with_name(f".{out.stem}.part{suffix}")
    try:
        with av.open(str(part), "w", options={"fflags": "bitexact"}) as file:
            stream = file.add_stream(coder, rate=Fraction(fps), options=options)
            assert isinstance(stream, av.VideoStream)
            context = stream.codec_context
            context.thread_count = THREADS
            context.pix_fmt = "yuv420p"
            context.height, context.width = _picture(frames[0]).shape[:2]
            _say_colours(context)
            for frame in frames:
                picture = av.VideoFrame.from_ndarray(_picture(frame), format="bgr24")
                laid = picture.reformat(
                    format="yuv420p", src_colorspace="ITU709", dst_colorspace="ITU709"
                )
                for packet in stream.encode(laid):
                    file.mux(packet)
            for packet in stream.encode(None):
                file.mux(packet)
        part.replace(out)
    except av.error.FFmpegError as e:
        raise SceneError(
            f"The clip could not be written: {e.strerror}.", "clip", "Order frames instead."
        ) from None
    finally:
        part.unlink(missing_ok=True)
    return out


def _picture(path: Path) -> np.ndarray:
    found = cv2.imread(str(path))
    if found is None:
        raise SceneError(f"The frame {path.name} is damaged.", "clip", "Begin the clip anew.")
    return np.asarray(found, np.uint8)


def _say_colours(coder: "av.VideoCodecContext") -> None:
    """Players take these for what they are, whatever the size."""
    coder.color_primaries = av.video.reformatter.ColorPrimaries.BT709
    coder.color_trc = av.video.reformatter.ColorTrc.BT709
    coder.colorspace = av.video.reformatter.Colorspace.ITU709
    coder.color_range = av.video.reformatter.ColorRange.MPEG
