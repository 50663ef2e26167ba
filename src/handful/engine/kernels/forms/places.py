"""Where the px of a changed picture come from: maps `(H, W, 2)` for `resampled`."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Region

Places = NDArray[np.float32]
Matrix = NDArray[np.float64]
"""`(3, 3)`, for homogeneous coordinates x, y, 1 in px."""


def places_by(matrix: Matrix, region: Region) -> Places:
    """For each px of a region, its place under a projective map; not a number behind the eye."""
    places = np.empty((region.height, region.width, 2), np.float32)
    in_bands(_project_rows, region.height, matrix, region.left, region.top, places)
    return places


def moved_bounds(region: Region, matrix: Matrix) -> Region:
    """A region of whole px around where an affine map puts a region's corners."""
    corners = np.array([(x, y, 1.0) for x in region[0::2] for y in region[1::2]])
    x, y, _ = matrix @ corners.T
    return Region(
        math.floor(_held(x.min())), math.floor(_held(y.min())),
        math.ceil(_held(x.max())), math.ceil(_held(y.max())),
    )  # fmt: skip


def _held(place: float) -> float:
    return min(1e6, max(-1e6, place))


def shifted(x: float, y: float) -> Matrix:
    """Moves by x, y."""
    return np.array([[1.0, 0.0, x], [0.0, 1.0, y], [0.0, 0.0, 1.0]])


def undone(matrix: Matrix) -> Matrix:
    """The map back. Raises `numpy.linalg.LinAlgError` if there is none."""
    inverse: Matrix = np.linalg.inv(matrix).astype(np.float64, copy=False)
    return inverse


def sized(x: float, y: float) -> Matrix:
    """Multiplies by x across and y down."""
    return np.diag([x, y, 1.0])


def turned(degrees: float) -> Matrix:
    """Turns clockwise, as y goes down."""
    cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return np.array([[cos, -sin, 0.0], [sin, cos, 0.0], [0.0, 0.0, 1.0]])


@compiled
def _project_rows(first: int, last: int, m: Matrix, left: int, top: int, places: Places) -> None:
    for y in range(first, last):
        down = y + top + 0.5
        for x in range(places.shape[1]):
            across = x + left + 0.5
            depth = m[2, 0] * across + m[2, 1] * down + m[2, 2]
            if depth <= 1e-9:
                places[y, x, 0], places[y, x, 1] = np.float32(np.nan), np.float32(np.nan)
                continue
            places[y, x, 0] = (m[0, 0] * across + m[0, 1] * down + m[0, 2]) / depth
            places[y, x, 1] = (m[1, 0] * across + m[1, 1] * down + m[1, 2]) / depth
