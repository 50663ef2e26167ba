"""Grain: as of film, new on every frame."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.noise import hashed
from handful.engine.kernels.compiled import compiled
from handful.engine.kinds import At, Changer, Pointwise, register, setting
from handful.engine.picture import Picture


@register
class Grain(Pointwise):
    """Makes the light uneven in grains of a size, in proportion to it; what is black stays black."""

    family = "colour"
    says = "Grain of {size}, {amount} strong, the same for {channels}, changing at {change}."

    size: float = setting(2.5, unit="px", least=1, most=200, usual=(1, 20), help="Size of a grain.")
    amount: float = setting(
        8, unit="%", least=0, most=200, usual=(0, 50), help="Deviation of the light, of itself."
    )
    channels: Literal["all channels", "no channels"] = setting(
        "no channels", help="Grain of one colour, or of each channel by itself."
    )
    change: float = setting(
        {"moves": "formula", "value": 0, "formula": "f"},
        unit="changes",
        least=-1e7,
        most=1e7,
        usual=(0, 100),
        help="Another grain at each whole number: the frame makes a new one on each.",
    )

    def changer(self, at: At) -> Changer:
        key = at.key("grain", math.floor(self.change))
        size = self.size * at.scale
        amount = self.amount / 100 * min(1.0, size)
        is_grey = self.channels == "all channels"
        return lambda rows, place: _roughen(
            rows, place.left, place.top, max(1.0, size), amount, is_grey, key.first, key.second
        )


@compiled
def _roughen(
    rows: Picture, left: int, top: int, size: float, amount: float, is_grey: bool, k0: int, k1: int
) -> None:
    """A normal number at each place of a lattice of `size`, mixed between with the same variance."""
    height, width = rows.shape[0], rows.shape[1]
    low = int(np.floor((left + 0.5) / size))
    count = int(np.floor((left + width + 0.5) / size)) + 2 - low
    lines = np.empty((2, count, 3), np.float32)
    held = -(1 << 40)
    strength = np.float32(amount)
    for y in range(height):
        place = (y + top + 0.5) / size
        row = int(np.floor(place))
        t = np.float32(place - row)
        if row != held:
            for j in range(2):
                for i in range(count):
                    _fill(lines[j, i], low + i, row + j, is_grey, k0, k1)
            held = row
        line = rows[y]
        for x in range(width):
            place = (x + left + 0.5) / size
            column = int(np.floor(place))
            s = np.float32(place - column)
            column -= low
            w00, w01 = (np.float32(1) - s) * (np.float32(1) - t), s * (np.float32(1) - t)
            w10, w11 = (np.float32(1) - s) * t, s * t
            even = strength / np.sqrt(w00 * w00 + w01 * w01 + w10 * w10 + w11 * w11)
            for n in range(3):
                above = w00 * lines[0, column, n] + w01 * lines[0, column + 1, n]
                noise = above + w10 * lines[1, column, n] + w11 * lines[1, column + 1, n]
                line[x, n] *= max(np.float32(0.0), np.float32(1.0) + even * noise)


@compiled
def _fill(values: NDArray[np.float32], x: int, y: int, is_grey: bool, k0: int, k1: int) -> None:
    """Three nearly normal numbers of deviation 1: sums of four bytes each."""
    a, b = hashed(x, y, 0, k0, k1)
    values[0] = _normal(a)
    if is_grey:
        values[1], values[2] = values[0], values[0]
        return
    values[1] = _normal(b)
    c, _ = hashed(x, y, 1, k0, k1)
    values[2] = _normal(c)


@compiled
def _normal(word: np.uint32) -> np.float32:
    total = (
        (word & np.uint32(255))
        + ((word >> np.uint32(8)) & np.uint32(255))
        + ((word >> np.uint32(16)) & np.uint32(255))
        + (word >> np.uint32(24))
    )
    return (np.float32(total) - np.float32(510.0)) * np.float32(1.0 / 147.8)
