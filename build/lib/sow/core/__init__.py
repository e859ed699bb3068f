"""The core: a scene document in, products out. It knows of no database, server or page.

Conventions: metres, x east, y north, z up; grids are float32 arrays of posts,
row 0 at the north edge, column 0 at the west; masks are 0..1 with 1 = present.
"""

import numba

# the default layer aborts when two threads enter it
numba.config.THREADING_LAYER = "omp"  # type: ignore[attr-defined]
