"""Tests of the engine's values."""
