"""Steps that add light."""
