"""Starters: ready recipes that ship with the program, to begin a shot from."""
