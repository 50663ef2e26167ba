"""What each of many things leaves behind on its way, and what it bursts into at its end."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.purposes import HOW_FAST, PHASE, WHITHER
from handful.engine.kinds import Kind, setting
from handful.engine.sources.particles.births import MOST_ALIVE, Numbers, shares_of

SHED = 1 << 58
"""What is shed is numbered from here."""

_BURST_OF = 1 << 57
"""And what something bursts into from as much farther on."""

_EACH = 1 << 12
"""So many numbers belong to each that sheds."""


class Shed(Kind):
    """The settings of what they shed."""

    sheds: float = setting(
        0, unit="a second", least=0, most=1000, usual=(0, 120), help="How many smaller ones each leaves behind on its way."
    )  # fmt: skip
    bursts_into: int = setting(
        0, least=0, most=1000, usual=(0, 60), help="How many smaller ones each bursts into at its end."
    )  # fmt: skip
    bounces_into: int = setting(
        0, least=0, most=1000, usual=(0, 30), help="How many smaller ones fly off each time it bounces."
    )  # fmt: skip
    shed_life: float = setting(
        0.4, unit="s", least=0.02, most=60, usual=(0.1, 4), help="How long those live."
    )
    shed_speed: float = setting(
        60, unit="px/s", least=0, most=20_000, usual=(0, 800), help="How fast they fly apart."
    )
    shed_keeps: float = setting(
        30, unit="%", least=-200, most=200, usual=(0, 100), help="How much of its speed they take along."
    )  # fmt: skip
    shed_size: float = setting(
        40, unit="%", look=True, least=0, most=500, usual=(5, 100), help="How wide they are, of it."
    )

    def is_shedding(self) -> bool:
        """Whether anything is left behind."""
        return self.sheds > 0 or self.bursts_into > 0 or self.bounces_into > 0

    def left_behind(
        self, key: Key, which: NDArray[np.int64], since: Numbers, till: Numbers
    ) -> tuple[NDArray[np.int64], NDArray[np.int64], Numbers]:
        """What things `(N,)` left behind between two ages of theirs: of which of them each is, its number, and
        how old that one was, in seconds."""
        phase = shares_of(key, which, PHASE)
        first = np.ceil(self.sheds * np.maximum(0, since) - phase).astype(np.int64)
        last = np.ceil(self.sheds * np.maximum(since, till) - phase).astype(np.int64)
        first = np.maximum(0, first)
        counts = np.maximum(0, last - first)
        # Of more than there may be, those of the latest.
        counts[np.cumsum(counts[::-1])[::-1] > MOST_ALIVE] = 0
        of = np.repeat(np.arange(len(which)), counts)
        begins = np.concatenate([[0], np.cumsum(counts)[:-1]]) if len(counts) else counts
        number = np.arange(len(of)) - begins[of] + first[of]
        ages = (number + phase[of]) / self.sheds if self.sheds > 0 else np.empty(0)
        return of, SHED + which[of] * _EACH + number % _EACH, ages

    def burst_of(self, which: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """What things burst into at their end: of which each is, and its number."""
        return _parts_of(which, self.bursts_into, np.zeros(len(which), np.int64))

    def bounced_off(
        self, which: NDArray[np.int64], ages: Numbers
    ) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """What flies off as things bounce that are so many seconds old: off which each does, and its number."""
        begins = self.bursts_into + np.floor(ages * _BOUNCES).astype(np.int64) * self.bounces_into
        return _parts_of(which, self.bounces_into, begins)

    def scattered(self, key: Key, which: NDArray[np.int64], speeds: Numbers) -> Numbers:
        """How fast what is shed flies `(M, 2)`, from how fast what it comes from does."""
        way = 2 * math.pi * shares_of(key, which, WHITHER)
        fast = self.shed_speed * np.sqrt(shares_of(key, which, HOW_FAST))
        apart = np.stack([fast * np.cos(way), fast * np.sin(way)], axis=1)
        found: Numbers = speeds * (self.shed_keeps / 100) + apart
        return found


def shed_from(which: NDArray[np.int64]) -> NDArray[np.int64]:
    """The numbers of what has shed things of some numbers; of what is not shed, its own."""
    within = which - SHED
    return np.where(
        which < SHED, which, np.where(within < _BURST_OF, within, within - _BURST_OF) // _EACH
    )


def _parts_of(
    which: NDArray[np.int64], count: int, begins: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """So many parts of each thing, numbered from where each begins: of which each is, and its number. Of more
    than there may be, those of the last things."""
    parents = np.arange(max(0, len(which) - MOST_ALIVE // max(1, count)), len(which))
    of = np.repeat(parents, count)
    number = begins[of] + np.tile(np.arange(count, dtype=np.int64), len(parents))
    return of, SHED + _BURST_OF + which[of] * _EACH + number % _EACH


_BOUNCES = 97
"""Bounces of one thing so many to a second have numbers of their own."""
