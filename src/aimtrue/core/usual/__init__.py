"""Usual settings: what a workshop settles for most of its jobs, under a name, taken into a job at once.

``settings`` is the value and how a job gives one, ``handlers`` takes one into a job by the actions of the
rooms that own its parts. The store keeps sets between jobs (``store/usual.py``).
"""
