"""Things that heed those near them, as birds, fish and midges do.

Three wishes of each, after Reynolds, "Flocks, herds, and schools: a distributed behavioral model", SIGGRAPH
1987: to be in the middle of those near it, to go as they go, and not to come too near any.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands

Numbers = NDArray[np.float64]

_MOST_IN_A_ROW = 48
"""Of those in three cells side by side so many are looked at, evenly chosen; they stand for the others."""

_TOO_NEAR = 0.5
"""The part of the distance at which things are near each other within which they are too near."""

_BAND = 1024


class Heeds(NamedTuple):
    """How things heed those within `near` px of them: `together` draws each to their middle, in px/s² where
    that is so far away; `alike` brings its speed to theirs, a second; `apart` drives two from each other, in px/s² where they
    meet, to nothing at half of `near`."""

    near: float
    together: float
    alike: float
    apart: float


def heeded(places: Numbers, speeds: Numbers, how: Heeds) -> Numbers:
    """How strongly each of some things `(N, 2)` is driven by those near it, in px/s² `(N, 2)`."""
    found = np.zeros_like(places)
    if len(places) < 2:
        return found
    cells = np.floor((places - places.min(axis=0)) / how.near).astype(np.int64)
    # No two rows of cells touch, so that what is beside the last of one is not the first of the next.
    wide = int(cells[:, 0].max()) + 3
    keys = cells[:, 1] * wide + cells[:, 0] + 1
    order = np.argsort(keys, kind="stable")
    in_bands(
        _heed_some, len(places), places, speeds, keys, keys[order], order, wide, how, found,
        band=_BAND,
    )  # fmt: skip
    return found


@compiled
def _heed_some(
    first: int,
    last: int,
    places: Numbers,
    speeds: Numbers,
    keys: NDArray[np.int64],
    sorted_keys: NDArray[np.int64],
    order: NDArray[np.int64],
    wide: int,
    how: Heeds,
    found: Numbers,
) -> None:
    too_near = _TOO_NEAR * how.near
    for n in range(first, last):
        x, y = places[n, 0], places[n, 1]
        count, mx, my, mvx, mvy, ax, ay = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
        for down in range(-1, 2):
            key = keys[n] + down * wide
            begin = np.searchsorted(sorted_keys, key - 1)
            end = np.searchsorted(sorted_keys, key + 1, side="right")
            by = max(1, (end - begin + _MOST_IN_A_ROW - 1) // _MOST_IN_A_ROW)
            for i in range(begin, end, by):
                other = order[i]
                dx, dy = x - places[other, 0], y - places[other, 1]
                far = math.sqrt(dx * dx + dy * dy)
                if other == n or far >= how.near:
                    continue
                count += by
                mx -= by * dx
                my -= by * dy
                mvx += by * speeds[other, 0]
                mvy += by * speeds[other, 1]
                if 0.0 < far < too_near:
                    strong = by * (1.0 - far / too_near) / far
                    ax += strong * dx
                    ay += strong * dy
        if count > 0.0:
            found[n, 0] = (
                how.together * mx / count / how.near
                + how.alike * (mvx / count - speeds[n, 0])
                + how.apart * ax
            )
            found[n, 1] = (
                how.together * my / count / how.near
                + how.alike * (mvy / count - speeds[n, 1])
                + how.apart * ay
            )
