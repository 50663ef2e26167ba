"""Tests of the engine's steps."""
