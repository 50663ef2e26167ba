"""Flame: the quick one, of many soft things that rise, are stirred, and glow by how many there are."""

from __future__ import annotations

import math
from typing import Any, ClassVar, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.heat import COLDEST, STEP_OF_TABLE, heat_table
from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.purposes import HOW_LARGE, HOW_LIT, WHEN_BORN, WHERE, WHERE_ELSE
from handful.engine.kernels.drawing.spots import draw_spots
from handful.engine.kernels.drawing.tongues import Heat, Rising, glowing, puff, rise
from handful.engine.kernels.forms.sowing import Sowing, Sown, sow
from handful.engine.kinds import (
    At,
    Clock,
    LayerId,
    Planned,
    Planning,
    Source,
    clockwise,
    register,
    setting,
)
from handful.engine.picture import Tile, clear_tile
from handful.engine.sources.particles.births import Numbers, shares_of
from handful.engine.sources.particles.looks import SOFTER
from handful.engine.values import Point

_SEEN_AT = 1 / 3
"""The scale at which another layer is looked at."""

_FIRST = 1 << 20
"""They have burnt for ever: lives are counted from so many before it begins."""

_OF_BIRTH = ("at", "width", "height")
_SOWN: dict[str, Sowing] = {"in a layer": "cover", "on the edge of a layer": "edge"}
_WHOLE, _BEGINS = 0.06, 0.16
"""The parts of a life in which a thing comes to its size, and in which it is blue."""


@register
class Flame(Source):
    """The quick flame: soft things are born in a box or along a layer, rise, are stirred aside and smeared, and
    glow hotter where many of them are. A few large ones are a soft, lazy flame; many small ones a fierce one.

    It remembers nothing: any frame is there at once, and it has always burnt. *Fire* is the one that burns gas.
    """

    family = "fire"
    briefly: ClassVar[dict[str, Any]] = {"at": [480, 500]}
    says = (
        "{number} things {size} wide, {uneven} uneven, are born {born} at {at}, {width} by {height}, or of {of}; fed {feed} in {puffs} puffs, "
        "{gusts} strong. They rise {lift} up to {tall} towards {way}, leaning by {leans} and drawn in by {narrows}, stirred by {stir} in "
        "waves of {wave} that change {pace}, and smeared by {smear}. Edges glow at {edge} and the middle at {kelvin}, {dense} "
        "dense, at {light}, blue {blue} at the foot."
    )

    born: Literal["in a box", "in a layer", "on the edge of a layer"] = setting(
        "in a box", help="Where it burns."
    )
    at: Point = setting([960, 900], unit="px", help="The middle of its foot.")
    width: float = setting(
        230, unit="px", drawn="width", about="at", least=1, most=20_000, usual=(10, 1500), help="How wide the foot is."
    )  # fmt: skip
    height: float = setting(
        36, unit="px", drawn="height", about="at", least=0, most=20_000, usual=(0, 400), help="How high the foot is."
    )  # fmt: skip
    of: LayerId = setting("", help="The layer that burns.")
    feed: float = setting(100, unit="%", least=0, most=100, help="How much of it burns.")
    number: int = setting(
        900, least=1, most=40_000, usual=(60, 6000), help="How many there are at once."
    )
    size: float = setting(
        92, unit="px", least=1, most=4000, usual=(8, 300), help="How wide each is at its foot."
    )
    uneven: float = setting(
        55, unit="%", least=0, most=100, help="How much smaller some are: evenly spread."
    )
    puffs: float = setting(
        2.6, unit="a second", least=0, most=60, usual=(0, 12), help="How often it pulses."
    )
    gusts: float = setting(
        110, unit="%", least=0, most=300, usual=(0, 150), help="How much more and less burns in those."
    )  # fmt: skip
    lift: float = setting(
        700, unit="px/s", least=10, most=20_000, usual=(60, 2500), help="How fast it rises."
    )
    tall: float = setting(
        560, unit="px", least=4, most=20_000, usual=(40, 1500), help="How high it rises."
    )
    way: float = clockwise(-90, about="at", help="Which way it rises.")
    leans: float = setting(
        0, unit="px", least=-20_000, most=20_000, usual=(-400, 400), help="How far its top leans aside."
    )  # fmt: skip
    narrows: float = setting(
        55, unit="%", least=-100, most=100, help="How much of its width is gone at its top."
    )
    stir: float = setting(
        210, unit="px", least=0, most=10_000, usual=(0, 500), help="How far its top is stirred aside."
    )  # fmt: skip
    wave: float = setting(
        210,
        unit="px",
        least=4,
        most=20_000,
        usual=(30, 800),
        help="How wide the waves of that are.",
    )
    pace: float = setting(
        0.9, unit="times a second", least=0, most=50, usual=(0, 5), help="How often they change as they rise."
    )  # fmt: skip
    smear: float = setting(
        0.07, unit="s", least=0, most=2, usual=(0, 0.3), help="How long the way is that each is smeared along."
    )  # fmt: skip
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is another flame."
    )
    edge: float = setting(
        1150, unit="K", least=700, most=4000, usual=(800, 1800), help="How hot its edges look."
    )
    kelvin: float = setting(
        2100, unit="K", least=900, most=6000, usual=(1500, 3200), help="How hot its middle looks."
    )
    dense: float = setting(
        100, unit="%", least=1, most=2000, usual=(20, 400), help="How soon many of them look hot."
    )
    light: float = setting(
        1, unit="stops", least=-12, most=16, usual=(-4, 8), help="How bright its middle is."
    )
    blue: float = setting(
        2, unit="%", least=0, most=500, usual=(0, 100), help="How blue its foot is."
    )

    def planned(self, ask: Planning) -> Planned:
        clock = ask.clock()
        course = _Course.of(ask, clock)
        frames = [float(round(clock.begins + each * clock.rate)) for each in course.seconds]
        rows = ask.history(_OF_BIRTH, frames)
        sown = []
        if self.of and self.born in _SOWN:
            by = _Sows(_SOWN[self.born])
            sown = [ask.state(by, ask.seen(self.of, frame, _SEEN_AT)) for frame in frames]
        tongues = _Tongues(self, (clock.frame - clock.begins) / clock.rate, course, tuple(rows))
        return ask.drawn(_Glows(self), ask.drawn(tongues, *sown))


