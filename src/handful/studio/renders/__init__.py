"""Renders: a copy of a recipe, worked off frame by frame by a process of its own."""
