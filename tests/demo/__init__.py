"""The demo: its plates and its recipes."""
