"""Released bodies, each held against its original and against what was decided of it."""