class _Course(NamedTuple):
    """How it has risen on the frames on which what is there was born, and the next: seconds since it begins, how
    many lives have passed till then, and how many px."""

    seconds: tuple[float, ...]
    lives: tuple[float, ...]
    risen: tuple[float, ...]

    @classmethod
    def of(cls, ask: Planning, clock: Clock) -> _Course:
        """What is known of all frames since it begins, and before that as it was then."""
        last = math.floor(clock.frame) + 1
        first = min(math.floor(clock.begins), last - 1)
        rows = np.array(ask.history(("lift", "tall"), [float(f) for f in range(first, last + 1)]))
        lift, tall = rows[:, 0], rows[:, 1]
        before = math.ceil(tall[0] / lift[0] * clock.rate) + 2
        frames = np.arange(first - before, last + 1)
        lift, tall = (np.concatenate([np.full(before, each[0]), each]) for each in (lift, tall))
        seconds = (frames - clock.begins) / clock.rate
        # All that has passed before is as if it had always been as at first.
        lives, risen = (
            each[0] * seconds[0] + np.concatenate([[0.0], np.cumsum(each[:-1])]) / clock.rate
            for each in (lift / tall, lift)
        )
        now = np.interp((clock.frame - clock.begins) / clock.rate, seconds, lives)
        kept = slice(max(0, int(np.searchsorted(lives, now - 1)) - 2), None)
        return cls(*(tuple(float(x) for x in each[kept]) for each in (seconds, lives, risen)))


class _Sows(NamedTuple):
    by: Sowing

    def next(self, at: At, tile: Tile) -> Sown:
        return sow(tile, _SEEN_AT, self.by)


class _Glows(NamedTuple):
    """How the sum of all things glows."""

    made: Flame

    def __repr__(self) -> str:
        made = self.made
        return f"glows {made.edge, made.kelvin, made.dense, made.light, made.blue}"

    def draw(self, at: At, summed: Tile) -> Tile:
        made = self.made
        table = heat_table(made.kelvin) * np.float32(2.0**made.light)
        heat = Heat(
            made.dense / 100, (made.edge - COLDEST) / STEP_OF_TABLE,
            (made.kelvin - COLDEST) / STEP_OF_TABLE, made.blue / 100 * 2.0**made.light,
        )  # fmt: skip
        return glowing(summed, table, heat)


