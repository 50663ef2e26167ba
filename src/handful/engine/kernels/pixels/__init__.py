"""Loops over the px of pictures and mattes."""
