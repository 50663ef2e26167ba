"""Any curve on light: as tables, on premultiplied pictures, without a bound above.

A px is a surface as far as its light does not exceed its cover: there its colour is its light
divided by its cover, and that is what goes through the curve. What it shines beyond its cover is
light of its own, which goes along the curve from where the surface ends. So a px that covers
nothing goes through the curve as it is, an opaque one too, and between both a curve that rises
makes no px darker than one that shines less. What a curve makes out of black is added only as far
as there is something, so that what is clear stays clear and no edge of a picture shows.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, compiled_in
from handful.engine.picture import MOST_LIGHT, Picture

Table = NDArray[np.float32]
Level = Any
"""One `float32` in a compiled loop."""

Numbers = NDArray[np.float64]
Curve = Callable[[Numbers], Numbers]

_FIRST_OCTAVE, _OCTAVES = -24, 40
"""From 2^-24, the least light that a half float holds, up to 2^16, beyond its largest."""

_STEPS_BITS = 8
"""256 entries in each octave: between two of them a power of light is straight to within
p (p - 1) / 8 / 256^2 of itself, 4 millionths for a square."""

_SHIFT = np.uint32(23 - _STEPS_BITS)
_BEGIN = np.uint32((127 + _FIRST_OCTAVE) << _STEPS_BITS)
_PART_MASK = np.uint32((1 << (23 - _STEPS_BITS)) - 1)
_PART = np.float32(2.0 ** -(23 - _STEPS_BITS))
_LEAST, _MOST = np.float32(2.0**_FIRST_OCTAVE), np.float32(MOST_LIGHT)

_LIGHTS = np.concatenate([
    [0.0],
    *(np.ldexp(1 + np.arange(1 << _STEPS_BITS) / (1 << _STEPS_BITS), octave)
      for octave in range(_FIRST_OCTAVE, _FIRST_OCTAVE + _OCTAVES)),
    [2.0 ** (_FIRST_OCTAVE + _OCTAVES)],
])  # fmt: skip


def table_of(curve: Curve) -> Table:
    """A table of a curve of light: its value for none, and then as finely in each octave, so that
    darks and what is far above white are kept alike."""
    with np.errstate(over="ignore", invalid="ignore"):
        values = np.nan_to_num(curve(_LIGHTS), nan=0.0, posinf=MOST_LIGHT)
    return np.clip(values, 0, MOST_LIGHT).astype(np.float32)


@compiled
def divisor(r: Level, g: Level, b: Level, cover: Level) -> Level:
    """What light is divided by to be one colour: cover for surfaces, 1 for light that shines twice
    as much as it covers, and evenly between."""
    one = np.float32(1.0)
    brightest = max(r, max(g, b))
    if brightest <= cover:
        return max(cover, np.float32(1e-9))
    if brightest >= np.float32(2.0) * cover:
        return one
    return cover + (one - cover) * (brightest / cover - one)


@compiled
def there(r: Level, g: Level, b: Level, cover: Level) -> Level:
    """How much there is of a px, from 0 to 1: what it covers, or its brightest channel."""
    return max(cover, min(np.float32(1.0), max(r, max(g, b))))


@compiled_in
def looked_up(table: Table, light: Level) -> Level:
    """The curve at a light, straight between two entries: a float's own bits say which."""
    if not light >= _LEAST:
        return table[0] + (table[1] - table[0]) * max(light / _LEAST, np.float32(0.0))
    bits = np.float32(min(light, _MOST)).view(np.uint32)
    index = np.uint64((bits >> _SHIFT) - _BEGIN + np.uint32(1))
    part = np.float32(bits & _PART_MASK) * _PART
    return table[index] + (table[index + np.uint64(1)] - table[index]) * part


@compiled_in
def _changed(table: Table, light: Level, cover: Level, more: Level) -> Level:
    """A channel through the curve; `more` is how much is there beyond what is covered."""
    black = more * table[0]
    if light <= cover:
        share = cover * looked_up(table, light / cover) if cover > np.float32(0.0) else light
        return max(np.float32(0.0), share + black)
    beyond = looked_up(table, light) - looked_up(table, cover)
    if cover > np.float32(0.0):
        beyond += cover * looked_up(table, np.float32(1.0))
    return max(np.float32(0.0), beyond + black)


@compiled
def through(rows: Picture, tables: NDArray[np.float32]) -> None:
    """Each channel of colour through its table `(3, N)`, in place."""
    red, green, blue = tables[0], tables[1], tables[2]
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            r, g, b, cover = line[x, 0], line[x, 1], line[x, 2], line[x, 3]
            more = there(r, g, b, cover) - cover
            line[x, 0] = _changed(red, r, cover, more)
            line[x, 1] = _changed(green, g, cover, more)
            line[x, 2] = _changed(blue, b, cover, more)
