"""Steps that put the picture elsewhere."""
