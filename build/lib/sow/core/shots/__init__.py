"""Viewpoints and their lenses."""
