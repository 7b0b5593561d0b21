"""Drawings: a body in three views on paper, and outlines laid over each other."""
