"""Shapes before they are drawn: curves, channels, figures, ways, places."""
