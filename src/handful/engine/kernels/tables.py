"""Any curve on light: as tables, on premultiplied pictures, without a bound above.

How colour of a px is meant depends on what the px is. One that shines no more than it covers is a
surface: its colour is its light divided by its cover. One that shines twice as much, or covers
nothing, is light, and its colour is its light itself. Between the two the divisor goes evenly.
What a curve makes out of black is added only as far as there is something, so that what is clear
stays clear and no edge of a picture shows.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled
from handful.engine.picture import MOST_LIGHT, Picture

Table = NDArray[np.float32]
Level = Any
"""One `float32` in a compiled loop."""

Curve = Callable[[NDArray[np.float64]], NDArray[np.float64]]

TABLE_SIZE = 4096
TABLE_TOP = 16.0
"""Light up to which a table follows its curve; above it goes on along its last slope."""


def table_of(curve: Curve) -> Table:
    """A table of a curve of light, by the square root of light, so that darks are well kept."""
    light = np.linspace(0, np.sqrt(TABLE_TOP), TABLE_SIZE) ** 2
    with np.errstate(over="ignore", invalid="ignore"):
        values = np.nan_to_num(curve(light), nan=0.0, posinf=MOST_LIGHT)
    return np.clip(values, 0, MOST_LIGHT).astype(np.float32)


@compiled
def divisor(r: Level, g: Level, b: Level, cover: Level) -> Level:
    """What light is divided by to be a colour: cover for surfaces, 1 for light."""
    one = np.float32(1.0)
    brightest = max(r, max(g, b))
    if brightest <= cover:
        return max(cover, np.float32(1e-9))
    if brightest >= np.float32(2.0) * cover:
        return one
    return cover + (one - cover) * (brightest / cover - one)


@compiled
def absent(r: Level, g: Level, b: Level, cover: Level, by: Level) -> Level:
    """The share of what comes out of black that is left out, as there is nothing there."""
    there = max(cover, min(np.float32(1.0), max(r, max(g, b))))
    return max(np.float32(0.0), by - there)


@compiled
def looked_up(table: Table, light: Level) -> Level:
    """The curve at a light, straight between two entries."""
    last = table.shape[0] - 1
    if light >= np.float32(TABLE_TOP):
        step = np.float32(TABLE_TOP) - np.float32(TABLE_TOP) * np.float32((1.0 - 1.0 / last) ** 2)
        slope = (table[last] - table[last - 1]) / step
        return table[last] + slope * (light - np.float32(TABLE_TOP))
    place = np.sqrt(max(light, np.float32(0.0))) * np.float32(last / 4.0)
    index = np.uint32(place)
    part = place - np.float32(index)
    return table[index] + (table[index + np.uint32(1)] - table[index]) * part


@compiled
def through(rows: Picture, tables: NDArray[np.float32]) -> None:
    """Each channel of colour through its table `(3, N)`, in place."""
    red, green, blue = tables[0], tables[1], tables[2]
    zero = np.float32(0.0)
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            r, g, b, cover = line[x, 0], line[x, 1], line[x, 2], line[x, 3]
            by = divisor(r, g, b, cover)
            less = absent(r, g, b, cover, by)
            share = np.float32(1.0) / by
            line[x, 0] = max(zero, by * looked_up(red, r * share) - less * red[0])
            line[x, 1] = max(zero, by * looked_up(green, g * share) - less * green[0])
            line[x, 2] = max(zero, by * looked_up(blue, b * share) - less * blue[0])
