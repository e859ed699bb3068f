"""Light and air."""
