"""Sections of bodies and of drawings: outlines, with arcs where the body is still exact CAD."""
