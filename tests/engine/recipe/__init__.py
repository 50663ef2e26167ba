"""Tests of the engine's recipe."""
