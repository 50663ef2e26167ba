"""Flight of particles: in closed form where it is known, and else a step at a time."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.gusts import gust
from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.purposes import SIDE, WHETHER_IT_STICKS
from handful.engine.kernels.forms.carrying import (
    NONE,
    NOTHING,
    NOWHERE,
    Air,
    Distance,
    carry,
    distance_to,
)
from handful.engine.kernels.forms.flight import fall, fly
from handful.engine.kernels.forms.flocking import Heeds, heeded
from handful.engine.kinds import At, Kind, LayerId, setting
from handful.engine.named import Path, Sway
from handful.engine.picture import Tile
from handful.engine.sources.particles.births import Lot, Numbers, shares_of
from handful.engine.values import Point

BY_STEPS = (
    "stir", "gusts", "drag_fast", "pull", "whirl", "along", "swallows", "walls", "together", "alike",
    "keeps_off", "bounces_into", "sticks",
)  # fmt: skip
"""Settings that are nothing where flight is known in closed form."""

_SWIRLS_A_STEP = 0.2
_MOST_STEPS = 8


class Flight(Kind):
    """The settings of flight."""

    gravity: Point = setting(
        [0, 900], unit="px/s²", elsewhere=True, help="How they are pulled; up is a lift."
    )
    wind: Point = setting([0, 0], unit="px/s", elsewhere=True, help="How the air moves.")
    gusts: float = setting(
        0, unit="%", least=0, most=500, usual=(0, 150), help="How much the wind comes and goes."
    )
    drag: float = setting(
        0.8, unit="1/s", least=0, most=100, usual=(0, 10), help="How strongly the air holds them."
    )
    drag_fast: float = setting(
        0,
        unit="1/px",
        least=0,
        most=1,
        usual=(0, 0.02),
        help="How much more strongly the faster they go in it.",
    )
    stir: float = setting(
        0,
        unit="px/s",
        least=0,
        most=20_000,
        usual=(0, 1000),
        help="How fast the air swirls; felt as strongly as it holds them.",
    )
    stir_size: float = setting(
        260, unit="px", least=4, most=20_000, usual=(20, 1000), help="How wide its swirls are."
    )
    stir_pace: float = setting(
        0.4, unit="times a second", least=0, most=50, usual=(0, 4), help="How often they change."
    )
    draws: Literal["a point", "a line", "a layer", "a layer's edge"] = setting(
        "a point", help="What draws them to itself, whirls them about or swallows them."
    )
    draws_at: Point = setting([960, 540], unit="px", help="Where that point is.")
    draws_path: Path | None = setting("", help="The path that is that line.")
    draws_of: LayerId = setting("", help="The layer whose cover it is.")
    pull: float = setting(
        0,
        unit="px/s²",
        least=-50_000,
        most=50_000,
        usual=(-3000, 3000),
        help="How strongly it draws; below nothing it pushes away.",
    )
    whirl: float = setting(
        0,
        unit="px/s",
        least=-20_000,
        most=20_000,
        usual=(-1500, 1500),
        help="How fast the air goes round it.",
    )
    reach: float = setting(
        300,
        unit="px",
        drawn="radius",
        about="draws_at",
        least=1,
        most=20_000,
        usual=(20, 1500),
        help="How far from it that is strongest.",
    )
    along: float = setting(
        0,
        unit="px/s",
        least=-20_000,
        most=20_000,
        usual=(-1500, 1500),
        help="How fast the air goes along that line, or along the layer's edge.",
    )
    swallows: float = setting(
        0, unit="px", least=0, most=5000, usual=(0, 100), help="How near to it they are gone."
    )
    together: float = setting(
        0, unit="px/s²", least=-50_000, most=50_000, usual=(0, 2000), help="How strongly each is drawn to the middle of those near it."
    )  # fmt: skip
    alike: float = setting(
        0,
        unit="1/s",
        least=0,
        most=20,
        usual=(0, 6),
        help="How soon each goes as those near it do.",
    )
    keeps_off: float = setting(
        0, unit="px/s²", least=0, most=50_000, usual=(0, 3000), help="How strongly each keeps off those too near, within half of that distance."
    )  # fmt: skip
    near: float = setting(
        90, unit="px", least=2, most=2000, usual=(10, 400), help="How far off others are near."
    )
    sway: Sway | None = setting(
        "", look=True, help="A sway that carries them, more and more as they go."
    )
    flutter: float = setting(
        0,
        unit="px",
        look=True,
        least=0,
        most=2000,
        usual=(0, 100),
        help="How far they go from side to side.",
    )
    flutter_pace: float = setting(
        1.5,
        unit="times a second",
        look=True,
        least=0,
        most=50,
        usual=(0, 6),
        help="How often they do.",
    )
    deep: float = setting(
        0,
        unit="%",
        look=True,
        least=0,
        most=95,
        help="How much smaller and slower the far ones are.",
    )
    lands: Literal["land nowhere", "bounce on a floor", "are gone at a floor"] = setting(
        "land nowhere", help="Whether there is a floor."
    )
    floor: float = setting(
        900, unit="px", least=-20000, most=40000, usual=(0, 1080), help="How far down the floor is."
    )
    walls: LayerId = setting("", help="A layer whose cover they bounce off.")
    bounce: float = setting(
        45, unit="%", least=0, most=100, help="How much of their speed they come back with."
    )
    slide: float = setting(
        75, unit="%", least=0, most=100, help="How much of their speed along it they keep."
    )

    sticks: float = setting(
        0, unit="%", least=0, most=100, help="How many of them stick where they meet a floor or a wall."
    )  # fmt: skip

    def flown(self, lot: Lot, seconds: Numbers) -> Numbers:
        """Where each is after so many seconds `(N,)`, as far as closed forms know."""
        places = np.empty_like(lot.starts)
        fly(
            lot.starts, lot.speeds, seconds, self._gravity(), (self.wind.x, self.wind.y), self.drag,
            self._floor(), self.bounce / 100, self.slide / 100, places,
        )  # fmt: skip
        return places

    def ends(self, lot: Lot, lives: Numbers) -> Numbers:
        """How old each gets `(N,)`, in seconds: as old as it may, or till it comes down on a floor that takes it."""
        if not self._is_taken():
            return lives
        found = np.empty_like(lives)
        fall(
            lot.starts, lot.speeds, lives, self._gravity(), (self.wind.x, self.wind.y), self.drag,
            self.floor, found,
        )  # fmt: skip
        return found

    def taken(self, before: Numbers, places: Numbers) -> NDArray[np.bool_]:
        """Which of those at some places `(N, 2)` have come through a floor that takes them since a step before."""
        if not self._is_taken():
            return np.zeros(len(places), np.bool_)
        return (before[:, 1] < self.floor) & (places[:, 1] >= self.floor)

    def since_landed(self, places: Numbers, speeds: Numbers, most: float) -> Numbers:
        """How many seconds ago, and at most so many, those now below the floor came through it."""
        return np.clip((places[:, 1] - self.floor) / np.maximum(speeds[:, 1], 1e-6), 0, most)

    def thrown_back(self, speeds: Numbers) -> Numbers:
        """Speeds `(N, 2)` as a floor that takes things throws back what they burst into."""
        if not self._is_taken():
            return speeds
        return np.stack([speeds[:, 0] * self.slide / 100, -np.abs(speeds[:, 1]) * self.bounce / 100], axis=1)  # fmt: skip

    def swayed(
        self, at: At, key: Key, lot: Lot, places: Numbers, seconds: Numbers, deep: Numbers
    ) -> Numbers:
        """Where each is seen: carried by a sway, fluttering, and nearer to where it comes from the deeper it is."""
        if self.sway is not None:
            pushes = self.sway.pushes(places, at.shared_key("sway", self.sway.seed))
            places = places + pushes * (1 - np.exp(-1.5 * seconds))[:, None]
        if self.flutter > 0:
            phase = shares_of(key, lot.which, SIDE)
            angle = 2 * math.pi * (self.flutter_pace * seconds * (0.6 + 0.8 * phase) + 7 * phase)
            aside = np.sin(angle) - np.sin(2 * math.pi * 7 * phase)
            places = places + self.flutter * np.stack(
                [aside, 0.35 * (np.cos(2 * angle) - 1)], axis=1
            )
        return lot.roots + (places - lot.roots) * deep[:, None]

    def carried(
        self,
        at: At,
        clings: NDArray[np.bool_],
        places: Numbers,
        speeds: Numbers,
        spans: Numbers,
        since: float,
        body: Distance,
        walls: Distance,
        hits: Numbers,
    ) -> NDArray[np.bool_]:
        """Carry places and speeds `(N, 2)` on for `spans` `(N,)` seconds, in place, at a moment so many
        seconds after the layer begins; which of them are left. What `clings` `(N,)` may stick. When, where and how each bounced is written
        to `hits` `(N, 7)`, unless that is empty."""
        strong = 1 + self.gusts / 100 * gust(since, at.key("gusts", "wind"))
        line = np.empty((0, 2))
        if self.draws == "a line" and self.draws_path is not None:
            line = self.draws_path.line(1.0)
        air = Air(
            gravity=self._gravity(),
            wind=(self.wind.x * strong, self.wind.y * strong),
            drag=self.drag,
            drag_fast=self.drag_fast,
            stir=self.stir,
            stir_size=self.stir_size,
            turns=self.stir_pace * since,
            pull=self.pull,
            whirl=self.whirl,
            reach=self.reach,
            swallows=self.swallows,
            x=self.draws_at.x,
            y=self.draws_at.y,
            to_edge=self.draws == "a layer's edge",
            along=self.along,
            floor=self._floor(),
            bounce=self.bounce / 100,
            slide=self.slide / 100,
        )
        driven = NOTHING
        if self.together or self.alike or self.keeps_off:
            heeds = Heeds(self.near, self.together, self.alike, self.keeps_off)
            driven = heeded(places, speeds, heeds)
        return carry(
            places, speeds, spans, air, line, body, walls, at.key("stir"), driven, clings, hits
        )

    def clinging(self, key: Key, which: NDArray[np.int64]) -> NDArray[np.bool_]:
        """Which of those of some numbers stick to what they meet; of none if none does."""
        if not self.sticks:
            return NONE
        return shares_of(key, which, WHETHER_IT_STICKS) < self.sticks / 100

    def bodies(
        self, of: Tile | None, walls: Tile | None, scale: float
    ) -> tuple[Distance, Distance]:
        """How far everything is from what draws, and from the walls, as pictures at a scale show them."""
        return (
            NOWHERE if of is None else distance_to(of, scale),
            NOWHERE if walls is None else distance_to(walls, scale),
        )

    def cut(self, rate: float) -> int:
        """Into how many steps a frame is cut."""
        blown = max(abs(self.whirl), abs(self.along)) / self.reach
        fast = max(self.stir / self.stir_size, blown, self.alike)
        near = max(abs(self.together), self.keeps_off) / self.near
        pulled = math.sqrt(max(abs(self.pull) / self.reach, near))
        return min(_MOST_STEPS, max(1, math.ceil(max(fast, pulled) / rate / _SWIRLS_A_STEP)))

    def _gravity(self) -> tuple[float, float]:
        return self.gravity.x, self.gravity.y

    def _is_taken(self) -> bool:
        return self.lands == "are gone at a floor"

    def _floor(self) -> float:
        return self.floor if self.lands == "bounce on a floor" else math.inf
