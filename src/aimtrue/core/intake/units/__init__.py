"""The unit of a file: the evidence, what it is weighed to, and how it is settled."""
