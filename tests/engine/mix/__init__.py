"""Tests of the engine's mix."""
