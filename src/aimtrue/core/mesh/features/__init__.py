"""Features of a mesh: flat faces and round edges, as a draughtsman would dimension them."""
