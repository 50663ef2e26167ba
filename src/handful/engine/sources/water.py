"""Water: a sea or a lake from its near waves to the horizon."""

from __future__ import annotations

import math
from typing import Any, Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.drawing.lit import light_of
from handful.engine.kernels.drawing.sea.draw import draw_sea, sea_offsets
from handful.engine.kernels.drawing.sea.foam import Foam, foam_on
from handful.engine.kernels.drawing.sea.light import Sky
from handful.engine.kernels.drawing.sea.looks import Water as Square
from handful.engine.kernels.drawing.sea.squares import THIRD, Colours, Eye, Slopes, sizes_of
from handful.engine.kernels.drawing.sea.standing import heights_of
from handful.engine.kernels.fluid.water import Sea, finely, folds_at, slopes_of, summed, waves_at
from handful.engine.kinds import At, Others, Planned, Planning, Source, clockwise, register, setting
from handful.engine.picture import PictureKind, Tile
from handful.engine.values import Point

_SQUARE = 6
"""Of the longest waves a square of water holds so many."""

_LEAST_WIDE = 0.012

_LEAVES = 0.12
"""The strongest so much of new foam leaves some behind."""

_APART, _LEFT_FOR, _MOST_MOMENTS = 0.16, 3.0, 24
"""Seconds from one moment to the next from which foam is left, at the least; for how many times that it lasts there is any;
and from how many moments."""


@register
class Water(Source):
    """Open water seen from above it: waves that mirror the sky and let a lamp or the moon glitter, out to
    the horizon. They run at their true pace.

    They stand up, and hide what is behind them: whoever is as low as they are high sees crests above the horizon. How far they
    move what is mirrored is told as if they hid nothing.
    """

    family = "water"
    fills = True
    says = (
        "Water out to the horizon at {at}, seen {eye} above it through a lens of {lens}. Waves from {longest} to "
        "{finest} long, {steep} steep, {together} running together {running}, {depth} deep, after {time}, returning after {returns}. "
        "The sky is {sky_low} low and {sky_high} high at {sky_light}; the water {body} at {body_light}. A lamp at {lamp_at} "
        "throws {lamp} at {lamp_light}, {lamp_wide} wide. Foam covers {foam}, lasts {foam_lasts} and is {foam_colour} at "
        "{foam_light}. Misty {mist}; comes as {comes_as}."
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
    foam: float = setting(
        0, unit="%", least=0, most=60, usual=(0, 12),
        help="How much of the water new foam covers, where waves push it together: a strong wind's 1, a gale's 5.",
    )  # fmt: skip
    foam_lasts: float = setting(
        2.5, unit="s", least=0, most=60, usual=(0, 8), help="How long foam is left behind a crest."
    )  # fmt: skip
    foam_colour: Colour = setting("#e6edf0", help="Its colour.")
    foam_light: float = setting(
        -1.2, unit="stops", least=-16, most=12, usual=(-6, 3), help="How bright it is."
    )
    comes_as: Literal["light", "offsets"] = setting(
        "light", help="The water, or how far its waves move what is mirrored in it, to bend that."
    )
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is other water."
    )

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        made: PictureKind = written.comes_as
        return made

    def planned(self, ask: Planning) -> Planned:
        sea = Sea(
            _SQUARE * self.longest, self.longest, min(self.finest, self.longest), self.depth,
            self.steep / 100, self.together / 100, math.radians(-self.running), float(self.returns),
        )  # fmt: skip
        seconds = self.time % self.returns if self.returns else self.time
        moment = round(seconds, 9)
        waves = ask.state(_Waves(sea, moment, self.seed))
        if self.comes_as == "offsets":
            return ask.drawn(_Moved(self.eye_on_it()), waves)
        if self.foam <= 0:
            return ask.drawn(_Looked(self), waves)
        times = self._left_from(moment)
        before = [ask.state(_Whitens(sea, at, self.foam / 100, self.seed)) for at in times]
        left = ask.state(_Left(self.foam_lasts, tuple(moment - at for at in times)), *before)
        return ask.drawn(_Looked(self), waves, ask.state(_Folds(sea, moment, self.seed), left))

    def _left_from(self, moment: float) -> list[float]:
        """The moments from which foam is left: the same ones for all that come after them."""
        if self.foam_lasts == 0:
            return []
        apart = max(_APART, _LEFT_FOR * self.foam_lasts / _MOST_MOMENTS)
        if self.returns:
            apart = self.returns / math.ceil(self.returns / apart)
        first = math.ceil((moment - _LEFT_FOR * self.foam_lasts) / apart)
        return [n * apart for n in range(first, math.floor(moment / apart) + 1)]

    def eye_on_it(self) -> Eye:
        """From where it is seen."""
        return Eye(self.at.x, self.at.y, self.lens, self.eye, _SQUARE * self.longest)

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
    """A square of water at a moment."""

    sea: Sea
    seconds: float
    seed: int

    def next(self, at: At, *before: Tile) -> Square:
        heights, tilted = waves_at(self.sea, self.seconds, at.key("water", self.seed))
        ripples = math.exp(-((self.sea.finest / (THIRD * self.sea.longest)) ** 2))
        return Square(sizes_of(slopes_of(tilted)), heights_of(summed(heights).real), ripples)


class _White(NamedTuple):
    """How much of each place of a square foam covers."""

    covers: NDArray[np.float32]


class _Whitens(NamedTuple):
    """Where there is new foam on a square of water at a moment."""

    sea: Sea
    seconds: float
    covers: float
    seed: int

    def next(self, at: At, *before: Tile) -> _White:
        folds = summed(folds_at(self.sea, self.seconds, at.key("water", self.seed))).real
        return _White(foam_on(folds, _LEAVES * self.covers))


class _Left(NamedTuple):
    """What is left of foam that was new so long ago each: less by e for each time that it lasts."""

    lasts: float
    ago: tuple[float, ...]

    def next(self, at: At, *before: _White) -> _White:
        bare = np.ones((1, 1), np.float32)
        for white, ago in zip(before, self.ago, strict=True):
            bare = bare * (1 - np.float32(math.exp(-ago / self.lasts)) * white.covers)
        return _White(1 - bare)


class _Folds(NamedTuple):
    """How much a square of water is pushed together at a moment, and what is left of foam on it."""

    sea: Sea
    seconds: float
    seed: int

    def next(self, at: At, left: _White) -> Slopes:
        folds = finely(folds_at(self.sea, self.seconds, at.key("water", self.seed))).real
        side = len(folds)
        both = np.empty((side, side, 2), np.float32)
        both[..., 0] = folds
        both[..., 1] = (
            cv2.resize(np.pad(left.covers, 1, "wrap"), (side + 4, side + 4))[2:-2, 2:-2]
            if left.covers.size > 1
            else 0
        )
        return sizes_of(both)


class _Looked(NamedTuple):
    """How that water looks."""

    made: Water

    def draw(self, at: At, water: Square, folds: Slopes | None = None) -> Tile:
        made, foam = self.made, None
        if folds is not None:
            foam = Foam(folds, made.foam / 100, _light(made.foam_colour, made.foam_light))
        return draw_sea(water, foam, made.eye_on_it(), made.sky(), at.scale, at.wanted)


class _Moved(NamedTuple):
    """How far what is mirrored in that water is moved."""

    eye: Eye

    def draw(self, at: At, water: Square) -> Tile:
        return sea_offsets(water, self.eye, at.scale, at.wanted)


def _light(colour: Colour, stops: float) -> Colours:
    red, green, blue = (float(part) for part in np.asarray(light_of(colour, stops)))
    return red, green, blue
