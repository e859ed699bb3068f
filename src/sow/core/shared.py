"""Numbers and packings that the core and the page both know.

They are written as `web/src/api/numbers.ts` when the page is built; its code and shaders take them
from there. A name in capitals here is a name there.
"""

PLANT_FLOATS = 9  # of a plant on its way to the page; the last is its kind and variant in one
WATER_INDEX = 1.333  # of refraction
MOST_WAKES = 4  # of one water
RUN_UP_LEAST_M = 0.02  # how high the smallest wave wets a shore
RUN_UP = 0.9  # height of run-up over that of the waves
SWASH_DRAINS_S = 4.0  # in which sand loses its shine
SWASH_RISES = 0.3  # of a period, from the crest at the still shore to the top of its run
VARIANTS = (
    64  # kind * VARIANTS + variant; no kind has more, and both together stay exact in a float
)
