"""Mattes: how limits join, and what they do to a picture."""

from __future__ import annotations

from collections.abc import Sequence
from functools import reduce

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Matte, Picture, Region, Tile, clear_tile, summed, unset


def joined(mattes: Sequence[Matte], ways: Sequence[str]) -> Matte:
    """Mattes `(H, W)` joined from first to last.

    intersect: both, a b. add: either, 1 - (1 - a)(1 - b). subtract: not this one, a (1 - b). A
    first one that adds begins from nothing, else from everything.
    """
    result = np.full_like(mattes[0], 0 if ways[0] == "add" else 1)
    for matte, way in zip(mattes, ways, strict=True):
        match way:
            case "intersect":
                result = result * matte
            case "add":
                result = 1 - (1 - result) * (1 - matte)
            case "subtract":
                result = result * (1 - matte)
    return result


def limited(inside: Tile, matte: Tile, outside: Tile | None = None) -> Tile:
    """`inside` where the matte is 1 and `outside`, or nothing, where it is 0, mixed between.

    `matte.pixels` is `(H, W)` and covers all that is wanted.
    """
    region = inside.region
    if outside is not None:
        region = region.around(outside.region)
    region = region.meet(matte.region)
    if region.empty:
        return clear_tile(matte.region, inside.kind)
    below = np.zeros((0, 0, 4), np.float32) if outside is None else outside.within(region)
    top, left = region.top - matte.region.top, region.left - matte.region.left
    shares = matte.pixels[top : top + region.height, left : left + region.width]
    if inside.kind != "light":
        pixels = inside.within(region)
        weights = shares.reshape(shares.shape + (1,) * (pixels.ndim - 2))
        kept = 0 if outside is None else outside.within(region)
        return Tile(kept + (pixels - kept) * weights, region)
    result = unset(region)
    in_bands(_mix_rows, region.height, inside.within(region), shares, below, result)
    return Tile(result, region)


def averaged(tiles: Sequence[Tile], region: Region, shares: Sequence[float] = ()) -> Tile:
    """The mean of pictures of one kind, light in linear light, on what they cover of a region; even, or by shares."""
    shares = shares or [1 / len(tiles)] * len(tiles)
    if tiles[0].kind != "light":
        return summed(tiles, shares, region)
    shared = reduce(Region.around, (tile.region.meet(region) for tile in tiles))
    total = np.zeros((shared.height, shared.width, 4), np.float32)
    for tile, share in zip(tiles, shares, strict=True):
        part = tile.region.meet(shared)
        if not part.empty:
            target = Tile(total, shared).within(part)
            in_bands(_add_rows, part.height, tile.within(part), np.float32(share), target)
    return Tile(total, shared)


@compiled
def _mix_rows(
    first: int, last: int, inside: Picture, shares: Matte, outside: Picture, result: Picture
) -> None:
    is_alone = outside.shape[0] == 0
    for y in range(first, last):
        line, row, matte = result[y], inside[y], shares[y]
        for x in range(row.shape[0]):
            share = matte[x]
            if is_alone:
                for c in range(4):
                    line[x, c] = row[x, c] * share
            else:
                kept = np.float32(1.0) - share
                for c in range(4):
                    line[x, c] = row[x, c] * share + outside[y, x, c] * kept


@compiled
def _add_rows(first: int, last: int, picture: Picture, share: np.float32, total: Picture) -> None:
    for y in range(first, last):
        line, row = total[y], picture[y]
        for x in range(row.shape[0]):
            for c in range(4):
                line[x, c] += row[x, c] * share
