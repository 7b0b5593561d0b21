"""This package says how a seat lies: its turns, the ways to stand that a body has, what lies flat, and what
must show.
"""
