"""Watching the program: whether it is ready, what it counts, and a line for each request."""
