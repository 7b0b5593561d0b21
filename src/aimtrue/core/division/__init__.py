"""Sheet 4: bodies cut to fit, split, hollowed, joined; always in mm of the corrected body."""
