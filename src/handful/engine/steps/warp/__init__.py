"""Steps that bend the picture."""
