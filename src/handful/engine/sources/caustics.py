"""Caustics: the net of light that waves throw on what lies below them."""

from __future__ import annotations

import math
from typing import Any, Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.drawing.lit import light_of
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.fluid.water import (
    FINER,
    INDEX,
    Sea,
    Sun,
    light_below,
    slopes_of,
    summed,
    waves_at,
)
from handful.engine.kernels.pixels.repeated import AS_IT_IS, Rows, Seen, laid_on_rows, passing
from handful.engine.kinds import At, Others, Planned, Planning, Source, clockwise, register, setting
from handful.engine.picture import Picture, PictureKind, Region, Tile, clear_tile, unset
from handful.engine.values import Point


@register
class Caustics(Source):
    """The net of light that waves on water throw on what lies below, or by mirroring above them.

    Waves of a published spectrum run by ω² = g k tanh(k h); rays are refracted where they go in and
    added up where they fall, so that the light is that of still water in the mean: where it is bright
    the light is taken from beside. As a height the waves themselves bend what they are held before.
    """

    family = "water"
    fills = True
    says = (
        "Makes {comes_as} of waves up to {longest} long and down to {finest}, {steep} steep, on water "
        "{depth} deep, {together} of them running {running}, {time} on, returning after {returns}. Light "
        "comes from {low} off overhead, {sun_from}, {wide} wide, with colours {spread} apart; without "
        "{even} of the even light, in {colour} at {light}. As a height they rise {rise}. A metre is "
        "{metre}, laid {laid} about {at}, {near} before a horizon, turned {direction}."
    )

    comes_as: Literal["light", "height"] = setting(
        "light", help="The light on the floor, or the waves as a height, to bend what is behind."
    )
    longest: float = setting(
        0.9, unit="m", least=0.01, most=500, usual=(0.1, 5), help="Length of the longest waves."
    )
    finest: float = setting(
        0.14, unit="m", least=0.001, most=500, usual=(0.02, 1), help="Length of the finest."
    )
    steep: float = setting(
        9, unit="%", least=0, most=60, usual=(1, 25), help="How steep they are in the mean."
    )
    depth: float = setting(
        1.2,
        unit="m",
        least=0.01,
        most=500,
        usual=(0.1, 6),
        help="How far the floor is below: deeper is a larger, softer net, and longer waves run faster.",
    )
    together: float = setting(
        30, unit="%", least=0, most=100, help="How much the waves run the same way."
    )
    running: float = clockwise(20, about="at", help="Whither they run.")
    time: float = setting(
        {"moves": "rate", "start": 0, "per_second": 1},
        unit="s",
        least=-1e6,
        most=1e6,
        usual=(0, 20),
        returns="returns",
        help="How long they have run: by 1 a second at their true pace.",
    )
    returns: int = setting(
        0,
        unit="s",
        least=0,
        most=1000,
        usual=(0, 24),
        help="After how long all is as it was; 0 is never.",
    )
    low: float = setting(
        25, unit="°", least=0, most=80, help="How far from overhead the light stands."
    )
    sun_from: float = clockwise(-110, about="at", help="Where it shines from.")
    wide: float = setting(
        0.5,
        unit="°",
        least=0,
        most=30,
        usual=(0, 6),
        help="How wide the light is seen: the sun half a degree, a lamp more. A wide one is soft.",
    )
    spread: float = setting(
        2, unit="%", least=0, most=30, usual=(0, 8), help="How much more blue is bent than red."
    )
    even: float = setting(
        60,
        unit="%",
        least=0,
        most=100,
        help="How much of the light that still water leaves is left out.",
    )
    colour: Colour = setting("#d8fff2", help="Its colour.")
    light: float = setting(
        -1.6, unit="stops", least=-12, most=12, usual=(-5, 4), help="How bright it is."
    )
    rise: float = setting(
        100,
        unit="%",
        least=-2000,
        most=2000,
        usual=(0, 400),
        help="As a height: how high, of what they are.",
    )
    metre: float = setting(
        420,
        unit="px",
        drawn="radius",
        about="at",
        least=2,
        most=20000,
        usual=(20, 2000),
        help="How large a metre is.",
    )
    laid: Literal["flat", "on the ground"] = setting(
        "flat", help="Flat on the picture, or on ground that goes back to a horizon."
    )
    at: Point = setting(
        [960, 360], unit="px", help="The middle, or the point where the ground vanishes."
    )
    near: float = setting(
        400,
        unit="px",
        drawn="below",
        about="at",
        least=-20000,
        most=20000,
        usual=(-1500, 1500),
        help="On the ground: how far below the horizon a metre has its size; above for a ceiling.",
    )
    direction: float = clockwise(0, about="at", help="How far the floor is turned.")
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is other water."
    )

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        made: PictureKind = written.comes_as
        return made

    def planned(self, ask: Planning) -> Planned:
        turn = math.radians(self.direction)
        sea = Sea(
            _SQUARE * self.longest, self.longest, min(self.finest, self.longest), self.depth,
            self.steep / 100, self.together / 100, math.radians(self.running) - turn, float(self.returns),
        )  # fmt: skip
        seconds = self.time % self.returns if self.returns else self.time
        laid = _Laid(
            self.at, self.metre, turn, (self.near or 1e-3) if self.laid == "on the ground" else None
        )
        water = _Water(sea, round(seconds, 9), self.seed)
        if self.comes_as == "height":
            return ask.drawn(_High(laid, sea.side, self.metre * self.rise / 100), ask.drawn(water))
        sun = Sun(math.radians(self.low), math.radians(self.sun_from) - turn + math.pi)
        fallen = _Fallen(water, sun, self.depth, self.wide, self.spread / 100)
        shone = _Shone(laid, sea.side, self.even / 100, self.colour, self.light)
        return ask.drawn(shone, ask.drawn(fallen))


