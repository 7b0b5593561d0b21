"""Aim True: a mesh that leaves it is provably the right size."""

__version__ = "0.1.0"
