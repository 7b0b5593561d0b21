"""This package says what geometry is: meshes, how they hang together, features on them, solids, bytes to
keep.
"""
