"""Journeys drawn at random: an oracle, the two doors they go through, and the walk itself."""
