"""Pairs: two places that are to go together, found on the flat and round faces of bodies."""
