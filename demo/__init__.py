"""Larch Hill: the made-up star-watchers whose parts are every example here."""
