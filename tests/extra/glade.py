"""Where: inside an area, which its field calls `glade`; and two bands of how far east a place lies,
one registered with the measure that it goes by, one without.
"""

from typing import Literal

import numpy as np
from pydantic import Field

from sow.core.document.fields import setting, shown
from sow.core.where.base import Band, Condition, condition
from sow.core.where.site import Site


class Glade(Condition):
    kind: Literal["toy-glade"] = "toy-glade"
    glade: str = Field("", max_length=64, title="Glade", json_schema_extra=shown(mark="area"))


class East(Band):
    kind: Literal["toy-east-band"] = "toy-east-band"
    low: float = setting(0, "From", "m")
    high: float = setting(100, "To", "m")


class Unmeasured(East):
    kind: Literal["toy-unmeasured"] = "toy-unmeasured"  # type: ignore[assignment]


@condition(Glade, label="toy glade")
def inside(p: Glade, site: Site, path: str) -> np.ndarray:
    """1 within the area."""
    return (site.inside(p.glade, 5, f"{path}.glade") > 0).astype(np.float32)


def _east(p: East, site: Site, path: str) -> np.ndarray:
    return np.broadcast_to(site.grid.xs().astype(np.float32), site.heights.shape)


@condition(East, label="toy east", measures=_east)
def between(p: East, site: Site, path: str) -> np.ndarray:
    """1 between two distances from the plot's western edge."""
    return p.band(_east(p, site, path), p.low, p.high, 1)


@condition(Unmeasured, label="toy unmeasured")
def between_too(p: Unmeasured, site: Site, path: str) -> np.ndarray:
    """The same, registered without its measure."""
    return p.band(_east(p, site, path), p.low, p.high, 1)
