"""Steps that look at other moments."""
