"""The size chain: from the number in a file to the millimetres that are released."""
