"""Shots and their recipes, with every saved revision."""
