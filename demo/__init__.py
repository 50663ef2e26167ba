"""Saltglass, the demo: its recipes and the stand-in for a camera that draws its plates."""
