"""Working by hand on a finished build: strokes under way, strokes done, whole masks."""
