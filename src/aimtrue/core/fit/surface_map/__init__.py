"""What Fit draws on surfaces: how thick walls are, and how far bodies are from each other."""
