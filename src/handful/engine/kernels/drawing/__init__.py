"""Shapes of light put onto px."""
