"""Inspection: measured parts, held against gauges and pairs, and what they tell of the machine."""
