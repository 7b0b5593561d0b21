"""Sheet 5, Seating: how bodies stand on a plate."""
