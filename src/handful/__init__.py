"""Handful: procedural effect elements, made by hand and eye."""
