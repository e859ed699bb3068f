"""Numbers and packings that the core and the page both know.

They are written as `web/src/api/numbers.ts` when the page is built; its code and shaders take them
from there. A name in capitals here is a name there.
"""

PLANT_FLOATS = 9  # of a plant on its way to the page; the last is its kind and variant in one
VARIANTS = (
    64  # kind * VARIANTS + variant; no kind has more, and both together stay exact in a float
)
