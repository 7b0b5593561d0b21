"""Walls: how thick the material is, over the whole surface of a body."""
