"""Tests of the engine's files."""
