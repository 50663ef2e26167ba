"""Tiles: a part of the picture, again and again."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.forms.places import Places
from handful.engine.kernels.pixels.resample import folded, resampled
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Region, Tile
from handful.engine.values import Point


@register
class Tiles(Step):
    """Repeats a rectangle of the picture over the whole canvas and beyond."""

    family = "place"
    says = "Repeats what is {width} by {height} around {centre}, mirrored {mirrored}."

    centre: Point = setting([960, 540], unit="px", help="Middle of what is repeated.")
    width: float = setting(
        640,
        unit="px",
        drawn="width",
        about="centre",
        least=4,
        most=16384,
        usual=(40, 2000),
        help="Width of what is repeated.",
    )
    height: float = setting(
        360,
        unit="px",
        drawn="height",
        about="centre",
        least=4,
        most=16384,
        usual=(40, 2000),
        help="Height of what is repeated.",
    )
    mirrored: bool = setting(False, help="Whether every other one is mirrored, so that edges meet.")

    def needs(self, wanted: Region, at: At) -> Region:
        left, top, right, bottom = self._cell(at)
        return Region(
            math.floor(left) - 2, math.floor(top) - 2, math.ceil(right) + 2, math.ceil(bottom) + 2
        )

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        places = np.empty((at.wanted.height, at.wanted.width, 2), np.float32)
        in_bands(
            _fold_rows, at.wanted.height, at.wanted.left, at.wanted.top, *self._cell(at),
            3 if self.mirrored else 2, places,
        )  # fmt: skip
        return resampled(tile, places, at.wanted, "clear", at.canvas, may_shrink=False)

    def _cell(self, at: At) -> tuple[float, float, float, float]:
        x, y = self.centre.x * at.scale, self.centre.y * at.scale
        across, down = self.width * at.scale / 2, self.height * at.scale / 2
        return x - across, y - down, x + across, y + down


@compiled
def _fold_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    low_x: float,
    low_y: float,
    high_x: float,
    high_y: float,
    fold: int,
    places: Places,
) -> None:
    for y in range(first, last):
        down = folded(y + top + 0.5, low_y, high_y, fold)
        for x in range(places.shape[1]):
            places[y, x, 0] = folded(x + left + 0.5, low_x, high_x, fold)
            places[y, x, 1] = down
