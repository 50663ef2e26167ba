"""What a picture is: array conventions, regions, premultiplication and luminance.

A picture is `float32 (H, W, 4)`: linear-light RGB on BT.709 primaries, premultiplied by
cover, then cover. RGB may exceed cover (that is emission) and may exceed 1.
A matte or a height is `float32 (H, W)`; offsets are `float32 (H, W, 2)`, x then y. Heights and offsets
are signed and in px of the full-size canvas.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import reduce
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.float32]
Matte = NDArray[np.float32]

PictureKind = Literal["light", "height", "offsets"]
"""What the px of a layer's picture are."""

ANY_KIND: tuple[PictureKind, ...] = ("light", "height", "offsets")

_CHANNELS: dict[PictureKind, tuple[int, ...]] = {"light": (4,), "height": (), "offsets": (2,)}

MOST_LIGHT = 65504.0
"""No step makes anything brighter: the largest number of IEEE 754's binary16, which EXR files hold."""

LUMINANCE_WEIGHTS = (0.2126, 0.7152, 0.0722)
"""Relative luminance of BT.709 primaries (Rec. ITU-R BT.709-6, item 3.2)."""


class Region(NamedTuple):
    """A rectangle of whole px: `left`/`top` are inside it, `right`/`bottom` just outside."""

    left: int
    top: int
    right: int
    bottom: int

    @property
    def width(self) -> int:
        """In px; 0 where there is nothing."""
        return max(0, self.right - self.left)

    @property
    def height(self) -> int:
        """In px; 0 where there is nothing."""
        return max(0, self.bottom - self.top)

    @property
    def empty(self) -> bool:
        """Whether it holds no px."""
        return self.width == 0 or self.height == 0

    def farthest_from(self, x: float, y: float) -> float:
        """The distance in px from a place to its farthest corner."""
        across = max(abs(self.left - x), abs(self.right - x))
        return math.hypot(across, max(abs(self.top - y), abs(self.bottom - y)))

    def grown(self, by: int) -> Region:
        """Wider by so many px on each side; narrower if `by` is negative."""
        return Region(self.left - by, self.top - by, self.right + by, self.bottom + by)

    def meet(self, other: Region) -> Region:
        """The part that both share; it may be empty."""
        left, top = max(self.left, other.left), max(self.top, other.top)
        right, bottom = min(self.right, other.right), min(self.bottom, other.bottom)
        return Region(left, top, max(left, right), max(top, bottom))

    def around(self, other: Region) -> Region:
        """The smallest region that holds both."""
        if self.empty or other.empty:
            return other if self.empty else self
        return Region(
            min(self.left, other.left),
            min(self.top, other.top),
            max(self.right, other.right),
            max(self.bottom, other.bottom),
        )

    def aligned(self, to: int) -> Region:
        """The smallest region around this one whose edges are multiples of `to`."""
        return Region(
            self.left // to * to,
            self.top // to * to,
            -(-self.right // to) * to,
            -(-self.bottom // to) * to,
        )


class Tile(NamedTuple):
    """A picture and where it lies. Outside its region it is clear: no light, no cover."""

    pixels: Picture
    region: Region

    @property
    def kind(self) -> PictureKind:
        """What its px are."""
        shape = self.pixels.shape[2:]
        return next(kind for kind, channels in _CHANNELS.items() if channels == shape)

    def within(self, region: Region) -> Picture:
        """The same picture cut or padded with clear px to `region`; a view where that is enough."""
        shared = self.region.meet(region)
        if shared == region and not region.empty:
            return self.pixels[_rows(region, self.region), _columns(region, self.region)]
        padded = np.zeros((region.height, region.width, *self.pixels.shape[2:]), np.float32)
        if not shared.empty:
            padded[_rows(shared, region), _columns(shared, region)] = self.pixels[
                _rows(shared, self.region), _columns(shared, self.region)
            ]
        return padded


class Bent(NamedTuple):
    """By how much a frame bends the plate: offsets `(H, W, 2)` to the right and down, so that what is seen at a
    px is the plate's at the px less them; deviations `(H, W)` by which it is blurred, if it is; both in px
    of the full-size canvas. And the plate `(H, W, 3)` bent so, in linear light, if that was asked for."""

    offsets: Picture
    blur: Matte | None = None
    plate: Picture | None = None


def _rows(part: Region, whole: Region) -> slice:
    return slice(part.top - whole.top, part.bottom - whole.top)


def _columns(part: Region, whole: Region) -> slice:
    return slice(part.left - whole.left, part.right - whole.left)


def unset(region: Region) -> Picture:
    """A picture of the region's size whose px are still to be written."""
    return np.empty((region.height, region.width, 4), np.float32)


def blank(region: Region) -> Picture:
    """A clear picture of the region's size: `float32 (H, W, 4)` zeros."""
    return np.zeros((region.height, region.width, 4), np.float32)


def clear_tile(region: Region, kind: PictureKind = "light") -> Tile:
    """A tile with nothing in it, standing at the region's corner."""
    nothing = Region(region.left, region.top, region.left, region.top)
    return Tile(np.zeros((0, 0, *_CHANNELS[kind]), np.float32), nothing)


def summed(tiles: Sequence[Tile], shares: Sequence[float], region: Region) -> Tile:
    """Pictures of one kind times their shares, added up on what they cover of a region."""
    shared = reduce(Region.around, (tile.region.meet(region) for tile in tiles))
    total = np.zeros((shared.height, shared.width, *tiles[0].pixels.shape[2:]), np.float32)
    for tile, share in zip(tiles, shares, strict=True):
        part = tile.region.meet(shared)
        if not part.empty:
            Tile(total, shared).within(part)[...] += tile.within(part) * np.float32(share)
    return Tile(total, shared)


def laid(front: Tile, back: Tile) -> Tile:
    """One picture of light over another: what the front one covers of the other is hidden."""
    shared = front.region.around(back.region)
    result = back.within(shared).copy()
    if not front.region.empty:
        part = Tile(result, shared).within(front.region)
        part *= 1 - front.pixels[..., 3:]
        part += front.pixels
    return Tile(result, shared)


def luminance(picture: Picture) -> Matte:
    """Relative luminance `(H, W)` of a picture `(H, W, 4)` in linear light."""
    weights = np.array(LUMINANCE_WEIGHTS, np.float32)
    weighted: Matte = picture[..., :3] @ weights
    return weighted


def straighten(picture: Picture) -> Picture:
    """Straight (unassociated) RGB and cover from a premultiplied picture; RGB is 0 where cover is."""
    cover = picture[..., 3:]
    straight = np.zeros_like(picture)
    np.divide(picture[..., :3], cover, out=straight[..., :3], where=cover > 0)
    straight[..., 3:] = cover
    return straight
