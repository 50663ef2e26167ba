"""Measurements of speed, each beside a reference in the same run."""
