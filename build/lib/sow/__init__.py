"""Sow: make a natural scene, from the land to the picture."""
