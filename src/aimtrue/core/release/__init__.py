"""Sheet 6, Release: files written, read back, compared, and only then handed over."""
