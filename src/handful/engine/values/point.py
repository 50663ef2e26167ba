"""A place on the canvas."""

from __future__ import annotations

from typing import NamedTuple

FARTHEST = 100_000.0
"""px; no point that is written lies farther from the canvas corner."""


class Point(NamedTuple):
    """px of the full-size canvas, origin top left, y down."""

    x: float
    y: float
