"""Sheet 3, Fit: what goes together and how, distances, walls, and surfaces moved for a clearance."""
