"""Gauges: places where a length is defined; made, measured, found again on another mesh."""
