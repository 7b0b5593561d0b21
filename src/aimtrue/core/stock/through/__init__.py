"""Whether a bolt goes through: the bores on its axis, the room around it, and its length."""
