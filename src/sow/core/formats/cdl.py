"""A shot's grade as a colour decision list (ASC CDL 1.2): slope, offset and power of each channel,
and a saturation.
"""

from dataclasses import dataclass
from xml.sax.saxutils import escape

import numpy as np
from scipy.optimize import least_squares

from ..picture.film import coded
from ..picture.grade.base import Graded, GradedFrame, bright, steps

STOPS = np.linspace(-5, 4, 10)
HUES = np.array([[1, 1, 1], [1.25, 0.95, 0.8], [0.85, 1.1, 0.9], [0.8, 0.95, 1.3], [1.1, 1.1, 0.7]])
GREY = 0.18


@dataclass(frozen=True)
class Decisions:
    """Slope, offset and power (3 each) and saturation; `off` is the mean difference from the grade
    itself, in parts of the range of ACEScct.
    """

    slope: np.ndarray
    offset: np.ndarray
    power: np.ndarray
    saturation: float
    off: float


def decided(values: np.ndarray, numbers: np.ndarray) -> np.ndarray:
    """Coded colours (n, 3) by slope, offset, power (3 each) and saturation, in that order."""
    slope, offset, power, full = numbers[:3], numbers[3:6], numbers[6:9], numbers[9]
    out = np.maximum(values * slope + offset, 1e-6) ** power
    grey = bright(out)
    return grey + (out - grey) * full


def decisions_of(grade: list[Graded], exposure: float = 0.0) -> Decisions:
    """The decisions, taken on ACEScct, that come nearest to the steps of a grade which act on light
    pixel by pixel, and an exposure in stops: by least squares over greys and soft hues.
    """
    light = (GREY * 2.0 ** STOPS[:, None, None] * HUES[None]).reshape(1, -1, 3)
    own = light.astype(np.float32) * np.float32(2.0**exposure)
    for step in grade:
        if step.acts_on == "light" and not step.spreads:
            own = steps.functions[step.kind](step, own, GradedFrame(1, 1))
    before, after = coded(light)[0].astype(float), coded(own)[0].astype(float)
    first = np.array([1.0] * 3 + [0.0] * 3 + [1.0] * 4)
    low = np.array([0.05] * 3 + [-1.0] * 3 + [0.2] * 3 + [0.0])
    high = np.array([6.0] * 3 + [1.0] * 3 + [5.0] * 3 + [4.0])
    found = least_squares(
        lambda x: (decided(before, x) - after).ravel(), first, bounds=(low, high)
    ).x
    off = float(np.abs(decided(before, found) - after).mean())
    return Decisions(found[:3], found[3:6], found[6:9], float(found[9]), off)


def cdl_text(grade: list[Graded], exposure: float, title: str) -> str:
    """The decisions of a grade as a ColorDecisionList (.cdl), to be taken on ACEScct."""
    d = decisions_of(grade, exposure)
    told = lambda values: " ".join(f"{v:.6f}" for v in values)
    left_out = [s.name for s in grade if s.acts_on != "light" or s.spreads]
    notes = [f"Taken on ACEScct; off by {d.off:.4f} of its range in the mean."]
    if left_out:
        notes.append(f"Left out, since no such list can hold them: {', '.join(left_out)}.")
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        '<ColorDecisionList xmlns="urn:ASC:CDL:v1.2">\n'
        "  <InputDescription>ACEScct</InputDescription>\n"
        "  <ColorDecision>\n"
        '    <ColorCorrection id="grade">\n'
        f"      <Description>{escape(title)}</Description>\n"
        + "".join(f"      <Description>{escape(n)}</Description>\n" for n in notes)
        + "      <SOPNode>\n"
        f"        <Slope>{told(d.slope)}</Slope>\n"
        f"        <Offset>{told(d.offset)}</Offset>\n"
        f"        <Power>{told(d.power)}</Power>\n"
        "      </SOPNode>\n"
        "      <SatNode>\n"
        f"        <Saturation>{d.saturation:.6f}</Saturation>\n"
        "      </SatNode>\n"
        "    </ColorCorrection>\n"
        "  </ColorDecision>\n"
        "</ColorDecisionList>\n"
    )
