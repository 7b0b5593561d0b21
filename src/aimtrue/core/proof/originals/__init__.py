"""The second readers of originals: from the bytes of a source to triangles, in numbers of its file."""
