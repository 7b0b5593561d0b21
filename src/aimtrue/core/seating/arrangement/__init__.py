"""Room for many: seats arranged on as few plates as possible."""
