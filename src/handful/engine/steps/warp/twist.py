"""Twist: swirls, swells, pinches or ripples the picture about a place."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.forms.places import Places
from handful.engine.kernels.pixels.resample import Edge, resampled
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Region, Tile
from handful.engine.values import Point


@register
class Twist(Step):
    """Swirls the picture about a place, swells or pinches it there, or sends ripples out from it, and leaves
    all beyond its radius as it is.

    It never folds: a swirl keeps every area, a swelling is held to where distances still grow outwards, and
    so are ripples.
    """

    family = "warp"
    says = (
        "It {way} within {radius} of {centre}: by {turn}, by {swell}, or by {amount} in waves of {length} at "
        "{phase}; its edge is {edge}."
    )
    example = {"turn": 180}

    way: Literal["swirls", "swells", "ripples"] = setting(
        "swirls", help="Turns the most in the middle; swells, or below nothing pinches; or ripples."
    )
    centre: Point = setting([960, 540], unit="px", help="The place.")
    radius: float = setting(
        400, unit="px", drawn="radius", about="centre", least=1, most=20000, usual=(20, 1500),
        help="Beyond it all stays.",
    )  # fmt: skip
    turn: float = setting(
        90,
        unit="°",
        least=-7200,
        most=7200,
        usual=(-360, 360),
        help="Swirls: how far the middle turns.",
    )
    swell: float = setting(
        40,
        unit="%",
        least=-90,
        most=90,
        help="Swells: how much larger the middle is; below nothing, smaller.",
    )
    amount: float = setting(
        10, unit="px", least=-1000, most=1000, usual=(-60, 60), help="Ripples: how far they push."
    )
    length: float = setting(
        120, unit="px", least=4, most=20000, usual=(20, 600), help="Ripples: from crest to crest."
    )
    phase: float = setting(
        {"moves": "rate", "start": 0, "per_second": 1}, unit="cycles", least=-1e6, most=1e6, usual=(0, 10),
        help="Ripples: how far they have run outwards.",
    )  # fmt: skip
    edge: Edge = setting("mirror", help="What comes from beyond the canvas's edge.")

    def needs(self, wanted: Region, at: At) -> Region:
        about = self._about(at)
        if wanted.meet(about).empty:
            return wanted
        return wanted.around(about if self.edge == "clear" else about.meet(at.canvas))

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        region = at.wanted.meet(self._about(at))
        if region.empty:
            return tile
        places = np.empty((region.height, region.width, 2), np.float32)
        in_bands(
            _twist_rows, region.height, region.left, region.top, ("swirls", "swells", "ripples").index(self.way),
            (self.centre.x * at.scale, self.centre.y * at.scale), self.radius * at.scale,
            math.radians(self.turn), self.swell / 100, self._held(), self.length * at.scale,
            self.phase, at.scale, places,
        )  # fmt: skip
        inside = resampled(tile, places, region, self.edge, at.canvas)
        covered = tile.region.around(region).meet(at.wanted)
        result = Tile(tile.within(covered).copy(), covered)
        result.within(region)[...] = inside.within(region)
        return result

    def _about(self, at: At) -> Region:
        x, y, r = (part * at.scale for part in (*self.centre, self.radius))
        return Region(math.floor(x - r), math.floor(y - r), math.ceil(x + r), math.ceil(y + r))

    def _held(self) -> float:
        """How far ripples push, held to where none overtakes another."""
        most = _STEEPEST / (2 * math.pi / self.length + _FADE / self.radius)
        return max(-most, min(most, self.amount))


_STEEPEST = 0.95
"""Of the slope at which a picture would fold."""

_FADE = 2.1
"""The slope of the fade over a radius where it is steepest, and a little."""


@compiled
def _twist_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    way: int,
    centre: tuple[float, float],
    radius: float,
    turn: float,
    swell: float,
    amount: float,
    length: float,
    phase: float,
    scale: float,
    places: Places,
) -> None:
    """Where each px comes from; how much of it there is fades to the radius as (1 − r² / R²)²."""
    x0, y0 = centre
    for y in range(first, last):
        dy = y + top + 0.5 - y0
        for x in range(places.shape[1]):
            dx = x + left + 0.5 - x0
            away = math.sqrt(dx * dx + dy * dy)
            part = max(0.0, 1.0 - (away / radius) ** 2)
            there = part * part
            to_x, to_y = dx, dy
            if way == 0:
                cosine, sine = math.cos(-turn * there), math.sin(-turn * there)
                to_x, to_y = dx * cosine - dy * sine, dx * sine + dy * cosine
            elif way == 1:
                by = 1.0 - swell * there
                to_x, to_y = dx * by, dy * by
            elif away > 0.0:
                wave = math.sin(2.0 * math.pi * (away / length - phase))
                by = amount * scale * there * wave * min(1.0, away / (0.25 * length)) / away
                to_x, to_y = dx - by * dx, dy - by * dy
            places[y, x, 0] = x0 + to_x
            places[y, x, 1] = y0 + to_y
