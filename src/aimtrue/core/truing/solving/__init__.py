"""Readings solved together: the factors that meet them, and what is in the way where none do."""
