"""Ring: a shock wave or a ripple that runs outwards."""

from __future__ import annotations

import math
from typing import Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.noise import octaves
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.drawing.lit import light_of
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.forms.blast import front_of, pressure
from handful.engine.kinds import At, Others, Planned, Planning, Source, clockwise, register, setting
from handful.engine.picture import PictureKind, Region, Tile, clear_tile, unset
from handful.engine.values import Point


@register
class Ring(Source):
    """A front that runs outwards from a point, with what it leaves behind: a steep rise, a long fall, and
    the pull that follows it.

    As light it is seen; as a height or as offsets it bends what another layer shows. It begins with its
    layer.
    """

    family = "shock"
    says = (
        "From {at} it grows {grows}: {radius}, {speed}, or {energy} on {metre} a metre, after {delay}. "
        "Its front is {front} steep and falls over {tail}, {sharp} sharp, in {rings} rings {gap} apart, "
        "each {fainter} of the one before. Over {reaches} it is down to half. Broken by {rough} in {waves} "
        "waves round, {patchy} patchy, boiling {boil}; it spans {span} about {direction}, {feather} soft, "
        "{flat} flat. It makes {comes_as}, in {colour} at {light}, pushing {amount}."
    )

    at: Point = setting([960, 540], unit="px", help="Where it comes from.")
    grows: Literal["by hand", "at a speed", "as a blast"] = setting(
        "at a speed", help="How its radius grows: as set, evenly, or as a strong blast does."
    )
    radius: float = setting(
        0, unit="px", drawn="radius", about="at", least=0, most=40000, usual=(0, 2000),
        help="By hand: its radius. Else: from where it begins.",
    )  # fmt: skip
    speed: float = setting(
        1600,
        unit="px/s",
        least=0,
        most=200_000,
        usual=(0, 6000),
        help="At a speed: how fast it runs.",
    )
    energy: float = setting(
        4, unit="MJ", least=0.001, most=1e9, usual=(0.01, 100), help="As a blast: 4.2 MJ are a kilogram of TNT."
    )  # fmt: skip
    metre: float = setting(
        60,
        unit="px",
        least=0.01,
        most=10_000,
        usual=(1, 400),
        help="As a blast: how many px a metre is.",
    )
    delay: float = setting(
        0, unit="s", least=0, most=3600, usual=(0, 4), help="How long after its layer it begins."
    )
    front: float = setting(
        10, unit="px", least=0.5, most=4000, usual=(1, 120), help="Over how far it rises."
    )
    tail: float = setting(
        150,
        unit="px",
        least=1,
        most=20000,
        usual=(10, 800),
        help="Over how far the push lasts; then it pulls.",
    )
    sharp: float = setting(
        1.6, least=0, most=20, usual=(0, 6), help="How much quicker it falls at first."
    )
    rings: int = setting(
        1, least=1, most=24, usual=(1, 8), help="How many run one behind the other."
    )
    gap: float = setting(
        120, unit="px", least=1, most=20000, usual=(10, 600), help="How far apart they are."
    )
    fainter: float = setting(
        60, unit="%", least=0, most=100, help="How strong each is, of the one before it."
    )
    reaches: float = setting(
        700,
        unit="px",
        least=1,
        most=100_000,
        usual=(50, 3000),
        help="Radius at which it is down to half.",
    )
    rough: float = setting(
        14, unit="px", least=0, most=4000, usual=(0, 200), help="How far the front is before and behind a circle."
    )  # fmt: skip
    waves: float = setting(
        5, least=0.2, most=200, usual=(1, 30), help="How many waves of that there are round it."
    )
    patchy: float = setting(
        40, unit="%", least=0, most=100, help="How much fainter it is in places."
    )
    boil: float = setting(
        {"moves": "rate", "start": 0, "per_second": 1},
        unit="cycles", least=-1e6, most=1e6, usual=(0, 10),
        help="How far that has changed.",
    )  # fmt: skip
    span: float = setting(360, unit="°", least=0, most=360, help="How much of a circle it is.")
    direction: float = clockwise(-90, about="at", help="The middle of that.")
    feather: float = setting(30, unit="°", least=0, most=180, help="How softly it ends there.")
    flat: float = setting(
        100,
        unit="%",
        least=1,
        most=100,
        help="How high it is of its width: a ring on ground that lies back.",
    )
    comes_as: Literal["light", "height", "offsets"] = setting(
        "light", help="What comes of it: light, or what bends other layers."
    )
    colour: Colour = setting("#cfe6ff", help="Colour of its light.")
    light: float = setting(
        0, unit="stops", least=-12, most=16, usual=(-4, 8), help="How bright it is at first."
    )
    amount: float = setting(
        40, unit="px", least=-4000, most=4000, usual=(-200, 200),
        help="As a height or offsets: how high it is, or how far it pushes outwards, at first.",
    )  # fmt: skip
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed, other waves."
    )

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        made: PictureKind = written.comes_as
        return made

    def planned(self, ask: Planning) -> Planned:
        clock = ask.clock()
        age = (clock.frame - clock.begins) / clock.rate - self.delay
        return ask.drawn(_Front(self, self._grown(age)))

    def _grown(self, age: float) -> float:
        """The radius after so many seconds, below 0 before it begins."""
        if self.grows == "by hand":
            return self.radius
        if age < 0:
            return -1.0
        if self.grows == "at a speed":
            return self.radius + self.speed * age
        return self.radius + front_of(self.energy * 1e6, age) * self.metre


