"""Surface maps: a number at each place of a surface, drawn on it as hatch and contour lines."""
