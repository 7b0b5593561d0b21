"""Clearances: which ones are wanted, by intent, by a band or by ISO 286, and what a machine makes of them."""
