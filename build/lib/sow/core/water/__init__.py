"""Water over the land."""
