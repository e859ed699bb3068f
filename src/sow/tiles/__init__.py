"""Lands larger than a machine, grown tile by tile by a pool."""