_ROUND = 4096
"""Directions for which the waves round it are worked out."""

_GONE = 6.0
"""Times the length of a push after which nothing is left of it."""


class _Front(NamedTuple):
    """The ring at a radius."""

    made: Ring
    radius: float

    def draw(self, at: At, *others: Tile) -> Tile:
        made = self.made
        kind: PictureKind = made.comes_as
        if self.radius <= 0:
            return clear_tile(at.wanted, kind)
        region = self._touched(at)
        if region.empty:
            return clear_tile(at.wanted, kind)
        pixels = {
            "light": unset(region),
            "height": np.empty((region.height, region.width), np.float32),
            "offsets": np.empty((region.height, region.width, 2), np.float32),
        }[made.comes_as]
        about = np.array(
            [
                made.at.x, made.at.y, self.radius, made.front, made.tail, made.sharp, made.rings,
                made.gap, made.fainter / 100, made.flat / 100, 1 / at.scale,
                math.log(2) / math.log1p(made.reaches / _NEAR), made.amount,
            ]
        )  # fmt: skip
        kinds = ("light", "height", "offsets").index(made.comes_as)
        planes = pixels.reshape(region.height, region.width, -1)
        in_bands(
            _ring_rows, region.height, region.left, region.top, about, self._round(at), kinds,
            light_of(made.colour, made.light), planes,
        )  # fmt: skip
        return Tile(pixels, region)

    def _touched(self, at: At) -> Region:
        made = self.made
        reach = (self.radius + made.rough + made.front) * at.scale + 1
        x, y = made.at.x * at.scale, made.at.y * at.scale
        high = reach * made.flat / 100 + 1
        return Region(
            math.floor(x - reach), math.floor(y - high), math.ceil(x + reach), math.ceil(y + high)
        ).meet(at.wanted)

    def _round(self, at: At) -> NDArray[np.float32]:
        """For each direction: how far the front is before a circle, in px, and how strong it is."""
        made = self.made
        table = np.empty((_ROUND + 1, 2), np.float32)
        _waves_round(
            made.rough, made.patchy / 100, made.waves, made.boil, math.radians(made.direction),
            math.radians(made.span), math.radians(made.feather), *at.key("ring", made.seed), table,
        )  # fmt: skip
        return table


_NEAR = 60.0
"""px of a radius below which a ring does not grow much stronger."""


@compiled
def _waves_round(
    rough: float,
    patchy: float,
    waves: float,
    boil: float,
    direction: float,
    span: float,
    feather: float,
    k0: int,
    k1: int,
    table: NDArray[np.float32],
) -> None:
    """Noise on a circle in the plane of noise, so that it closes; and where the ring spans."""
    far = waves / (2.0 * math.pi)
    for i in range(table.shape[0]):
        angle = 2.0 * math.pi * i / (table.shape[0] - 1)
        first, second = octaves(
            far * math.cos(angle) + 31.7, far * math.sin(angle) + 11.3, boil, k0, k1, 4, 0.55
        )
        aside = abs((angle - direction + math.pi) % (2.0 * math.pi) - math.pi)
        there = 1.0
        if span < 2.0 * math.pi:
            there = min(1.0, max(0.0, (0.5 * span + 0.5 * feather - aside) / max(feather, 1e-3)))
        table[i, 0] = 1.6 * rough * first
        table[i, 1] = smooth(there) * (1.0 - patchy * min(1.0, max(0.0, 0.5 - 1.2 * second)))


@compiled
def _ring_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    about: NDArray[np.float64],
    table: NDArray[np.float32],
    kind: int,
    colour: NDArray[np.float32],
    planes: NDArray[np.float32],
) -> None:
    x0, y0, radius, front, tail, sharp = about[0], about[1], about[2], about[3], about[4], about[5]
    rings, gap, fainter, flat, px = int(about[6]), about[7], about[8], about[9], about[10]
    falls, amount = about[11], about[12]
    most = table.shape[0] - 1
    for y in range(first, last):
        dy = ((y + top + 0.5) * px - y0) / flat
        for x in range(planes.shape[1]):
            dx = (x + left + 0.5) * px - x0
            away = math.hypot(dx, dy)
            turn = math.atan2(dy, dx) / (2.0 * math.pi)
            place = (turn - math.floor(turn)) * most
            i = min(most - 1, int(place))
            part = place - i
            before = table[i, 0] + part * (table[i + 1, 0] - table[i, 0])
            strength = table[i, 1] + part * (table[i + 1, 1] - table[i, 1])
            value, share = 0.0, 1.0
            for n in range(rings):
                runs = radius - n * gap
                if runs <= 0.0:
                    break
                behind = runs + before * min(1.0, runs / 200.0) - away
                if behind > -front and behind < _GONE * tail:
                    rise = smooth(min(1.0, max(0.0, (behind + front) / front)))
                    weak = (1.0 + runs / _NEAR) ** -falls
                    value += share * weak * rise * pressure(max(0.0, behind), tail, sharp)
                share *= fainter
            value *= strength
            if kind == 0:
                light = np.float32(max(0.0, value))
                for c in range(3):
                    planes[y, x, c] = light * colour[c]
                planes[y, x, 3] = np.float32(0.0)
            elif kind == 1:
                planes[y, x, 0] = amount * value
            else:
                by = amount * value / max(away, 1e-6)
                planes[y, x, 0] = by * dx
                planes[y, x, 1] = by * dy * flat
