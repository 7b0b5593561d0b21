"""This package says what a job is: sources, bodies, decisions, readings, lengths, materials, machines,
versions.
"""
