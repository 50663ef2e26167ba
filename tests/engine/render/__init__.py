"""Tests of the engine's render."""
