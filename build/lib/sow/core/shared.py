"""Numbers and packings that the core and the page both know.

`python -m sow.web.describe numbers` writes them as `web/src/api/numbers.ts`, from where the page's
code and shaders take them. A name in capitals here is a name there.
"""

PLANT_FLOATS = 9  # of a plant on its way to the page; the last is its kind and variant in one
VARIANTS = (
    64  # kind * VARIANTS + variant; no kind has more, and both together stay exact in a float
)
