"""Marks: lines and areas, drawn once and used by land, ground and planting alike."""
