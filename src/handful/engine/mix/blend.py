"""Blends on premultiplied pictures.

Porter and Duff, "Compositing digital images", SIGGRAPH 1984, for how covers mix, and W3C,
Compositing and Blending Level 1, for the blend functions. They act on linear light, or as seen: on
the sRGB signal, as browsers and most editors do. Within 0 to 1 they are the published ones. Light
above 1 goes on where the published function would bend back or divide by nothing:

- screen is the brighter of the two where either is above 1, so it never darkens;
- exclusion is the difference where either is above 1;
- dodge does not rise above 1 or above what is below, whichever is more; burn leaves above 1 alone;
- subtract and difference never give less than nothing; soft light takes a layer as at most 1;
- hue, saturation, colour and luminosity are held to the brightest channel of the two, or 1. In
  light they go by BT.709 luminance, as seen by the specification's own weights.

A layer that shines more than it covers counts, for all blends but normal, add and screen in light,
as covering as much as its brightest channel up to 1: else its light would have no colour to blend.
Cover stays within 0 to 1, also where a layer is mixed in at more than all of it. Expose is ours:
what is below times 1 + light, as a longer exposure would be, and its cover as it is.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import reduce
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import as_light, as_seen
from handful.engine.kernels.compiled import NEAR_ROWS, compiled, in_bands
from handful.engine.kernels.pixels.tables import Table, looked_up, table_of
from handful.engine.picture import LUMINANCE_WEIGHTS, MOST_LIGHT, Picture, Region, Tile

_COMPILED = (
    "normal", "add", "screen", "multiply", "overlay", "soft light", "hard light", "lighten",
    "darken", "dodge", "burn", "difference", "exclusion", "subtract", "hue", "saturation", "colour",
    "luminosity", "expose", "in", "out", "atop", "under", "keep in", "keep out", "keep atop", "xor",
)  # fmt: skip
"""By their words; a kernel knows them by their place here."""

Mixer = Callable[[Picture, Picture, float], None]
"""Mixes rows of a layer, at so much of it, into those below, in place."""

_further: dict[str, Mixer] = {}


def blends() -> tuple[str, ...]:
    """All blends by their words."""
    return (*_COMPILED, *_further)


def add_blend(name: str, mixer: Mixer) -> None:
    """Make a further blend known. Raises `ValueError` if there is one of that name."""
    if name in blends():
        raise ValueError(f"two blends are called {name}")
    _further[name] = mixer


BlendSpace = Literal["light", "seen"]
"""What blends act on: linear light, or the sRGB signal as it is seen."""

_CLEARING = frozenset({"in", "out", "keep in", "keep atop"})
"""Blends that leave nothing of what is before, where the layer has nothing."""

_NORMAL, _ADD, _SCREEN, _MULTIPLY, _OVERLAY, _SOFT, _HARD, _LIGHTEN = range(8)
_DARKEN, _DODGE, _BURN, _DIFFERENCE, _EXCLUSION, _SUBTRACT = range(8, 14)
_HUE, _SATURATION, _COLOUR, _LUMINOSITY = range(14, 18)
_EXPOSE, _IN, _OUT, _ATOP, _UNDER, _KEEP_IN, _KEEP_OUT, _KEEP_ATOP, _XOR = range(18, 27)


class Part(NamedTuple):
    """A picture and how it mixes with what is before it: its blend, how much of it (0 is nothing,
    1 is all, above 1 its light is brighter), and what the blend acts on."""

    tile: Tile
    blend: str
    opacity: float = 1.0
    space: BlendSpace = "light"


_NOWHERE = Region(0, 0, 0, 0)


def mixed(parts: Sequence[Part], region: Region) -> Tile:
    """The layers mixed from first to last, on what they cover together of a region.

    All layers pass over a few rows before the next ones, so that the sum is fetched only once.
    """
    parts = [part for part in parts if part.opacity > 0]
    region = reduce(Region.around, (part.tile.region.meet(region) for part in parts), _NOWHERE)
    jobs = []
    for tile, blend, opacity, space in parts:
        shared = region if blend in _CLEARING else tile.region.meet(region)
        if not shared.empty:
            place = (shared.top - region.top, shared.left - region.left)
            jobs.append((tile.within(shared), *place, blend, opacity, space))

    # The lowest one mostly covers all, and there is nothing below it.
    lowest = jobs.pop(0) if jobs and _lies_plainly_on(region, *jobs[0]) else None
    if lowest is not None and not jobs and _is_as_mixed(lowest[0], lowest[4]):
        return Tile(lowest[0], region)
    result = np.empty((region.height, region.width, 4), np.float32)

    def mix_rows(first: int, last: int) -> None:
        if lowest is None:
            result[first:last] = 0
        else:
            _begin(first, last, result, lowest[0], lowest[4])
        for picture, top, left, name, opacity, space in jobs:
            if name in _further:
                rows = picture[max(0, first - top) : max(0, last - top)]
                place = max(first, top)
                below = result[place : place + len(rows), left : left + picture.shape[1]]
                _further[name](below, rows, opacity)
                continue
            blend = _COMPILED.index(name)
            seen = space == "seen" and blend < _EXPOSE
            if blend == _NORMAL and not seen:
                _over(first, last, result, picture, top, left, opacity)
            elif blend == _ADD and not seen:
                _plus(first, last, result, picture, top, left, opacity)
            elif blend < _EXPOSE:
                tables = _SEEN if seen else _AS_LIGHT
                _blend(first, last, result, picture, top, left, blend, opacity, *tables)
            else:
                _place(first, last, result, picture, top, left, blend, opacity)

    in_bands(mix_rows, region.height, band=NEAR_ROWS)
    return Tile(result, region)


def _lies_plainly_on(
    region: Region, picture: Picture, top: int, left: int, name: str, opacity: float, space: str
) -> bool:
    """Whether a picture covers a whole region and only adds to what is below, or lies over it."""
    is_whole = (top, left, *picture.shape[:2]) == (0, 0, region.height, region.width)
    return is_whole and space != "seen" and name in (_COMPILED[_NORMAL], _COMPILED[_ADD])


def _is_as_mixed(picture: Picture, opacity: float) -> bool:
    """Whether a picture with nothing below it is what it would be mixed to."""
    if opacity != 1 or not picture.flags.c_contiguous:
        return False
    most = np.empty(len(picture), np.float32)
    in_bands(_find_most, len(picture), picture, most)
    return bool(most.max(initial=0) <= 1)


_SEEN = (table_of(as_seen), table_of(as_light))
_AS_LIGHT = (np.zeros(0, np.float32), np.zeros(0, np.float32))
"""Tables that turn light into what blends act on, and back; empty where that is light itself."""


@compiled
def _find_most(first: int, last: int, picture: Picture, most: NDArray[np.float32]) -> None:
    """The most cover on each row."""
    for y in range(first, last):
        row, found = picture[y], np.float32(0.0)
        for x in range(row.shape[0]):
            found = max(found, row[x, 3])
        most[y] = found


@compiled
def _begin(first: int, last: int, result: Picture, above: Picture, amount: float) -> None:
    """A picture with nothing below it."""
    part, one = np.float32(amount), np.float32(1.0)
    for y in range(first, last):
        row, line = above[y], result[y]
        for x in range(row.shape[0]):
            for c in range(4):
                line[x, c] = row[x, c] * part
            line[x, 3] = min(one, line[x, 3])


@compiled
def _over(
    first: int, last: int, below: Picture, above: Picture, top: int, left: int, amount: float
) -> None:
    part, one = np.float32(amount), np.float32(1.0)
    for y in range(max(first, top), min(last, top + above.shape[0])):
        row, line = above[y - top], below[y, left : left + above.shape[1]]
        for x in range(row.shape[0]):
            cover = min(one, row[x, 3] * part)
            kept = one - cover
            for c in range(3):
                line[x, c] = row[x, c] * part + line[x, c] * kept
            line[x, 3] = cover + line[x, 3] * kept


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
def _place(
    first: int,
    last: int,
    below: Picture,
    above: Picture,
    top: int,
    left: int,
    blend: int,
    amount: float,
) -> None:
    """Expose brightens what is below; all others keep a share of each picture, by its covers."""
    part, one = np.float32(amount), np.float32(1.0)
    most = np.float32(MOST_LIGHT)
    rest = max(np.float32(0.0), one - part)
    for y in range(max(first, top), min(last, top + above.shape[0])):
        row, line = above[y - top], below[y, left : left + above.shape[1]]
        for x in range(row.shape[0]):
            if blend == _EXPOSE:
                for c in range(3):
                    line[x, c] = min(most, line[x, c] * (one + row[x, c] * part))
                continue
            cover, under = min(one, row[x, 3] * part), line[x, 3]
            share, kept = under, rest
            if blend in (_OUT, _UNDER, _KEEP_ATOP, _XOR):
                share = one - under
            elif blend in (_KEEP_IN, _KEEP_OUT):
                share = np.float32(0.0)
            if blend in (_ATOP, _KEEP_OUT, _XOR):
                kept = one - cover
            elif blend == _UNDER:
                kept = one
            elif blend in (_KEEP_IN, _KEEP_ATOP):
                kept = min(one, rest + cover)
            for c in range(4):
                line[x, c] = row[x, c] * part * share + line[x, c] * kept
            line[x, 3] = min(one, line[x, 3])


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
    to_signal: Table,
    to_light: Table,
) -> None:
    """Blends that mix colours where both cover, in light or, with tables, as seen."""
    part, one, zero = np.float32(amount), np.float32(1.0), np.float32(0.0)
    seen = to_signal.shape[0] > 0
    for y in range(max(first, top), min(last, top + above.shape[0])):
        row, line = above[y - top], below[y, left : left + above.shape[1]]
        for x in range(row.shape[0]):
            red, green, blue = row[x, 0] * part, row[x, 1] * part, row[x, 2] * part
            red_under, green_under, blue_under = line[x, 0], line[x, 1], line[x, 2]
            cover, cover_under = min(one, row[x, 3] * part), line[x, 3]
            line[x, 3] = cover + cover_under - cover * cover_under
            if blend == _ADD:
                line[x, 3] = min(one, cover + cover_under)
            if blend == _SCREEN and not seen:
                line[x, 0] = _screened(red_under, red)
                line[x, 1] = _screened(green_under, green)
                line[x, 2] = _screened(blue_under, blue)
                continue
            hides = max(cover, min(one, max(red, max(green, blue))))
            holds = max(cover_under, min(one, max(red_under, max(green_under, blue_under))))
            r, g, b, u, v, w = zero, zero, zero, zero, zero, zero
            if hides > zero:
                r, g, b = red / hides, green / hides, blue / hides
            if holds > zero:
                u, v, w = red_under / holds, green_under / holds, blue_under / holds
            if seen:
                r, g, b = _all(to_signal, r, g, b)
                u, v, w = _all(to_signal, u, v, w)
            if blend < _HUE:
                i, j, k = _function(blend, u, r), _function(blend, v, g), _function(blend, w, b)
            else:
                i, j, k = _toned(blend, u, v, w, r, g, b, seen)
            own, other, both = hides * (one - holds), holds * (one - hides), hides * holds
            if blend == _NORMAL:
                own, both = hides, zero
            elif blend == _ADD:
                own, other, both = hides, holds, zero
            r, g, b = (
                r * own + u * other + i * both,
                g * own + v * other + j * both,
                b * own + w * other + k * both,
            )
            if seen:
                union = min(one, hides + holds) if blend == _ADD else hides + holds - hides * holds
                if union > zero:
                    r, g, b = _all(to_light, r / union, g / union, b / union)
                r, g, b = r * union, g * union, b * union
            line[x, 0], line[x, 1], line[x, 2] = r, g, b


Light = Any
"""One `float32` in a compiled loop."""


@compiled
def _all(table: Table, red: Light, green: Light, blue: Light) -> tuple[Light, Light, Light]:
    return looked_up(table, red), looked_up(table, green), looked_up(table, blue)


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
    if blend == _SCREEN:
        return _screened(below, above)
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


_SIGNAL_WEIGHTS = (0.3, 0.59, 0.11)
"""Of red, green and blue in the specification's Lum(C), 10.2."""


