"""Walls in a flow, and how fast they go."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Field = NDArray[np.float32]
Sides = tuple[Field, Field]

_SOFT = 2.0
"""Cells over which the edge of a cover is blurred, to be found between cells; what goes about three times as far in
the time between two pictures pushes no harder."""


def shut(across: Field, down: Field, cover: Field) -> None:
    """Shut the sides `(H, W + 1)` and `(H + 1, W)` of all cells that are covered by more than half."""
    wall = cover > 0.5
    across[:, :-1][wall] = across[:, 1:][wall] = 0
    down[:-1][wall] = down[1:][wall] = 0


def wall_flow(cover: Field, later: Field, seconds: float) -> Sides:
    """How fast the sides of walls go, in cells a second, `(H, W + 1)` and `(H + 1, W)`, from what they cover
    `(H, W)` and cover so many seconds later: an edge goes along its normal as its distance from a place changes
    (level sets: Osher and Sethian 1988). Along their edges walls slip."""
    now, then = _distance(cover), _distance(later)
    faster = (now - then) / np.float32(seconds)
    slope_down, slope_across = np.gradient(now)
    steep = np.maximum(np.hypot(slope_across, slope_down), 1e-6)
    moved = np.abs(now - then) > 1e-3
    x, y = (np.where(moved, faster * slope / steep, 0) for slope in (slope_across, slope_down))
    across = np.zeros((cover.shape[0], cover.shape[1] + 1), np.float32)
    down = np.zeros((cover.shape[0] + 1, cover.shape[1]), np.float32)
    across[:, 1:-1] = (x[:, 1:] + x[:, :-1]) / 2
    down[1:-1] = (y[1:] + y[:-1]) / 2
    return across, down


def _distance(cover: Field) -> Field:
    """How far cells are from the edge of a cover, in cells, outside above nothing, as far as its blur tells: its
    profile is about that of a logistic curve."""
    soft = np.clip(
        cv2.GaussianBlur(cover, (0, 0), _SOFT, borderType=cv2.BORDER_REPLICATE), 1e-4, 1 - 1e-4
    )
    found: Field = (np.log((1 - soft) / soft) * (_SOFT / 1.702)).astype(np.float32)
    return found
