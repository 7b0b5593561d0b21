"""Simulated stand-ins for devices that cannot be there; every one says that it is simulated."""
