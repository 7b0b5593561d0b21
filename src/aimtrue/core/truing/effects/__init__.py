"""What a correction changes besides sizes: bolt holes, walls, gaps between bodies that work together."""
