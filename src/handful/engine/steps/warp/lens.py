"""Lens: straight lines bend, as a simple lens bends them."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.forms.places import Places
from handful.engine.kernels.pixels.resample import Edge, resampled
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
    says = "Bends by {bend} around {centre}; its edge is {edge}."

    bend: float = setting(
        12, unit="%", least=-30, most=100, usual=(-30, 60), help="Barrel above 0, pincushion below."
    )
    centre: Point = setting([960, 540], unit="px", help="What stays in its place.")
    edge: Edge = setting("clear", help="What comes from beyond the canvas's edge.")

    def needs(self, wanted: Region, at: At) -> Region:
        if self.edge != "clear":
            return at.canvas
        x, y, k = self._scaled(at)
        across = [
            wanted.left - x,
            wanted.right - x,
            min(max(0.0, wanted.left - x), wanted.right - x),
        ]
        down = [wanted.top - y, wanted.bottom - y, min(max(0.0, wanted.top - y), wanted.bottom - y)]
        # What a place comes from goes farther out with either of its parts: the ends tell all.
        by = [(u, v, _times(k, u, v)) for u in across for v in down]
        columns, rows = [x + u * times for u, _, times in by], [y + v * times for _, v, times in by]
        found = Region(
            math.floor(min(columns)), math.floor(min(rows)),
            math.ceil(max(columns)), math.ceil(max(rows)),
        )  # fmt: skip
        return found.grown(4)

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        if self.bend == 0:
            return tile
        places = np.empty((at.wanted.height, at.wanted.width, 2), np.float32)
        in_bands(
            _bend_rows, at.wanted.height, at.wanted.left, at.wanted.top, *self._scaled(at), places
        )
        return resampled(tile, places, at.wanted, self.edge, at.canvas)

    def _scaled(self, at: At) -> tuple[float, float, float]:
        """The centre in px of the scaled canvas, and the bend for each px squared."""
        half = math.hypot(at.canvas.width, at.canvas.height) / 2
        return self.centre.x * at.scale, self.centre.y * at.scale, self.bend / 100 / half**2


@compiled
def _times(k: float, dx: float, dy: float) -> float:
    """How many times as far from the centre a place comes from."""
    return 1.0 + max(-1.0 / 3.0, min(3.0, k * (dx * dx + dy * dy)))


@compiled
def _bend_rows(
    first: int, last: int, left: int, top: int, x0: float, y0: float, k: float, places: Places
) -> None:
    for y in range(first, last):
        dy = y + top + 0.5 - y0
        for x in range(places.shape[1]):
            dx = x + left + 0.5 - x0
            by = _times(k, dx, dy)
            places[y, x, 0] = x0 + dx * by
            places[y, x, 1] = y0 + dy * by
