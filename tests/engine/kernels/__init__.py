"""Tests of the engine's kernels."""
