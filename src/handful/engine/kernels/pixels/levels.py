"""A field of numbers as light, cover, a height or offsets: how much of it shows."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled
from handful.engine.picture import Picture

Field = NDArray[np.float32]
Number = np.float32


@compiled
def _eased(value: Number, soft: Number) -> Number:
    """From 0 to 1, bent within `soft` of both instead of broken."""
    zero, one, four = np.float32(0.0), np.float32(1.0), np.float32(4.0)
    if soft > zero:
        if -soft < value < soft:
            value = (value + soft) * (value + soft) / (four * soft)
        elif -soft < one - value < soft:
            value = one - (one - value + soft) * (one - value + soft) / (four * soft)
    return min(one, max(zero, value))


@compiled
def show_rows(
    first: int,
    last: int,
    field: Field,
    contrast: Number,
    shift: Number,
    soft: Number,
    way: Number,
    fades: Field,
    colour: Field,
    covers: bool,
    picture: Picture,
) -> None:
    """A field `(H, W, 1)` around 0 as light of a colour, or with cover, turned round where `way` is -1;
    `fades` `(H,)` is how much of each row there is."""
    half = np.float32(0.5)
    for y in range(first, last):
        row, line = field[y], picture[y]
        for x in range(row.shape[0]):
            value = row[x, 0]
            if value > np.float32(-np.inf):
                value = _eased(half + half * contrast * way * value + shift, soft)
            else:
                value = np.float32(0.0)
            value *= fades[y]
            for c in range(3):
                line[x, c] = value * colour[c]
            line[x, 3] = value if covers else np.float32(0.0)


@compiled
def push_rows(
    first: int,
    last: int,
    field: Field,
    amount: Number,
    shift: Number,
    fades: Field,
    result: Field,
) -> None:
    """A field `(H, W, N)` around 0 as signed numbers, `amount` where it is 1."""
    for y in range(first, last):
        row, line = field[y], result[y]
        for x in range(row.shape[0]):
            for c in range(row.shape[1]):
                value = row[x, c]
                there = value > np.float32(-np.inf)
                line[x, c] = amount * (value + shift) * fades[y] if there else np.float32(0.0)
