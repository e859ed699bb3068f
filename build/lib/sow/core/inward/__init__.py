"""Scenes read from files of other forms: what Sow handed over, and what others made."""
