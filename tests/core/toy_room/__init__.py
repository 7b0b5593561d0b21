"""A room of its own folder, as a new sheet would bring it: it puts a label on bodies."""
