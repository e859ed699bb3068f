"""Kinds of moves, one file each."""
