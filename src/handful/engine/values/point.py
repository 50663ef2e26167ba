"""A place on the canvas."""

from __future__ import annotations

from typing import NamedTuple


class Point(NamedTuple):
    """px of the full-size canvas, origin top left, y down."""

    x: float
    y: float
