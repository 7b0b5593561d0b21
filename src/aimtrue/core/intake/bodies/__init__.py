"""Bodies: which triangles of a file belong together, and which bodies are alike."""