@compiled
def _lum(r: Light, g: Light, b: Light, seen: bool) -> Light:
    wr, wg, wb = _SIGNAL_WEIGHTS if seen else LUMINANCE_WEIGHTS
    return np.float32(wr) * r + np.float32(wg) * g + np.float32(wb) * b


@compiled
def _toned(
    blend: int, u: Light, v: Light, w: Light, r: Light, g: Light, b: Light, seen: bool
) -> tuple[Light, Light, Light]:
    """The blend functions of hue, saturation, colour and luminosity, 10.2: from u, v, w below."""
    most = max(np.float32(1.0), max(max(u, max(v, w)), max(r, max(g, b))))
    level = _lum(u, v, w, seen)
    if blend == _LUMINOSITY:
        return _with_lum(u, v, w, _lum(r, g, b, seen), most, seen)
    if blend == _COLOUR:
        return _with_lum(r, g, b, level, most, seen)
    if blend == _HUE:
        r, g, b = _with_spread(r, g, b, max(u, max(v, w)) - min(u, min(v, w)))
    else:
        r, g, b = _with_spread(u, v, w, max(r, max(g, b)) - min(r, min(g, b)))
    return _with_lum(r, g, b, level, most, seen)


@compiled
def _with_spread(r: Light, g: Light, b: Light, spread: Light) -> tuple[Light, Light, Light]:
    """The specification's SetSat: the least channel at nothing, the greatest at `spread`."""
    least, greatest = min(r, min(g, b)), max(r, max(g, b))
    by = spread / (greatest - least) if greatest > least else np.float32(0.0)
    return (r - least) * by, (g - least) * by, (b - least) * by


@compiled
def _with_lum(
    r: Light, g: Light, b: Light, level: Light, most: Light, seen: bool
) -> tuple[Light, Light, Light]:
    """The specification's SetLum and ClipColor, held to `most` in the place of 1."""
    zero = np.float32(0.0)
    more = level - _lum(r, g, b, seen)
    r, g, b = r + more, g + more, b + more
    least, greatest = min(r, min(g, b)), max(r, max(g, b))
    share = np.float32(1.0)
    if least < zero:
        share = level / (level - least)
    if greatest > most and greatest > level:
        share *= (most - level) / (greatest - level)
    return (
        max(zero, level + (r - level) * share),
        max(zero, level + (g - level) * share),
        max(zero, level + (b - level) * share),
    )
