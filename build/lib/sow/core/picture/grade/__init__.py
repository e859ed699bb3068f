"""Grading: what is done to a shot's picture, step by step. One file in `steps` adds one kind."""
