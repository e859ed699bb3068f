"""Work by hand: strokes of brushes on the land."""
