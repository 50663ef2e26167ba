"""Blends on premultiplied pictures in linear light.

Porter and Duff, "Compositing digital images", SIGGRAPH 1984, for how covers mix, and W3C,
Compositing and Blending Level 1, for the blend functions. Within 0 to 1 they are the published
ones. Light above 1 goes on where the published function would bend back or divide by nothing:

- screen is the brighter of the two where either is above 1, so it never darkens;
- exclusion is the difference where either is above 1;
- dodge does not rise above 1 or above what is below, whichever is more; burn leaves above 1 alone;
- subtract and difference never give less than nothing; soft light takes a layer as at most 1.

A layer that shines more than it covers counts, for all blends but normal, add and screen, as
covering as much as its brightest channel up to 1: else its light would have no colour to blend.
Cover stays within 0 to 1. Expose is ours: what is below times 1 + light, as a longer exposure would
be, and its cover as it is.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import reduce
from typing import NamedTuple

import numpy as np

from handful.engine.kernels.compiled import NEAR_ROWS, compiled, in_bands
from handful.engine.picture import MOST_LIGHT, Picture, Region, Tile

BLENDS = (
    "normal", "add", "screen", "multiply", "overlay", "soft light", "hard light", "lighten",
    "darken", "dodge", "burn", "difference", "exclusion", "subtract", "expose",
    "in", "out", "atop",
)  # fmt: skip
"""By their words; a kernel knows them by their place here."""

_CLEARING = frozenset({"in", "out"})
"""Blends that leave nothing of what is before, where the layer has nothing."""


class Part(NamedTuple):
    """A layer's picture, how it mixes with what is before it, and how much, from 0 to 1."""

    tile: Tile
    blend: str
    opacity: float


_NOWHERE = Region(0, 0, 0, 0)


def mixed(parts: Sequence[Part], region: Region) -> Tile:
    """The layers mixed from first to last, on what they cover together of a region.

    All layers pass over a few rows before the next ones, so that the sum is fetched only once.
    """
    parts = [part for part in parts if part.opacity > 0]
    region = reduce(Region.around, (part.tile.region.meet(region) for part in parts), _NOWHERE)
    result = np.empty((region.height, region.width, 4), np.float32)
    jobs = []
    for tile, blend, opacity in parts:
        shared = region if blend in _CLEARING else tile.region.meet(region)
        if not shared.empty:
            place = (shared.top - region.top, shared.left - region.left)
            jobs.append((tile.within(shared), *place, BLENDS.index(blend), opacity))

    def mix_rows(first: int, last: int) -> None:
        result[first:last] = 0
        for picture, top, left, blend, opacity in jobs:
            if blend == _NORMAL:
                _over(first, last, result, picture, top, left, opacity)
            elif blend == _ADD:
                _plus(first, last, result, picture, top, left, opacity)
            else:
                _blend(first, last, result, picture, top, left, blend, opacity)

    in_bands(mix_rows, region.height, band=NEAR_ROWS)
    return Tile(result, region)


_NORMAL, _ADD, _SCREEN, _MULTIPLY, _OVERLAY, _SOFT, _HARD, _LIGHTEN = range(8)
_DARKEN, _DODGE, _BURN, _DIFFERENCE, _EXCLUSION, _SUBTRACT = range(8, 14)
_EXPOSE, _IN, _OUT, _ATOP = range(14, 18)


@compiled
def _over(
    first: int, last: int, below: Picture, above: Picture, top: int, left: int, amount: float
) -> None:
    part = np.float32(amount)
    for y in range(max(first, top), min(last, top + above.shape[0])):
        row, line = above[y - top], below[y, left : left + above.shape[1]]
        for x in range(row.shape[0]):
            kept = np.float32(1.0) - row[x, 3] * part
            for c in range(4):
                line[x, c] = row[x, c] * part + line[x, c] * kept


