"""Water: a sea or a lake from its near waves to the horizon."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.drawing.lit import light_of
from handful.engine.kernels.drawing.sea import Colours, Eye, Sky, Slopes, draw_sea, sizes_of
from handful.engine.kernels.fluid.water import Sea, slopes_of, waves_at
from handful.engine.kinds import At, Planned, Planning, Source, clockwise, register, setting
from handful.engine.picture import Tile
from handful.engine.values import Point

_SQUARE = 6
"""Of the longest waves a square of water holds so many."""

_LEAST_WIDE = 0.012


@register
class Water(Source):
    """Open water seen from above it: waves that mirror the sky and let a lamp or the moon glitter, out to
    the horizon. They run at their true pace.

    Its waves are slopes: they do not hide one another, so they had better be lower than the eye is high.
    """

    family = "water"
    fills = True
    says = (
        "Water out to the horizon at {at}, seen {eye} above it through a lens of {lens}. Waves from {longest} to "
        "{finest} long, {steep} steep, {together} running together {running}, {depth} deep, after {time}, returning after {returns}. "
        "The sky is {sky_low} low and {sky_high} high at {sky_light}; the water {body} at {body_light}. A lamp at {lamp_at} "
        "throws {lamp} at {lamp_light}, {lamp_wide} wide. Misty {mist}."
    )

    at: Point = setting([960, 470], unit="px", help="Where the water vanishes: its horizon.")
    eye: float = setting(
        2.2, unit="m", least=0.05, most=2000, usual=(0.3, 30), help="How high above it one is."
    )
    lens: float = setting(
        1500, unit="px", least=50, most=50_000, usual=(400, 5000),
        help="From how far the picture is seen: less is wider.",
    )  # fmt: skip
    longest: float = setting(
        9, unit="m", least=0.05, most=1000, usual=(0.5, 80), help="Length of the longest waves."
    )
    finest: float = setting(
        0.12, unit="m", least=0.005, most=500, usual=(0.02, 2), help="Length of the finest."
    )
    steep: float = setting(
        11, unit="%", least=0, most=60, usual=(1, 25), help="How steep they are in the mean."
    )
    together: float = setting(
        70, unit="%", least=0, most=100, help="How much the waves run the same way."
    )
    running: float = clockwise(100, about="at", help="Whither they run: 90 is towards the eye.")
    depth: float = setting(
        60, unit="m", least=0.05, most=5000, usual=(0.5, 100), help="How deep it is: shallow waves are slow."
    )  # fmt: skip
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
        0, unit="s", least=0, most=1000, usual=(0, 24), help="After how long all is as it was; 0 is never."
    )  # fmt: skip
    sky_low: Colour = setting("#8ea6bd", help="The sky at the horizon.")
    sky_high: Colour = setting("#1d2f4a", help="The sky high above.")
    sky_light: float = setting(
        -2.5, unit="stops", least=-16, most=12, usual=(-8, 2), help="How bright the sky is."
    )
    body: Colour = setting("#0c2a33", help="What colour the water has of its own.")
    body_light: float = setting(
        -3, unit="stops", least=-16, most=12, usual=(-8, 2), help="How bright that is."
    )
    lamp_at: Point = setting(
        [1250, 190], unit="px", help="Where a lamp, the moon or the sun stands on the picture."
    )
    lamp: Colour = setting("#fff0d2", help="The colour of its light.")
    lamp_light: float = setting(
        2, unit="stops", least=-20, most=16, usual=(-4, 8), help="How bright its glitter is."
    )
    lamp_wide: float = setting(
        0.6, unit="°", least=0, most=40, usual=(0.2, 8), help="How wide it is seen."
    )
    mist: float = setting(
        40, unit="%", least=0, most=100, help="How much the far water is lost in the sky."
    )
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is other water."
    )

    def planned(self, ask: Planning) -> Planned:
        sea = Sea(
            _SQUARE * self.longest, self.longest, min(self.finest, self.longest), self.depth,
            self.steep / 100, self.together / 100, math.radians(-self.running), float(self.returns),
        )  # fmt: skip
        seconds = self.time % self.returns if self.returns else self.time
        return ask.drawn(_Looked(self), ask.state(_Waves(sea, round(seconds, 9), self.seed)))

    def sky(self) -> Sky:
        """What is mirrored."""
        x, y = self.lamp_at.x - self.at.x, self.at.y - self.lamp_at.y
        long = math.sqrt(x * x + y * y + self.lens**2)
        wide = math.tan(math.radians(max(0.0, self.lamp_wide)) / 4)
        return Sky(
            low=_light(self.sky_low, self.sky_light),
            high=_light(self.sky_high, self.sky_light),
            body=_light(self.body, self.body_light),
            way=(x / long, y / long, self.lens / long),
            lamp=_light(self.lamp, self.lamp_light - _GLITTERS),
            wide=wide * wide + _LEAST_WIDE**2,
            mist=self.mist / 100,
        )


_GLITTERS = 6.0
"""Stops by which a lamp's light is more than what its glitter is in the mean."""


class _Waves(NamedTuple):
    """The slopes of a square of water at a moment."""

    sea: Sea
    seconds: float
    seed: int

    def next(self, at: At, *before: Tile) -> Slopes:
        waves = waves_at(self.sea, self.seconds, at.key("water", self.seed))
        return sizes_of(slopes_of(waves[1]))


class _Looked(NamedTuple):
    """How that water looks."""

    made: Water

    def draw(self, at: At, slopes: Slopes) -> Tile:
        made = self.made
        eye = Eye(made.at.x, made.at.y, made.lens, made.eye, _SQUARE * made.longest)
        return draw_sea(slopes, eye, made.sky(), at.scale, at.wanted)


def _light(colour: Colour, stops: float) -> Colours:
    red, green, blue = (float(part) for part in np.asarray(light_of(colour, stops)))
    return red, green, blue
