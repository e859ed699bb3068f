"""Kinds of things in the air, one file each."""
