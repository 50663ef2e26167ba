"""Displace: pushes the picture about by another layer's values."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.forms.places import Places
from handful.engine.kernels.lengths import way_length
from handful.engine.kernels.pixels.resample import Edge, resampled
from handful.engine.kinds import At, LayerId, Step, register, setting
from handful.engine.picture import ANY_KIND, LUMINANCE_WEIGHTS, Matte, Picture, Region, Tile


@register
class Displace(Step):
    """Pushes the picture about by another layer: by its offsets, by the slope of its height, by its red
    and green, or by the slope of its brightness taken as a height.

    Values are signed: below the middle they push the other way. Nothing is pushed farther than
    the amount in any direction: a longer way is shortened to it. Offsets push by as many px as they
    say, the other way where the amount is below 0; a height pushes by its slope times the amount.
    """

    family = "warp"
    says = "Pushes by {amount} for each 1 of the layer {by}, read as {reads} around {middle}."

    by: LayerId = setting("", takes=ANY_KIND, help="The layer whose values push.")
    amount: float = setting(
        40,
        unit="px",
        least=-4000,
        most=4000,
        usual=(-300, 300),
        help="The push where a value is 1 above the middle, where brightness rises by 1 in 10 px, or a "
        "height by 1 px in 1; the most that offsets push.",
    )
    reads: Literal["x and y", "height"] = setting(
        "x and y", help="Red across and green down, or the slope of brightness."
    )
    middle: float = setting(
        0, least=-1, most=1, help="The value that pushes nothing: 0 for signed pictures."
    )
    edge: Edge = setting("clear", help="What comes from beyond the canvas's edge.")

    def reach(self) -> float:
        return abs(self.amount) + 2

    def needs(self, wanted: Region, at: At) -> Region:
        return super().needs(wanted, at) if self.edge == "clear" else at.canvas

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        if not others or self.amount == 0:
            return tile
        region = at.wanted
        if self.edge == "clear":
            region = tile.region.grown(math.ceil(self.reach() * at.scale)).meet(region)
        values = np.ascontiguousarray(others[0].within(region.grown(1)))
        places = np.empty((region.height, region.width, 2), np.float32)
        amount = self.amount * at.scale
        if others[0].kind == "offsets":
            in_bands(
                _shift_rows, region.height, values, region.left, region.top, at.scale,
                math.copysign(1, self.amount), abs(self.amount), places,
            )  # fmt: skip
            return resampled(tile, places, region, self.edge, at.canvas)
        if others[0].kind == "height":
            in_bands(
                _slide_rows, region.height, values, region.left, region.top, amount * at.scale,
                abs(amount), places,
            )  # fmt: skip
            return resampled(tile, places, region, self.edge, at.canvas)
        if self.reads == "height":
            amount *= _HEIGHT_PX * at.scale
        most = abs(self.amount) * at.scale
        in_bands(
            _push_rows, region.height, values, region.left, region.top, amount, self.middle,
            self.reads == "height", most, places,
        )  # fmt: skip
        return resampled(tile, places, region, self.edge, at.canvas)


_HEIGHT_PX = 10.0
"""px of the full-size canvas over which a height of 1 makes a slope that pushes in full."""


@compiled
def _shift_rows(
    first: int,
    last: int,
    offsets: Places,
    left: int,
    top: int,
    scale: float,
    way: float,
    most: float,
    places: Places,
) -> None:
    for y in range(first, last):
        for x in range(places.shape[1]):
            across, down = offsets[y + 1, x + 1, 0], offsets[y + 1, x + 1, 1]
            far = way_length(across, down)
            share = way * scale * min(1.0, most / far) if far > 0.0 else 0.0
            places[y, x, 0] = x + left + 0.5 - across * share
            places[y, x, 1] = y + top + 0.5 - down * share


@compiled
def _slide_rows(
    first: int,
    last: int,
    heights: Matte,
    left: int,
    top: int,
    amount: float,
    most: float,
    places: Places,
) -> None:
    """By the slope of a height in px, down it where the amount is above 0."""
    for y in range(first, last):
        for x in range(places.shape[1]):
            across = 0.5 * amount * (heights[y + 1, x + 2] - heights[y + 1, x])
            down = 0.5 * amount * (heights[y + 2, x + 1] - heights[y, x + 1])
            far = way_length(across, down)
            share = min(1.0, most / far) if far > 0.0 else 0.0
            places[y, x, 0] = x + left + 0.5 - across * share
            places[y, x, 1] = y + top + 0.5 - down * share


@compiled
def _push_rows(
    first: int,
    last: int,
    values: Picture,
    left: int,
    top: int,
    amount: float,
    middle: float,
    is_height: bool,
    most: float,
    places: Places,
) -> None:
    red, green, blue = LUMINANCE_WEIGHTS
    for y in range(first, last):
        for x in range(places.shape[1]):
            if is_height:
                across, down = 0.0, 0.0
                for c in range(3):
                    weight = 0.5 * (red if c == 0 else green if c == 1 else blue)
                    across += weight * (values[y + 1, x + 2, c] - values[y + 1, x, c])
                    down += weight * (values[y + 2, x + 1, c] - values[y, x + 1, c])
            else:
                across, down = values[y + 1, x + 1, 0] - middle, values[y + 1, x + 1, 1] - middle
            far = abs(amount) * way_length(across, down)
            push = amount * min(1.0, most / far) if far > 0.0 else 0.0
            places[y, x, 0] = x + left + 0.5 - across * push
            places[y, x, 1] = y + top + 0.5 - down * push
