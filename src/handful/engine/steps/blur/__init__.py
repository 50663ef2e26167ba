"""Steps that spread light over px."""
