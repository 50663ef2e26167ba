"""Pictures bent by offsets, and offsets by one another."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.pixels.blur import gaussian, reach_of
from handful.engine.kernels.pixels.resample import Edge, sampled, shrinks_at
from handful.engine.picture import Matte, Picture, Region, Tile, clear_tile

_BORDERS = {
    "clear": cv2.BORDER_CONSTANT,
    "hold": cv2.BORDER_REPLICATE,
    "mirror": cv2.BORDER_REFLECT,
    "wrap": cv2.BORDER_WRAP,
}


class Seen(NamedTuple):
    """How what is bent is seen: how much farther blue is bent than red, in how many colours of the spectrum;
    of how many px it is blurred (the deviation) for each px that it is bent; what comes from beyond the edge."""

    spread: float
    colours: int
    blur: float
    edge: Edge


class Bending(NamedTuple):
    """How offsets bend: times how much, how that is seen, the scale of the picture, and the canvas."""

    share: float
    seen: Seen
    scale: float
    canvas: Region


def bent(below: Tile, offsets: Tile, how: Bending, region: Region) -> Tile:
    """A picture on a region, each px from where its offsets push it from.

    `offsets` are in full-size px; with a spread, colours are bent apart.
    """
    seen, share = how.seen, how.share * how.scale
    far = _farthest(offsets) * share
    room = region.grown(reach_of(seen.blur * far)) if seen.blur * far > _SHARP else region
    pushed = offsets.within(room)
    if far == 0:
        return Tile(below.within(region), region)

    if below.region.empty:
        return clear_tile(region)
    farthest = _places(room, pushed, share * (1 + seen.spread / 2))
    prepared = sampled(below, seen.edge, how.canvas, shrinks_at(farthest))

    def through(more: float) -> Picture:
        return prepared.taken(_places(room, pushed, share * (1 + more)), room).pixels

    picture = _in_colours(seen, through)
    if room != region:
        picture = softened_by(picture, seen.blur * share * _lengths(pushed))
    return Tile(Tile(picture, room).within(region), region)


def bent_after(first: Tile, then: Tile, scale: float, region: Region) -> Tile:
    """The offsets of one bending before which another has bent: where a px comes from through both."""
    pushed = first.within(region)
    places = _places(region, pushed, scale) - np.array([then.region.left, then.region.top])
    if then.region.empty:
        return Tile(pushed, region)
    further = cv2.remap(
        np.ascontiguousarray(then.pixels),
        (places - 0.5).astype(np.float32),
        None,
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
    return Tile(pushed + further, region)


def blur_of(offsets: Sequence[Tile], shares: Sequence[float], region: Region) -> Tile:
    """By how many px a region is blurred by offsets, each by its share of how far they bend: blurs add up by
    their squares."""
    squares = np.zeros((region.height, region.width), np.float32)
    for tile, share in zip(offsets, shares, strict=True):
        squares += (_lengths(tile.within(region)) * np.float32(share)) ** 2
    return Tile(np.sqrt(squares), region)


def bent_plate(
    plate: NDArray[np.float32], offsets: Picture, blur: Matte | None, seen: Seen, scale: float
) -> NDArray[np.float32]:
    """A picture without cover `(H, W, 3)` bent by offsets `(H, W, 2)` and blurred by deviations `(H, W)`, in
    full-size px, at a scale."""
    if not offsets.any() and (blur is None or not blur.any()):
        return plate
    height, width = plate.shape[:2]
    room = Region(0, 0, width, height)

    def through(more: float) -> Picture:
        places = _places(room, offsets, scale * (1 + more)) - np.float32(0.5)
        found: Picture = cv2.remap(
            plate, places, None, cv2.INTER_CUBIC, borderMode=_BORDERS[seen.edge]
        )
        return found

    picture = _in_colours(seen, through)
    if blur is None:
        return picture
    whole = np.dstack([picture, np.ones((height, width), np.float32)])
    return softened_by(whole, blur * np.float32(scale))[..., :3]


def beyond(offsets: Picture, scale: float) -> tuple[str, ...]:
    """The sides at which a picture that is bent by offsets `(H, W, 2)` shows what lies beyond its edge."""
    height, width = offsets.shape[:2]
    places = _places(Region(0, 0, width, height), offsets, scale)
    across, down = places[..., 0], places[..., 1]
    found = {
        "left": across.min() < -_SEEN, "top": down.min() < -_SEEN,
        "right": across.max() > width + _SEEN, "bottom": down.max() > height + _SEEN,
    }  # fmt: skip
    return tuple(side for side, shows in found.items() if shows)


def folds(offsets: Picture, scale: float) -> tuple[float, tuple[float, float]]:
    """On which share of a picture bent by offsets `(H, W, 2)` it folds over, so that things are seen twice and
    turned over, and the middle of where, in px of the full size. A map folds where the determinant of its slopes is
    below nothing (textbook analysis)."""
    places = _places(Region(0, 0, offsets.shape[1], offsets.shape[0]), offsets, scale)
    across, down = np.diff(places, axis=1)[:-1], np.diff(places, axis=0)[:, :-1]
    turned = across[..., 0] * down[..., 1] < across[..., 1] * down[..., 0]
    count = int(turned.sum())
    if not count:
        return 0.0, (0.0, 0.0)
    rows, columns = np.nonzero(turned)
    return count / turned.size, (float(columns.mean() + 1) / scale, float(rows.mean() + 1) / scale)


_SEEN = 1.0
"""px beyond an edge from which on it is seen."""

_SHARP = 0.1
"""px of a blur that nobody sees."""


def softened_by(picture: Picture, deviations: Matte) -> Picture:
    """A picture `(H, W, 4)` blurred by a normal curve at each px of its own deviation, px; its edges hold.

    A px is between two of a few pictures that are blurred evenly, each twice as far as the one before, by
    the square of the deviation, which is what blurs add up by.
    """
    most = float(deviations.max())
    if most <= _SHARP:
        return picture
    levels = [most * 0.5**i for i in range(_LEVELS)][::-1]
    room = reach_of(most)
    padded = cv2.copyMakeBorder(picture, room, room, room, room, cv2.BORDER_REPLICATE)
    height, width = picture.shape[:2]
    result, below, squares = picture, 0.0, deviations * deviations
    for level in levels:
        blurred = gaussian(padded, level)[room : room + height, room : room + width]
        part = np.clip((squares - below) / (level * level - below), 0, 1)[..., None]
        result = result + (blurred - result) * part.astype(np.float32)
        below = level * level
    return result


_LEVELS = 4


def _in_colours(seen: Seen, through: Callable[[float], Picture]) -> Picture:
    """What is seen through something that bends colours apart: light of each from a part of the spectrum
    about its own place, red from one end, blue from the other."""
    if seen.spread == 0:
        return through(0.0)
    places = np.linspace(-0.5, 0.5, seen.colours)
    weights = np.maximum(0, 1 - 2 * np.abs(places[:, None] - np.array([-0.5, 0.0, 0.5])))
    weights = (weights / weights.sum(axis=0)).astype(np.float32)
    total: Picture = np.zeros((1, 1, 1), np.float32)
    for place, (red, green, blue) in zip(places, weights, strict=True):
        picture = through(seen.spread * float(place))
        total = (
            total + picture * np.array([red, green, blue, green], np.float32)[: picture.shape[2]]
        )
    return total


def _lengths(offsets: Picture) -> Matte:
    found: Matte = np.hypot(offsets[..., 0], offsets[..., 1], dtype=np.float32)
    return found


def _farthest(offsets: Tile) -> float:
    return 0.0 if offsets.region.empty else float(_lengths(offsets.pixels).max())


def _places(region: Region, offsets: Picture, share: float) -> NDArray[np.float32]:
    """Where each px of a region comes from."""
    places = offsets * np.float32(-share)
    places[..., 0] += np.arange(region.left, region.right, dtype=np.float32) + np.float32(0.5)
    places[..., 1] += (np.arange(region.top, region.bottom, dtype=np.float32) + np.float32(0.5))[
        :, None
    ]
    return places
