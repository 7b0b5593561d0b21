"""Sheet 1, Intake: files, their unit, their health."""
