"""Pictures of a layer that many things are."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.drawing.sheets import Album, album_of
from handful.engine.kinds import At
from handful.engine.picture import Region, Tile


class Bind:
    """Binds pictures of a layer to an album, cut to what they hold together."""

    def __repr__(self) -> str:
        return "album"

    def next(self, at: At, *tiles: Tile) -> Album:
        boxes = [box for box in map(_held, tiles) if not box.empty]
        if not boxes:
            return album_of([])
        box = boxes[0]
        for other in boxes[1:]:
            box = box.around(other)
        return album_of([tile.within(box) for tile in tiles])


def _held(tile: Tile) -> Region:
    """What of a picture is not clear."""
    held = (tile.pixels != 0).any(axis=2)
    rows, columns = np.flatnonzero(held.any(axis=1)), np.flatnonzero(held.any(axis=0))
    left, top = tile.region.left, tile.region.top
    if not len(rows):
        return Region(left, top, left, top)
    return Region(
        left + int(columns[0]),
        top + int(rows[0]),
        left + int(columns[-1]) + 1,
        top + int(rows[-1]) + 1,
    )
