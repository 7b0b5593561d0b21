"""Background tasks: what takes longer than a moment, or reads what a stranger made."""
