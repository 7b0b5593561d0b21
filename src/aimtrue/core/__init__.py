"""Rules and computation: no web, no database, no clock, no files of its own."""