_SQUARE = 6
"""Of the longest waves a square of water holds so many."""

_FARTHEST = 1e4
"""So many times as far as near, the floor is no more seen."""

_HORIZON = 0.35
"""Over this part of `near` the ground comes up from nothing at the horizon."""


class _Laid(NamedTuple):
    """How a square of water lies on the canvas: about a place, with so many px for a metre, turned by
    radians; with the horizon at the place and that size so many px below it, if it goes back."""

    at: Point
    metre: float
    turn: float
    near: float | None

    def on(self, square: Tile, side: float, at: At, seen: Seen = AS_IT_IS) -> Tile:
        """A square of so many metres, repeated all over the floor, as seen on what is wanted."""
        region = at.wanted
        if region.empty:
            return clear_tile(region)
        result = unset(region)
        laid_on_rows(square.pixels, self._rows(square.region.width / side, at), result, seen)
        return Tile(result, region)

    def _rows(self, parts: float, at: At) -> Rows:
        """Where rows of what is wanted lie on a square with so many parts for a metre."""
        region, scale = at.wanted, at.scale
        cells, px = parts / self.metre, 1 / scale
        below = (np.arange(region.top, region.bottom) + 0.5) / scale - self.at.y
        aside = (region.left + 0.5) / scale - self.at.x
        if self.near is None:
            large, shrinks = np.ones_like(below), np.zeros_like(below)
            deep, deeper = below, np.full_like(below, px)
            strong = large
        else:
            large = np.divide(self.near, below, where=below != 0, out=np.full_like(below, np.inf))
            seen = (large > 0) & (large < _FARTHEST)
            large = np.where(seen, large, 1.0)
            deep, shrinks = (
                -self.near * large,
                np.where(seen, -px * large / np.where(seen, below, 1), 0),
            )
            deeper = -self.near * shrinks
            strong = np.where(seen, [smooth(min(1.0, 1 / by / _HORIZON)) for by in large], 0.0)
        c, s = math.cos(self.turn) * cells, math.sin(self.turn) * cells
        return Rows(
            aside * large * c + deep * s, deep * c - aside * large * s,
            px * large * c, -px * large * s,
            aside * shrinks * c + deeper * s, deeper * c - aside * shrinks * s,
            px * shrinks * c, -px * shrinks * s, strong,
        )  # fmt: skip


class _Water(NamedTuple):
    """The waves of a square of water at a moment, as a height in metres, so that a spline about its places goes
    through the waves."""

    sea: Sea
    seconds: float
    seed: int

    def draw(self, at: At, *others: Tile) -> Tile:
        waves, _ = waves_at(self.sea, self.seconds, at.key("water", self.seed))
        side = len(waves)
        square = Tile(np.zeros((side, side, 4), np.float32), Region(0, 0, side, side))
        square.pixels[..., 0] = summed(waves / passing(side)).real
        return square

    def slopes(self, at: At) -> NDArray[np.float32]:
        return slopes_of(waves_at(self.sea, self.seconds, at.key("water", self.seed))[1])


class _Fallen(NamedTuple):
    """The light on the floor below a square of water, as red, green and blue that are 1 in the mean."""

    water: _Water
    sun: Sun
    depth: float
    wide: float
    spread: float

    def draw(self, at: At, *others: Tile) -> Tile:
        slopes = self.water.slopes(at)
        side = self.water.sea.side
        cell = side / len(slopes)
        ways = (-0.5, 0.0, 0.5) if self.spread > 0 else (0.0,)
        indices = [1 + (INDEX - 1) * (1 + self.spread * way) for way in ways]
        blur = self.depth * math.tan(math.radians(self.wide)) / INDEX / _DISC / cell * FINER
        beside = (_SMOOTH + blur * blur) / 2
        is_wide = beside > _MOST_BESIDE
        light = light_below(
            slopes, cell, self.depth, indices, self.sun, _SMOOTH / 2 if is_wide else beside, is_wide
        )
        count = len(light)
        return Tile(_blurred_round(light, blur) if is_wide else light, Region(0, 0, count, count))


_DISC = 4.0
"""The width of an even disc, of the deviation of the light that it throws along a line."""

_SMOOTH = 0.5
"""The variance, in parts of the floor, of the blur that hides single rays."""

_MOST_BESIDE = 1 / 3
"""How much a part may take from either side; where more is to be taken, what is about it is blurred before."""


def _blurred_round(square: Picture, deviation: float) -> Picture:
    """Blurred on a square that repeats, at the most by a quarter of it."""
    deviation = min(deviation, len(square) / 16)
    edge = math.ceil(4 * deviation)
    around = np.pad(square, ((edge, edge), (edge, edge), (0, 0)), "wrap")
    blurred = cv2.GaussianBlur(around, (0, 0), deviation)
    return np.ascontiguousarray(blurred[edge:-edge, edge:-edge])


class _Shone(NamedTuple):
    """How that light looks where it falls."""

    laid: _Laid
    side: float
    even: float
    colour: Colour
    light: float

    def draw(self, at: At, *others: Tile) -> Tile:
        red, green, blue = light_of(self.colour, self.light).tolist()
        return self.laid.on(others[0], self.side, at, Seen(self.even, (red, green, blue, 0.0)))


class _High(NamedTuple):
    """The waves as a height in px."""

    laid: _Laid
    side: float
    metre: float

    def draw(self, at: At, *others: Tile) -> Tile:
        found = self.laid.on(others[0], self.side, at)
        return Tile(found.pixels[..., 0] * np.float32(self.metre), found.region)
