"""Noise: a pattern of chance that boils, drifts, and lies flat, on the ground, round a point or along a
path."""

from __future__ import annotations

import math
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.patterns import (
    Laid,
    Octaves,
    Pattern,
    Warping,
    bounds_of,
    pattern_on,
)
from handful.engine.kernels.compiled import in_bands
from handful.engine.kernels.drawing.lit import light_of
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.forms.beside import beside
from handful.engine.kernels.pixels.levels import push_rows, show_rows
from handful.engine.kinds import At, Others, Planned, Planning, Source, clockwise, register, setting
from handful.engine.named import Path
from handful.engine.picture import PictureKind, Tile, clear_tile, unset
from handful.engine.values import Point


@register
class Noise(Source):
    """A pattern of chance: cloud, mist, ripples, cells, veins, or what drives other layers.

    As light it shines, as cover it hides; as a height or as offsets it is seen by what it does to
    others. A pattern keeps its strength however many waves it has.
    """

    family = "texture"
    fills = True
    says = (
        "A {pattern} pattern in waves of {size}, {waves} of them, each {finer} finer and {gain} as "
        "strong, turned by {turn_each}. It makes {comes_as}, {contrast} contrast at {brightness} "
        "brightness, limits {soft} soft, inverted {inverted}, in {colour} at {light}, pushing {amount}. "
        "Laid {laid} about {at}, {direction} on, {stretch} long, along {path}. Warped {warps} by "
        "{warp}, carried {carried}. It boils {boil}, returning after {returns}, and drifts {drift}, "
        "finer waves {hurry} as far."
    )

    pattern: Pattern = setting("gradient", help="What each wave looks like.")
    size: float = setting(
        260,
        unit="px",
        drawn="radius",
        about="at",
        least=4,
        most=20000,
        usual=(20, 1500),
        help="Size of the largest waves.",
    )
    waves: int = setting(5, least=1, most=10, help="How many sizes of waves lie over one another.")
    finer: float = setting(
        2, unit="times", least=1.2, most=4, help="How much finer each is than the one before."
    )
    gain: float = setting(
        50, unit="%", least=0, most=100, help="How strong each is, of the one before."
    )
    turn_each: float = setting(
        37,
        unit="°",
        least=-180,
        most=180,
        help="How far each is turned against the one before, so that they do not line up.",
    )
    comes_as: Literal["light", "cover", "height", "offsets"] = setting(
        "light", help="What comes of it: light, something that hides, or what drives other layers."
    )
    contrast: float = setting(
        100,
        unit="%",
        least=0,
        most=5000,
        usual=(0, 600),
        help="How far apart dark and bright are. Much of it and little brightness are crisp flames.",
    )
    brightness: float = setting(
        0,
        unit="%",
        least=-100,
        most=100,
        help="How much of it shows: nothing at −100, all at 100, whatever the contrast.",
    )
    soft: float = setting(
        10, unit="%", least=0, most=100, help="How softly it comes to nothing and to all."
    )
    inverted: bool = setting(False, help="Whether dark and bright are exchanged.")
    colour: Colour = setting("#ffffff", help="Colour of its light, or of what hides.")
    light: float = setting(
        0, unit="stops", least=-12, most=12, usual=(-4, 6), help="How bright it is."
    )
    amount: float = setting(
        40,
        unit="px",
        least=-4000,
        most=4000,
        usual=(-200, 200),
        help="As a height or offsets: how high or how far it goes, where it is strong.",
    )
    laid: Literal["flat", "on the ground", "in rings"] = setting(
        "flat",
        help="Flat on the picture, on ground that goes back to a horizon, or in rings and rays.",
    )
    at: Point = setting(
        [960, 540], unit="px", help="The middle, the point where the ground vanishes, or the hub."
    )
    near: float = setting(
        400,
        unit="px",
        drawn="below",
        about="at",
        least=-20000,
        most=20000,
        usual=(-1500, 1500),
        help="On the ground: how far below the horizon waves have their size; above for a ceiling.",
    )
    rounds: int = setting(
        12, least=1, most=400, usual=(3, 60), help="In rings: how many waves go round."
    )
    direction: float = clockwise(
        0, about="at", help="Where it is stretched to; how far it is turned."
    )
    stretch: float = setting(
        100,
        unit="%",
        least=10,
        most=5000,
        usual=(50, 1000),
        help="How long waves are in that direction.",
    )
    path: Path | None = setting(
        "", help="A path that it is laid along instead; size is then across and stretch along it."
    )
    warps: Literal["never", "once", "twice"] = setting(
        "never", help="How often it is warped by noise of its own size."
    )
    warp: float = setting(
        60, unit="%", least=0, most=400, help="How far, of the size of its waves."
    )
    carried: float = setting(
        0,
        unit="%",
        least=-400,
        most=400,
        usual=(0, 200),
        help="How far fine waves are carried by large ones, as in what flows.",
    )
    boil: float = setting(
        {"moves": "rate", "start": 0, "per_second": 0.4},
        unit="cycles",
        least=-1e6,
        most=1e6,
        usual=(0, 10),
        returns="returns",
        help="How far the pattern has changed in place.",
    )
    returns: int = setting(
        0,
        unit="cycles",
        least=0,
        most=1000,
        usual=(0, 24),
        help="After how many cycles of boil it is the same again; 0 is never.",
    )
    drift: Point = setting(
        [0, 0], unit="px", elsewhere=True, help="How far the pattern has travelled."
    )
    hurry: float = setting(
        100,
        unit="%",
        least=0,
        most=400,
        help="How far each finer wave travels, of the one before.",
    )
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is another pattern."
    )

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        made: PictureKind = "light" if written.comes_as in ("light", "cover") else written.comes_as
        return made

    def planned(self, ask: Planning) -> Planned:
        return ask.drawn(self._levels(), ask.drawn(self._pattern()))

    def _pattern(self) -> _Pattern:
        boil = self.boil % self.returns if self.returns else self.boil
        along = self.size * self.stretch / 100
        return _Pattern(
            self.pattern,
            Octaves(
                self.waves, self.gain / 100, self.finer, math.radians(self.turn_each),
                round(boil, 9), self.returns, (self.drift.x / along, self.drift.y / self.size),
                self.hurry / 100,
            ),
            Laid(
                _WAYS[self.laid], (self.at.x, self.at.y), (along, self.size), math.radians(self.direction),
                self.near or 1e-3, self.rounds,
            ),
            Warping(_TIMES[self.warps], self.warp / 100),
            self.carried / 100 * _CARRY,
            self.path,
            2 if self.comes_as == "offsets" else 1,
            self.seed,
        )  # fmt: skip

    def _levels(self) -> _Levels:
        least, most = bounds_of(self.pattern, self._pattern().octaves)
        if self.inverted:
            least, most = -most, -least
        least, most = max(least, -_FAR), min(most, _FAR)
        contrast, soft = self.contrast / 100, self.soft / 200
        all_of_it = 0.5 + soft - 0.5 * contrast * least
        nothing = -0.5 - soft - 0.5 * contrast * most
        share = self.brightness / 100
        shift = share * all_of_it if share > 0 else -share * nothing
        horizon = (self.at.y, self.near) if self.laid == "on the ground" and not self.path else None
        return _Levels(
            self.comes_as, contrast, shift, soft, self.inverted, self.colour, self.light, self.amount,
            share, horizon,
        )  # fmt: skip


