"""Particles: how they are born, how they fly, how they look, and the source that is all of it."""
