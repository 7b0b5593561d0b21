"""Parts: what was typed becomes a part with a name, dimensions, and shapes that tell how its solids are
built.
"""
