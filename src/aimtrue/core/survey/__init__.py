"""Everything the screens show of a job, worked out from it."""
