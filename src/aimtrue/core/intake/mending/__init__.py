"""Remedies: what can be done about findings, and what each of them changed."""
