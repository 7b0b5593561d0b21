"""The command line: up, check, bench, inspect, release."""
