"""Sowings: where each plant and stone stands, and how."""
