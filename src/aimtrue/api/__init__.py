"""The web interface's server. It carries and shows; nothing is decided here."""
