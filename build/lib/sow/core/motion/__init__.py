"""Moving pictures: what a scene is like at a moment. One file in `moves` adds one kind of move."""
