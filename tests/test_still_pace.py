"""Seconds left of stills and clips, told along made-up runs whose every second is known."""

import random
import unittest

from sow.core.picture.pace import Pace, frames_left

TIER = "fast"

SIZE = (1920, 1080)
LARGER = 4.0  # pixels of that size beside those of its picture so far


def _run(passes: int, each_s: float, show_s: float, sky_s: float, parts: int, uneven: float = 0.0):
    """What is told after each pass of a still, with what is left then."""
    rng = random.Random(8)
    pace, now, told = Pace(), 0.0, []
    for part in range(parts):
        pace.skies.append(sky_s)
        now += sky_s if part else 0.0  # the first is there before anything is told
        shown = now
        for k in range(passes):
            took = each_s * (1 + uneven * rng.uniform(-1, 1))
            now += took
            pace.passes.append(took)
            todo = passes * (parts - part) - k - 1
            told.append((now, pace.left(todo, [SIZE] * parts, parts - part - 1, 0)))
            if k < passes - 1 and (k == 0 or pace.shows_now(now - shown)):
                now += show_s
                shown = now
                pace.shows.append(show_s)
    end = now + 1.25 * show_s * LARGER * parts
    return [(left, end - at) for at, left in told]


class SecondsLeft(unittest.TestCase):
    def test_it_is_told_within_a_quarter_from_the_first_pass_on(self):
        runs = {
            "look": _run(8, 3.3, 1.5, 0.0, 1),
            "good": _run(32, 0.8, 0.4, 0.0, 1, uneven=0.3),
            "fine": _run(128, 0.8, 0.4, 0.0, 1, uneven=0.3),
            "a cube": _run(8, 3.0, 1.2, 9.0, 6, uneven=0.2),
        }
        for name, told in runs.items():
            for number, (left, comes) in enumerate(told):
                self.assertLess(abs(left - comes) / max(comes, 1), 0.25, f"{name}, {number}")

    def test_nothing_is_told_before_a_pass(self):
        self.assertIsNone(Pace().left(8, [SIZE], 0, 0))

    def test_all_layers_take_their_time(self):
        pace = Pace(passes=[2.0] * 4, shows=[0.5])
        more = pace.left(4, [SIZE], 0, 4) - pace.left(4, [SIZE], 0, 0)
        self.assertAlmostEqual(more, 4 * 2.0 * 1.65)

    def test_a_machine_that_slows_down_is_followed(self):
        pace = Pace(passes=[1.0] * 40 + [3.0] * 12, shows=[0.1])
        self.assertGreater(pace.left(20, [(480, 270)], 0, 0), 20 * 2.9)

    def test_the_first_frames_of_workers_hold_their_stages(self):
        stage, each = 20.0, 4.0
        for workers in (1, 2, 3):
            ends = [stage + each * (1 + k // workers) for k in range(24)]
            for made in range(workers + 1, 25):
                left = frames_left(ends[:made], workers, 24 - made)
                comes = ends[-1] - ends[made - 1]
                self.assertLess(abs(left - comes), each + 0.25 * comes, f"{workers}, {made}")
        self.assertEqual(frames_left([24.0], 1, 3), 72.0)


if __name__ == "__main__":
    unittest.main()