class _Tongues(NamedTuple):
    """The sum of all things at a moment, in seconds since the layer begins; and how its foot lay on the frames of
    its course."""

    made: Flame
    now: float
    course: _Course
    rows: tuple[tuple[Any, ...], ...]

    def __repr__(self) -> str:
        made = self.made
        about = (
            made.born, made.feed, made.number, made.size, made.uneven, made.puffs, made.gusts, made.lift, made.tall,
            made.way, made.leans, made.narrows, made.stir, made.wave, made.pace, made.smear, made.seed,
        )  # fmt: skip
        return f"tongues {about} {self[1:]}"

    def draw(self, at: At, *sown: Sown) -> Tile:
        made, key, course = self.made, at.key("flame", self.made.seed), self.course
        life = made.tall / made.lift
        now = float(np.interp(self.now, course.seconds, course.lives))
        # Each place in the flame is taken by one after the other, each for a life.
        places = np.arange(made.number, dtype=np.int64)
        turn = now + shares_of(key, places, WHEN_BORN)
        part = turn % 1
        which = places + made.number * (np.floor(turn).astype(np.int64) + _FIRST)
        there = shares_of(key, which, HOW_LIT) < made.feed / 100
        which, part = which[there], part[there]
        born = np.interp(now - part, course.lives, course.seconds)
        starts, kept = self._starts(key, which, born, sown)
        which, born, part = which[kept], born[kept], part[kept]
        if not len(which):
            return clear_tile(at.wanted)
        risen = np.interp(born, course.seconds, course.risen)
        spots = np.zeros((len(which), 9), np.float32)
        for side, ends in ((-0.5, 0), (0.5, 2)):
            found = np.empty_like(starts)
            parts = part + side * made.smear / life
            rise(starts, parts, risen, made.pace * self.now, self._rising(), *key, found)
            spots[:, ends : ends + 2] = found * at.scale
        wide = made.size * (1 - made.uneven / 100 * shares_of(key, which, HOW_LARGE))
        wide *= (1 - 0.66 * part) * np.minimum(1, 0.35 + part / _WHOLE)
        spots[:, 4] = wide / 2 * at.scale * SOFTER
        strong = np.empty(len(which))
        puff(starts, born, made.puffs, max(40.0, made.width), *key, strong)
        strong = np.maximum(0, 1 + made.gusts / 100 * (strong - 1))
        # As many as there are glow as much, however large and many they are.
        thick = _THICK * self._area(sown) / (made.number * made.size**2 + 1)
        fades = (1 - 0.55 * part) * np.minimum(1, 2.2 * (1 - part)) * strong * thick
        spots[:, 5] = fades
        spots[:, 6] = fades * np.clip(1 - part / _BEGINS, 0, 1)
        return draw_spots(spots, at.wanted, hard=False, over=False)

    def _starts(
        self, key: Key, which: NDArray[np.int64], born: Numbers, sown: tuple[Sown, ...]
    ) -> tuple[Numbers, NDArray[np.bool_]]:
        """Where each that has a place began `(M, 2)`, and which have one."""
        one, other = shares_of(key, which, WHERE), shares_of(key, which, WHERE_ELSE)
        frame = np.interp(born, self.course.seconds, np.arange(len(self.rows)))
        before = np.minimum(frame.astype(np.int64), len(self.rows) - 2)
        if sown:
            starts, kept = np.zeros((len(which), 2)), np.zeros(len(which), np.bool_)
            for each in np.unique(before):
                if len(sown[each].places):
                    of = before == each
                    starts[of], _, _ = sown[each].at(one[of], other[of])
                    kept |= of
            return starts[kept], kept
        if self.made.born in _SOWN:
            return np.empty((0, 2)), np.zeros(len(which), np.bool_)
        table = np.array([[at.x, at.y, width, height] for at, width, height in self.rows])
        then = table[before] + (table[before + 1] - table[before]) * (frame - before)[:, None]
        # Denser in the middle, as a flame is fed.
        aside = one + shares_of(key, which + 1, WHERE) - 1
        return then[:, :2] + np.stack([aside, other - 0.5], axis=1) * then[:, 2:] * [0.5, 1.0], np.ones(len(which), np.bool_)  # fmt: skip

    def _area(self, sown: tuple[Sown, ...]) -> float:
        """How much of the canvas it is on, in px: as wide as its foot, and higher than that by what it rises."""
        if not sown:
            return float(self.rows[-1][1]) * self.made.tall
        places = sown[-1].places if len(sown[-1].places) else np.zeros((1, 2), np.float32)
        wide, high = np.ptp(places, axis=0) + sown[-1].side
        return float(wide * (high + self.made.tall))

    def _rising(self) -> Rising:
        made = self.made
        is_box = made.born not in _SOWN
        return Rising(
            tall=made.tall,
            way=math.radians(made.way),
            stirs=made.stir,
            wide=made.wave,
            narrows=made.narrows / 100 if is_box else 0.0,
            middle=self.rows[-1][0].x,
            leans=made.leans,
        )


_THICK = 5.0
"""How dense a flame is that its things would fill twice."""
