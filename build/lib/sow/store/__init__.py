"""The store: every revision of every scene, and every raster, in PostgreSQL. It computes
nothing.
"""
