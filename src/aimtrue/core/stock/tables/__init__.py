"""Dimensions of standards: each table names its standard and edition, and has a row a size, in mm.

What a row leaves out the standard does not have, or not at that size.
"""
