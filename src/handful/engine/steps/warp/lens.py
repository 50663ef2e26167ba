"""Lens: straight lines bend, as a simple lens bends them."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.forms.places import Places
from handful.engine.kernels.pixels.resample import Edge, resampled, sampled, shrinks_at
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Region, Tile
from handful.engine.values import Point


@register
class Lens(Step):
    """Bends the picture as a lens does: barrel above nothing, pincushion below.

    Brown, "Decentering distortion of lenses", Photogrammetric Engineering 32(3), 1966, its first
    radial term: what is seen at a distance r from the centre comes from r (1 + k r^2), where k is
    the bend and r counts in half diagonals of the canvas.
    """

    family = "warp"
    says = "Bends by {bend} around {centre}, blue {spread} more than red, squeezed {squeeze}, breathing to {size}; its edge is {edge}."

    bend: float = setting(
        12, unit="%", least=-30, most=100, usual=(-30, 60), help="Barrel above 0, pincushion below."
    )
    centre: Point = setting([960, 540], unit="px", help="What stays in its place.")
    spread: float = setting(
        0, unit="%", least=0, most=20, usual=(0, 3), help="How much larger red is than blue, at the corners: colours come apart towards them."
    )  # fmt: skip
    squeeze: float = setting(
        0, unit="%", least=0, most=100, usual=(0, 60), help="How much less it bends across than down, as a lens that squeezes does."
    )  # fmt: skip
    size: float = setting(
        100, unit="%", least=50, most=200, usual=(90, 110), help="How large the picture is: a lens breathes as it is focused."
    )  # fmt: skip
    edge: Edge = setting("clear", help="What comes from beyond the canvas's edge.")

    def needs(self, wanted: Region, at: At) -> Region:
        if self.edge != "clear":
            return at.canvas
        x, y, *_ = self._scaled(at, 0.0)
        across = [
            wanted.left - x,
            wanted.right - x,
            min(max(0.0, wanted.left - x), wanted.right - x),
        ]
        down = [wanted.top - y, wanted.bottom - y, min(max(0.0, wanted.top - y), wanted.bottom - y)]
        # What a place comes from goes farther out with either of its parts: the ends tell all.
        columns, rows = [], []
        for more in (-0.5, 0.0, 0.5):
            _, _, k, wide, by = self._scaled(at, more)
            for u in across:
                for v in down:
                    times = by * _times(k, wide * u, v)
                    columns.append(x + u * times)
                    rows.append(y + v * times)
        found = Region(
            math.floor(min(columns)), math.floor(min(rows)),
            math.ceil(max(columns)), math.ceil(max(rows)),
        )  # fmt: skip
        return found.grown(4)

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        if self.bend == 0 and self.spread == 0 and self.size == 100:
            return tile
        if self.spread == 0:
            return resampled(tile, self._places(at, 0.0), at.wanted, self.edge, at.canvas)
        green = self._places(at, 0.0)
        source = sampled(tile, self.edge, at.canvas, shrinks_at(green))
        result = source.taken(green, at.wanted)
        for channel, more in ((0, -0.5), (2, 0.5)):
            apart = source.taken(self._places(at, more), at.wanted)
            result.pixels[..., channel] = apart.pixels[..., channel]
        return result

    def _places(self, at: At, more: float) -> Places:
        """Where each px comes from, of the colour that is bent so much of the spread more."""
        places = np.empty((at.wanted.height, at.wanted.width, 2), np.float32)
        x, y, k, wide, by = self._scaled(at, more)
        in_bands(
            _bend_rows, at.wanted.height, at.wanted.left, at.wanted.top, x, y, k, wide, by, places
        )
        return places

    def _scaled(self, at: At, more: float) -> tuple[float, float, float, float, float]:
        """The centre in px of the scaled canvas, the bend for each px squared, how much of it there is across,
        and how many times as far away all comes from, of a colour that is so much of the spread more."""
        half = math.hypot(at.canvas.width, at.canvas.height) / 2
        by = 100 / self.size * (1 + more * self.spread / 100)
        k = self.bend / 100 / half**2
        return self.centre.x * at.scale, self.centre.y * at.scale, k, 1 - self.squeeze / 100, by


@compiled
def _times(k: float, dx: float, dy: float) -> float:
    """How many times as far from the centre a place comes from."""
    return 1.0 + max(-1.0 / 3.0, min(3.0, k * (dx * dx + dy * dy)))


@compiled
def _bend_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    x0: float,
    y0: float,
    k: float,
    wide: float,
    size: float,
    places: Places,
) -> None:
    for y in range(first, last):
        dy = y + top + 0.5 - y0
        for x in range(places.shape[1]):
            dx = x + left + 0.5 - x0
            by = size * _times(k, wide * dx, dy)
            places[y, x, 0] = x0 + dx * by
            places[y, x, 1] = y0 + dy * by