@compiled
def _plus(
    first: int, last: int, below: Picture, above: Picture, top: int, left: int, amount: float
) -> None:
    part = np.float32(amount)
    for y in range(max(first, top), min(last, top + above.shape[0])):
        row, line = above[y - top], below[y, left : left + above.shape[1]]
        for x in range(row.shape[0]):
            for c in range(3):
                line[x, c] += row[x, c] * part
            line[x, 3] = min(np.float32(1.0), line[x, 3] + row[x, 3] * part)


@compiled
def _blend(
    first: int,
    last: int,
    below: Picture,
    above: Picture,
    top: int,
    left: int,
    blend: int,
    amount: float,
) -> None:
    """All other blends: expose brightens what is below, in, out and atop keep shares of both, and
    the rest blend where both cover."""
    part, one, zero = np.float32(amount), np.float32(1.0), np.float32(0.0)
    most = np.float32(MOST_LIGHT)
    for y in range(max(first, top), min(last, top + above.shape[0])):
        row, line = above[y - top], below[y, left : left + above.shape[1]]
        for x in range(row.shape[0]):
            if blend == _EXPOSE:
                for c in range(3):
                    line[x, c] = min(most, line[x, c] * (one + row[x, c] * part))
                continue
            cover, cover_under = row[x, 3] * part, line[x, 3]
            if blend >= _IN:
                share = cover_under if blend != _OUT else one - cover_under
                kept = one - cover if blend == _ATOP else one - part
                for c in range(4):
                    line[x, c] = row[x, c] * part * share + line[x, c] * kept
                continue
            brightest = max(row[x, 0], max(row[x, 1], row[x, 2])) * part
            hides = max(cover, min(one, brightest))
            brightest_under = max(line[x, 0], max(line[x, 1], line[x, 2]))
            holds = max(cover_under, min(one, brightest_under))
            for c in range(3):
                light, light_under = row[x, c] * part, line[x, c]
                if blend == _SCREEN:
                    line[x, c] = _screened(light_under, light)
                    continue
                own = light / hides if hides > zero else zero
                other = light_under / holds if holds > zero else zero
                both = hides * holds * _function(blend, other, own)
                line[x, c] = light * (one - holds) + light_under * (one - hides) + both
            line[x, 3] = cover + cover_under - cover * cover_under


@compiled
def _screened(below: np.float32, above: np.float32) -> np.float32:
    if below > np.float32(1.0) or above > np.float32(1.0):
        return max(below, above)
    return below + above - below * above


@compiled
def _function(blend: int, below: np.float32, above: np.float32) -> np.float32:
    """The blend function B(Cb, Cs) of the specification's chapter 10."""
    one, two, zero = np.float32(1.0), np.float32(2.0), np.float32(0.0)
    if blend == _MULTIPLY:
        return below * above
    if blend == _OVERLAY:
        return _hard(above, below)
    if blend == _HARD:
        return _hard(below, above)
    if blend == _SOFT:
        return _softened(below, min(one, above))
    if blend == _LIGHTEN:
        return max(below, above)
    if blend == _DARKEN:
        return min(below, above)
    if blend == _DODGE:
        if below <= zero:
            return zero
        most = max(one, below)
        return most if above >= one else min(most, below / (one - above))
    if blend == _BURN:
        if below >= one:
            return below
        return zero if above <= zero else one - min(one, (one - below) / above)
    if blend == _SUBTRACT:
        return max(zero, below - above)
    if blend == _EXCLUSION and below <= one and above <= one:
        return below + above - two * below * above
    return abs(below - above)


@compiled
def _hard(below: np.float32, above: np.float32) -> np.float32:
    two = np.float32(2.0)
    if above <= np.float32(0.5):
        return below * two * above
    return _screened(below, two * above - np.float32(1.0))


@compiled
def _softened(below: np.float32, above: np.float32) -> np.float32:
    one, two, four = np.float32(1.0), np.float32(2.0), np.float32(4.0)
    if above <= np.float32(0.5):
        return below - (one - two * above) * below * (one - below)
    if below <= np.float32(0.25):
        lifted = ((np.float32(16.0) * below - np.float32(12.0)) * below + four) * below
    else:
        lifted = np.float32(math.sqrt(below))
    return below + (two * above - one) * (lifted - below)
