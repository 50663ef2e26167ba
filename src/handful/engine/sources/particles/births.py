"""Birth of particles: how many, when, from where, and thrown which way."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.purposes import (
    HOW_FAST,
    HOW_LONG,
    WHEN_BORN,
    WHERE,
    WHERE_ELSE,
    WHITHER,
    WHITHER_ELSE,
)
from handful.engine.kernels.forms.flight import shares
from handful.engine.kernels.forms.sowing import Sowing, Sown, sow
from handful.engine.kinds import Kind, LayerId, clockwise, setting
from handful.engine.named import Path
from handful.engine.picture import Tile
from handful.engine.values import Point

MOST_ALIVE = 1_000_000
"""So many are alive at most: of more, the latest."""

Numbers = NDArray[np.float64]

OF_BIRTH = ("at", "width", "height", "turn", "direction", "cone", "speed")
"""The settings that matter at the moment of a birth, and no later."""

_X, _Y, _WIDTH, _HEIGHT, _TURN, _DIRECTION, _CONE, _SPEED, _MOVED_X, _MOVED_Y = range(10)
"""What was so when one was born: these, and how the place of birth moved, in px a second."""

SHORTEST = 0.02
"""Seconds from one burst to the next, at least."""

_BURST = 1 << 40
"""What is born in a burst is numbered from here."""

_SOWN: dict[str, Sowing] = {
    "in a layer": "cover",
    "on the edge of a layer": "edge",
    "where a layer is bright": "light",
}


class Lot(NamedTuple):
    """Particles by their numbers `(N,)`: the frames on which they were born, where `(N, 2)` and how fast, where
    they come from `(N, 2)`, which is where what has shed them was born, and the colours `(N, 3)` that they were
    born from; `(N, 0)` if from no picture."""

    which: NDArray[np.int64]
    born: Numbers
    starts: Numbers
    speeds: Numbers
    roots: Numbers
    dyes: NDArray[np.float32]

    def some(self, chosen: NDArray[np.int64] | NDArray[np.bool_]) -> Lot:
        """Some of them, by their places in it."""
        return Lot._make(part[chosen] for part in self)


class Birth(Kind):
    """The settings of birth."""

    rate: float = setting(
        300, unit="a second", least=0, most=500_000, usual=(0, 4000), help="How many are born."
    )
    born: Literal[
        "at a point",
        "on a line",
        "in a box",
        "in an ellipse",
        "on a ring",
        "on a path",
        "in a layer",
        "on the edge of a layer",
        "where a layer is bright",
    ] = setting("at a point", help="What they are born from.")
    at: Point = setting([960, 540], unit="px", help="Where they are born: the middle of it.")
    width: float = setting(
        300,
        unit="px",
        drawn="width",
        about="at",
        least=0,
        most=40000,
        usual=(0, 2000),
        help="How wide that is.",
    )
    height: float = setting(
        120,
        unit="px",
        drawn="height",
        about="at",
        least=0,
        most=40000,
        usual=(0, 2000),
        help="How high that is.",
    )
    turn: float = setting(
        0, unit="°", least=-36000, most=36000, usual=(-180, 180), help="How far it is turned."
    )
    path: Path | None = setting("", help="The path that they are born on.")
    of: LayerId = setting("", help="The layer that they are born of.")
    burst: int = setting(
        0, least=0, most=200_000, usual=(0, 5000), help="How many are born at once as it begins."
    )
    burst_every: float = setting(
        0, unit="s", least=0, most=600, usual=(0, 4), help="How often they are born at once again, no oftener than each 0.02 s; 0 is never."
    )  # fmt: skip
    preroll: float = setting(
        0, unit="s", least=0, most=60, usual=(0, 10), help="How long they have been born already."
    )
    heads: Literal["towards", "away from the middle, and"] = setting(
        "towards",
        help="Whether their way counts from the right, or from the middle or the layer outwards.",
    )
    direction: float = clockwise(-90, about="at", help="Which way they go.")
    cone: float = setting(
        60,
        unit="°",
        least=0,
        most=360,
        help="How wide the fan is that they go in: denser in its middle the narrower it is.",
    )
    speed: float = setting(
        500, unit="px/s", least=0, most=50_000, usual=(0, 3000), help="How fast they go."
    )
    uneven: float = setting(
        60,
        unit="%",
        least=0,
        most=100,
        help="How much slower some are: evenly spread down to that.",
    )
    inherits: float = setting(
        0,
        unit="%",
        least=-200,
        most=200,
        usual=(0, 100),
        help="How much of its motion they take along.",
    )
    life: float = setting(
        1.2, unit="s", least=0.02, most=120, usual=(0.1, 8), help="How long they live."
    )
    life_uneven: float = setting(
        50, unit="%", least=0, most=100, help="How much shorter some live: evenly spread."
    )
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is another lot."
    )

    def sows(self) -> bool:
        """Whether they are born of another layer."""
        return bool(self.of) and self.born in _SOWN

    def sown(self, tile: Tile, scale: float) -> Sown:
        """The places where a picture of that layer lets them be born."""
        return sow(tile, scale, _SOWN[self.born])

    def born_between(
        self, key: Key, counts: Numbers, frames: Numbers, rows: Numbers, most: int
    ) -> tuple[NDArray[np.int64], NDArray[np.int64], Numbers, Numbers]:
        """Those born on some frames `(F,)` till the last: their numbers, which of the frames was before,
        the exact frames, and how it was then; of more than `most`, those of the latest. `counts` says how many were
        born till each; between frames all goes evenly."""
        end = math.ceil(counts[-1] + 0.5)
        which = np.arange(max(0, math.floor(counts[0] - 0.5), end - most - 2), end, dtype=np.int64)
        early = np.maximum(0.0, which - shares_of(key, which, WHEN_BORN) + 0.5)
        kept = (early >= counts[0]) & (early < counts[-1])
        which, early = which[kept][-most:], early[kept][-most:]
        place = np.clip(np.searchsorted(counts, early, side="right") - 1, 0, len(counts) - 2)
        step = np.maximum(counts[place + 1] - counts[place], 1e-12)
        part = np.clip((early - counts[place]) / step, 0, 1)
        born = frames[place] + (frames[place + 1] - frames[place]) * part
        return which, place, born, rows[place] + (rows[place + 1] - rows[place]) * part[:, None]

    def bursts_between(self, since: float, till: float) -> list[tuple[int, float]]:
        """Which bursts there are from some seconds after it begins to others, and when each is."""
        if not self.burst or till < 0:
            return []
        if self.burst_every <= 0:
            return [(0, 0.0)] if since <= 0 < till else []
        every = max(SHORTEST, self.burst_every)
        first, last = (max(0, math.ceil(at / every - 1e-9)) for at in (since, till))
        return [(turn, turn * every) for turn in range(first, last)]

    def burst_at(
        self, turn: int, frame: float, row: Numbers
    ) -> tuple[NDArray[np.int64], Numbers, Numbers]:
        """Those born at once in a burst: their numbers, their frame, and how it was then; nothing moves them along."""
        which = np.arange(self.burst, dtype=np.int64) + _BURST + turn * self.burst
        rows = np.repeat(row[None], len(which), axis=0)
        rows[:, _MOVED_X:] = 0
        return which, np.full(len(which), frame), rows

    def thrown(
        self,
        key: Key,
        which: NDArray[np.int64],
        born: Numbers,
        rows: Numbers,
        sown: Sown | None = None,
    ) -> Lot:
        """Where each begins and how fast it goes which way; where nothing is sown none begins."""
        if sown is not None and not len(sown.places):
            which, born, rows = which[:0], born[:0], rows[:0]
        one, other = shares_of(key, which, WHERE), shares_of(key, which, WHERE_ELSE)
        outward = 2 * math.pi * one
        dyes = uncoloured(len(which))
        if sown is not None:
            starts, outward, dyes = sown.at(one, other)
        elif self.born == "on a path" and self.path is not None:
            starts = _along(self.path.line(1.0), one)
        else:
            starts = rows[:, [_X, _Y]] + self._aside(one, other, rows)
        if sown is None and self.heads != "towards":
            middle = starts - rows[:, [_X, _Y]]
            away = np.hypot(*middle.T) > 1e-6
            outward = np.where(away, np.arctan2(middle[:, 1], middle[:, 0]), outward)
        even, other_way = shares_of(key, which, WHITHER), shares_of(key, which, WHITHER_ELSE)
        narrow = 1 - rows[:, _CONE] / 360
        aim = even - 0.5 + 0.5 * narrow * (other_way - even)
        way = np.radians(rows[:, _DIRECTION] + aim * rows[:, _CONE])
        if self.heads != "towards":
            way = way + outward
        fast = rows[:, _SPEED] * (1 - self.uneven / 100 * shares_of(key, which, HOW_FAST))
        speeds = np.stack([fast * np.cos(way), fast * np.sin(way)], axis=1)
        speeds += self.inherits / 100 * rows[:, _MOVED_X:]
        return Lot(which, born, starts, speeds, starts, dyes)

    def lives(self, key: Key, which: NDArray[np.int64]) -> Numbers:
        """How long each lives, in seconds."""
        return self.life * (1 - self.life_uneven / 100 * shares_of(key, which, HOW_LONG))

    def _aside(self, one: Numbers, other: Numbers, rows: Numbers) -> Numbers:
        """How far from the middle each begins, from two even shares."""
        aside = np.zeros((len(one), 2))
        round_it = 2 * math.pi * one
        match self.born:
            case "on a line":
                aside[:, 0] = one - 0.5
            case "in a box":
                aside[:, 0], aside[:, 1] = one - 0.5, other - 0.5
            case "in an ellipse":
                far = 0.5 * np.sqrt(other)
                aside[:, 0], aside[:, 1] = far * np.cos(round_it), far * np.sin(round_it)
            case "on a ring":
                aside[:, 0], aside[:, 1] = 0.5 * np.cos(round_it), 0.5 * np.sin(round_it)
        aside *= rows[:, [_WIDTH, _HEIGHT]]
        turn = np.radians(rows[:, _TURN])
        cosine, sine = np.cos(turn), np.sin(turn)
        across = aside[:, 0] * cosine - aside[:, 1] * sine
        return np.stack([across, aside[:, 0] * sine + aside[:, 1] * cosine], axis=1)


def births_on(rows: Sequence[Sequence[float | Point]], rate: float) -> Numbers:
    """The settings of birth on frames one after the other `(F, 10)`; the last moves as the one before."""
    table = np.array([[*row[0], *row[1:]] for row in rows], np.float64)  # type: ignore[misc]
    moved = np.diff(table[:, [_X, _Y]], axis=0) * rate
    return np.concatenate([table, np.concatenate([moved, moved[-1:]])], axis=1)


def joined(*lots: Lot) -> Lot:
    """Several lots as one."""
    return Lot(*(np.concatenate(parts) for parts in zip(*lots, strict=True)))


def uncoloured(count: int) -> NDArray[np.float32]:
    """The dyes of things that are born from no picture."""
    return np.empty((count, 0), np.float32)


def shares_of(key: Key, which: NDArray[np.int64], purpose: int) -> Numbers:
    """Even shares in [0, 1), each a particle's own."""
    found = np.empty(len(which))
    shares(*key, which, purpose, found)
    return found


def _along(line: Numbers, share: Numbers) -> Numbers:
    """Places on a line of straight pieces, by shares of its length."""
    lengths = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = share * lengths[-1]
    return np.stack([np.interp(at, lengths, line[:, axis]) for axis in (0, 1)], axis=1)
