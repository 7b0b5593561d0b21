"""Tool paths: the regions of each layer, what fills them, and in which order they are gone along."""