_WAYS: dict[str, Literal["flat", "plane", "rings"]] = {
    "flat": "flat", "on the ground": "plane", "in rings": "rings",
}  # fmt: skip
_TIMES = {"never": 0, "once": 1, "twice": 2}

_CARRY = 0.25
"""Cells by which a slope of 1 carries the next wave at 100 %."""

_FAR = 1.5
"""So far from the middle, four and a half deviations, a pattern is taken to end."""

_HORIZON = 0.1
"""Over this part of `near` the ground comes up from nothing at the horizon."""


class _Pattern(NamedTuple):
    """The field alone: nothing of how much of it shows."""

    pattern: Pattern
    octaves: Octaves
    laid: Laid
    warping: Warping
    carried: float
    path: Path | None
    fields: int
    seed: int

    def draw(self, at: At, *others: Tile) -> Tile:
        region = at.wanted
        along = None if self.path is None else beside(self.path.line(at.scale), region)
        keys = tuple(at.key("noise", self.seed, field) for field in range(self.fields))
        field = pattern_on(
            region, at.scale, self.pattern, self.octaves, self.laid, self.warping, self.carried,
            keys, along,
        )  # fmt: skip
        return Tile(field, region)


class _Levels(NamedTuple):
    """How much of a field shows, and as what."""

    comes_as: str
    contrast: float
    shift: float
    soft: float
    inverted: bool
    colour: Colour
    light: float
    amount: float
    share: float
    horizon: tuple[float, float] | None

    def draw(self, at: At, *others: Tile) -> Tile:
        field, region = others[0].pixels, at.wanted
        if region.empty:
            return clear_tile(region)
        fades = self._fades(at)
        if self.comes_as in ("light", "cover"):
            pixels = unset(region)
            covers = self.comes_as == "cover"
            in_bands(
                show_rows, region.height, field, np.float32(self.contrast), np.float32(self.shift),
                np.float32(self.soft), np.float32(-1 if self.inverted else 1), fades, light_of(self.colour, self.light),
                covers, pixels,
            )  # fmt: skip
            return Tile(pixels, region)
        amount = self.amount * self.contrast * (-1 if self.inverted else 1)
        pushed = np.empty_like(field)
        in_bands(
            push_rows, region.height, field, np.float32(amount), np.float32(self.share), fades,
            pushed,
        )  # fmt: skip
        return Tile(pushed[..., 0] if self.comes_as == "height" else pushed, region)

    def _fades(self, at: At) -> NDArray[np.float32]:
        """How much there is of each row: on the ground it comes up from nothing at the horizon."""
        if self.horizon is None:
            return np.ones(at.wanted.height, np.float32)
        y, near = self.horizon
        rows = (np.arange(at.wanted.top, at.wanted.bottom) + 0.5) / at.scale
        return np.array(
            [smooth(min(1.0, max(0.0, (row - y) / near / _HORIZON))) for row in rows], np.float32
        )
