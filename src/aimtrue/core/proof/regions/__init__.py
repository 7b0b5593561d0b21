"""This package says what a body that was made of others is to be: a region of space, stated anew from what
was decided.

Source: docs/rooms/division.md. A region tells of points whether they are in it, and how far they
are from the nearest place where it may end. Everything is in mm of the corrected body, Z up.
"""
