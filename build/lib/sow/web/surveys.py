"""Sheets of the survey, differences of two documents and masks, as answers for the page."""

import hashlib
from dataclasses import replace

import numpy as np

from ..core.build import COMPUTING
from ..core.cache import key_of
from ..core.errors import SceneError
from ..core.parts import differences
from ..core.scene import Scene
from ..core.survey.sheets import sheets
from .shapes.builds import GridShape
from .shapes.history import PartDifference
from .shapes.marks import MaskPicture
from .shapes.surveys import CompareAnswer, SurveyAnswer, SurveyOrder
from .working import WORK, draw_up, product_key, raw_bytes


def survey_sheet(document: Scene, order: SurveyOrder) -> SurveyAnswer:
    """One sheet of the survey as raw float32, with its histogram between the 1st and the 99th per
    cent.
    """
    build = draw_up(document, order.grid == "draft")
    if order.kind == "shows":
        entry = next((e for e in document.land if e.id == order.entry), None)
        label = f"Where {entry.name if entry else 'it'} shows"
        unit = ""
        log = False
        help = "1 where this land shows, 0 where other land hides it."
        key = key_of("shows", build.land_keys(), order.entry)
        make = lambda: build.cover(order.entry)
    elif order.kind in sheets:
        found = sheets[order.kind]
        label = found.label
        unit = found.unit
        log = found.log
        help = found.help
        asked = {"latitude": order.latitude, "day": order.day} if order.kind == "sunlit" else {}
        key = key_of("sheet", order.kind, asked, build.water_key)
        make = lambda: build.site().sheet(order.kind, **asked)
    else:
        raise SceneError(
            f"There is no survey sheet '{order.kind}'.", "kind", f"There are: {', '.join(sheets)}."
        )

    def work():
        with COMPUTING:
            field = make()
        low, high = (float(v) for v in np.percentile(field, (1, 99)))
        high = high if high > low else low + 1e-6
        return field, low, high

    field, low, high = WORK.once(key_of("survey", key), work)
    measured = np.clip(field, low, high)
    bins = (
        np.histogram(np.log10(np.maximum(measured, max(low, 1e-4))) if log else measured, 64)[0]
        / field.size
    )
    return SurveyAnswer(
        key=product_key(key_of("survey bytes", key), lambda: raw_bytes(field.astype("<f4"))),
        label=label,
        unit=unit,
        log=log,
        help=help,
        grid=GridShape(nx=build.grid.nx, ny=build.grid.ny, spacing=build.grid.spacing),
        low=low,
        high=high,
        lowest=float(field.min()),
        highest=float(field.max()),
        mean=float(field.mean(dtype=np.float64)),
        bins=bins.tolist(),
    )


def compared(a: Scene, b: Scene) -> CompareAnswer:
    """What differs between two documents; heights on the view grid of the second."""
    builds = [draw_up(a), draw_up(b)]
    answer = None
    raised = 0.0
    lowered = 0.0
    if (a.plot.width_m, a.plot.depth_m) == (b.plot.width_m, b.plot.depth_m):
        builds[0] = replace(builds[0], grid=builds[1].grid)
        with COMPUTING:
            field = builds[1].heights - builds[0].heights
        most = float(np.abs(field).max()) or 1e-6
        area = builds[1].grid.spacing ** 2
        raised = float(np.maximum(field, 0).sum(dtype=np.float64)) * area
        lowered = float(np.maximum(-field, 0).sum(dtype=np.float64)) * area
        key = key_of("difference", builds[0].land_key, builds[1].land_key)
        answer = SurveyAnswer(
            key=product_key(key, lambda: raw_bytes(field.astype("<f4"))),
            label="Difference of heights",
            unit="m",
            log=False,
            help="Pale was lowered, dark was raised.",
            grid=GridShape(
                nx=builds[1].grid.nx, ny=builds[1].grid.ny, spacing=builds[1].grid.spacing
            ),
            low=-most,
            high=most,
            lowest=float(field.min()),
            highest=float(field.max()),
            mean=float(field.mean(dtype=np.float64)),
            bins=(np.histogram(field, 64, (-most, most))[0] / field.size).tolist(),
        )
    return CompareAnswer(
        differences=[PartDifference(**d) for d in differences(a, b)],
        heights=answer,
        raised_m3=raised,
        lowered_m3=lowered,
        plants=[round(sum(x.forecasts())) for x in builds],
    )


def mask_answer(document: Scene, mark: str) -> MaskPicture:
    """A mask of the marks on the view grid, as conditions see it."""
    build = draw_up(document)
    with COMPUTING:
        values = build.marks.mask_answer(mark, build.grid)
    data = np.rint(values * 255).astype(np.uint8)
    key = key_of("mask picture", hashlib.sha256(data.tobytes()).hexdigest())
    return MaskPicture(
        key=product_key(key, lambda: raw_bytes(data)),
        grid=GridShape(nx=build.grid.nx, ny=build.grid.ny, spacing=build.grid.spacing),
        share=float(values.mean(dtype=np.float64)),
    )
