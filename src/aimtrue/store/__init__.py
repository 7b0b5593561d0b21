"""Jobs, their revisions, files and releases in PostgreSQL."""
