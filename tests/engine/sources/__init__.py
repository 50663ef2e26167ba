"""Tests of the engine's sources."""
