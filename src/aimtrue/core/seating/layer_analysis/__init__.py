"""This package says what printing in layers makes of a seat: layers, overhangs, undersides in midair, thin
features.
"""
