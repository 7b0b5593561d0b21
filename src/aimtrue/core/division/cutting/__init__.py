"""Cutting bodies: planes, halves of a mesh, pieces, splits, hollows, and what closes them again."""
