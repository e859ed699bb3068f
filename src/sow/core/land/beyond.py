"""The land beyond the plot, on coarse grids, so that nowhere is the end of the world in sight."""

from typing import Literal

from pydantic import Field

from ..document.entry import Strict
from ..document.fields import bearing, length_m, percent, place_m, setting, shown

FAR = {"edge": ["run on", "rise"]}


class FarEdge(Strict):
    """How the land goes on.

    Its own landforms, if it has any, stand in the scene's list `beyond.land`, its own materials in
    `beyond.ground`.
    """

    edge: Literal["run on", "rise", "fade", "end"] = Field(
        "run on",
        title="Beyond the plot",
        json_schema_extra={
            "sow": {
                "labels": {"run on": "runs on", "rise": "rises", "fade": "fades", "end": "ends"}
            }
        },
    )
    join_m: float = length_m(
        "Joined over",
        500,
        lo=1,
        hi=50000,
        slider=(10, 5000),
        only={"edge": ["run on", "rise", "fade"]},
        help="Over this length the plot's edge gives way to the far land.",
    )
    rise_m: float = setting(
        60,
        "Rim",
        "m",
        lo=-5000,
        hi=5000,
        slider=(-200, 500),
        only={"edge": ["rise"]},
        help="A rim around the plot that hides what lies behind it.",
    )
    level_m: float = setting(
        0,
        "To level",
        "m",
        lo=-12000,
        hi=12000,
        slider=("lowest", "highest"),
        only={"edge": ["fade"]},
    )
    posts: int = setting(
        193,
        "Grid of far land",
        "posts",
        lo=97,
        hi=1537,
        slider=(97, 769),
        scale="log",
        step=1,
        only={"edge": ["run on", "rise", "fade"]},
        help="Along each of its two rings; twice as many take four times as long and as much room.",
    )
    planted: bool = Field(
        True,
        title="Woods run on",
        description="What is sown by rules and stands tall goes on beyond the plot.",
        json_schema_extra=shown(only={"edge": ["run on", "rise", "fade"]}),
    )
    reach_km: float = setting(
        0,
        "Reaches",
        "km",
        lo=0,
        hi=300,
        slider=(0, 60),
        only={"edge": ["run on", "rise", "fade"]},
        help="From the plot's middle; 0 is 12 km, or three lengths of a larger plot.",
    )
    east_m: float = place_m(
        "Far land east by", 0, slider=(-20000, 20000), only=FAR, fold="Far land as a whole"
    )
    north_m: float = place_m(
        "Far land north by", 0, slider=(-20000, 20000), only=FAR, fold="Far land as a whole"
    )
    turn: float = bearing("Turn", 0, only=FAR, fold="Far land as a whole")
    size: float = percent(
        "Size",
        100,
        lo=5,
        hi=2000,
        slider=(25, 400),
        scale="log",
        only=FAR,
        fold="Far land as a whole",
    )
    lift_m: float = setting(
        0,
        "Lift",
        "m",
        lo=-12000,
        hi=12000,
        slider=(-1000, 1000),
        only=FAR,
        fold="Far land as a whole",
    )
