"""Places taken from a picture: from all that it covers, from its edge, or by how bright it is."""

from __future__ import annotations

from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.picture import Tile

Numbers = NDArray[np.float64]

Sowing = Literal["cover", "edge", "light"]

_LEAST = 1 / 256
"""Of the strongest px: what is weaker counts for nothing."""

_MOST_TO_ONE = 64.0
"""Light counts up to so many times what white has."""

_LOOKS_ROUND = 2.0
"""px, as a deviation, over which it is seen which way is outwards."""


class Sown(NamedTuple):
    """Places `(M, 2)` in px of the full-size canvas, each the corner of a square of a `side`; how much
    counts up to and with each, from above 0 to 1; the angles at which it goes outwards; and the colour there,
    in light that its cover does not thin `(M, 3)`."""

    places: NDArray[np.float32]
    upto: Numbers
    outward: NDArray[np.float32]
    colours: NDArray[np.float32]
    side: float

    def at(self, one: Numbers, other: Numbers) -> tuple[Numbers, Numbers, NDArray[np.float32]]:
        """Places `(N, 2)`, outward angles `(N,)` and colours `(N, 3)` for two even shares of each."""
        found = np.minimum(np.searchsorted(self.upto, one, side="right"), len(self.upto) - 1)
        before = np.where(found > 0, self.upto[found - 1], 0.0)
        across = (one - before) / np.maximum(self.upto[found] - before, 1e-300)
        within = np.stack([np.clip(across, 0, 1), other], axis=1) * self.side
        outward = self.outward[found].astype(np.float64)
        return self.places[found] + within, outward, self.colours[found]


def sow(tile: Tile, scale: float, by: Sowing) -> Sown:
    """What a picture at a scale lets be sown: evenly by area, along its edge, or by its light."""
    region, picture = tile.region, tile.pixels
    cover = np.ascontiguousarray(picture[..., 3])
    light = np.minimum(picture[..., :3].max(axis=2, initial=0), np.float32(_MOST_TO_ONE))
    body = np.minimum(1, np.maximum(cover, light))
    if region.empty or not body.any():
        nowhere = (np.empty((0, 2), np.float32), np.empty(0), np.empty(0, np.float32))
        return Sown(*nowhere, np.empty((0, 3), np.float32), 1 / scale)
    soft = cv2.GaussianBlur(body, (0, 0), _LOOKS_ROUND, borderType=cv2.BORDER_REPLICATE)
    down, across = np.gradient(np.pad(soft, 1, mode="edge"))
    down, across = down[1:-1, 1:-1], across[1:-1, 1:-1]
    if by == "edge":
        near = cv2.morphologyEx(body, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
        weight = near * np.clip(body * 2, 0, 1)
    else:
        weight = body if by == "cover" else light
    rows, columns = np.nonzero(weight > weight.max() * _LEAST)
    upto = np.cumsum(weight[rows, columns], dtype=np.float64)
    places = np.stack([columns + region.left, rows + region.top], axis=1) / scale
    outward = np.arctan2(-down[rows, columns], -across[rows, columns])
    colours = picture[rows, columns, :3] / body[rows, columns, None]
    return Sown(
        places.astype(np.float32), upto / upto[-1], outward.astype(np.float32), colours, 1 / scale
    )
