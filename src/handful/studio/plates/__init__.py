"""Plates: the footage that elements are made for."""
