"""Steps that change cover."""
