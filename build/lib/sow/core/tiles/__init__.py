"""Land larger than a machine: grown by tiles, each from its own neighbourhood and from what was
found of the whole plot on a coarse grid.
"""
