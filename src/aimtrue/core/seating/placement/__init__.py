"""This package says where a seat is: its place on a plate, its footprint, its room in the machine, what it
collides with.
"""
