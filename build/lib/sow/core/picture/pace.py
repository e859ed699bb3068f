"""Seconds left of a still or a clip, told from what its passes, skies and frames took so far."""

from dataclasses import dataclass, field

import numpy as np

PREVIEW_PX = 960
SHOWN_PART = 0.5  # of a pass, until one picture so far was made
SHOWN_EVERY = 8.0  # times what a picture so far takes lie between two of them
SHOWN_PAUSE_S = 0.5
FINISH = 1.25  # times what a picture so far takes, by pixels: cleaning, grading, writing
FINISH_S = 0.1
LAYER_RAY = 1.65  # passes that one ray of all layers takes
RECENT = 12


def preview_share(width: int, height: int) -> float:
    """How much smaller than a picture of this size its pictures so far are, 0..1 along a side."""
    return min(1.0, PREVIEW_PX / max(width, height))


@dataclass
class Pace:
    """What was measured of a still here, in s: each pass of a tile by itself (`passes`), each
    picture so far (`shows`), and the sky of each part (`skies`).
    """

    passes: list[float] = field(default_factory=list)
    shows: list[float] = field(default_factory=list)
    skies: list[float] = field(default_factory=list)

    def shows_now(self, since_s: float) -> bool:
        """Whether a picture so far is worth its time, `since_s` after the one before."""
        return not self.shows or since_s > SHOWN_EVERY * self.shows[-1] + SHOWN_PAUSE_S

    def left(
        self, todo: int, sizes: list[tuple[int, int]], skies_to_come: int, layer_passes: int
    ) -> float | None:
        """Seconds left of `todo` passes of tiles, the pictures so far between them, the skies of
        parts that are not begun, and the files of parts with these `sizes`; `layer_passes` are the
        passes of tiles that all layers are worth by their rays. None before the first pass.
        """
        if not self.passes:
            return None
        last = self.passes[-RECENT:]
        each = float(np.median(last) + np.mean(last)) / 2
        show = float(np.mean(self.shows[-3:])) if self.shows else SHOWN_PART * each
        following = todo * each
        between = SHOWN_EVERY * show + SHOWN_PAUSE_S + each / 2
        shows = following / between + (not self.shows)
        larger = sum(preview_share(*size) ** -2 for size in sizes)
        finish = FINISH_S + FINISH * show * larger + LAYER_RAY * each * layer_passes
        sky = float(np.mean(self.skies)) if self.skies else 0.0
        return following + shows * show + skies_to_come * sky + finish


def frames_left(done: list[float], workers: int, todo: int) -> float:
    """Seconds left of `todo` frames, from the times (s from their beginning) at which the ones
    before were done. The first frame of each worker holds the setting up of its stage, so it counts
    only as long as there is no other. Workers end at about the same time: whole rounds are counted.
    """
    rounds = min(len(done) - 1, max(RECENT, workers)) // workers
    if rounds:
        back = rounds * workers
        each = (done[-1] - done[-1 - back]) / back
    else:
        each = done[-1] / len(done)
    return each * todo
