"""Folds that travel over a sheet, without its being computed from its beginning on."""

from __future__ import annotations

import dataclasses
import math
from typing import Any, Literal, NamedTuple

import numpy as np

from handful.engine.kernels.chance.hash import uniform
from handful.engine.kernels.chance.purposes import HOW_A_WAVE_BEGINS
from handful.engine.kernels.forms.sheet import Points
from handful.engine.kinds import At, Planned, Planning, Source, register, setting
from handful.engine.picture import Tile
from handful.engine.sources.cloth.worn import WORN_SAYS, Worn, printed_on
from handful.engine.values import Point

_WAVES = (
    (1.0, 1.0, 0.0, 1.0),
    (0.6, 0.62, 0.03, 0.7),
    (0.4, 1.73, -0.02, 1.2),
    (0.2, 2.4, 0.03, 1.5),
)
"""Of each wave: how deep, how closely, how far turned in radians, and how quick, beside the first."""

_A_FOLD, _LEAST, _MOST = 14, 24, 160
"""Points for each fold, and least and most of them across and down."""

_STEEPEST = 0.96
"""A piece of the sheet leans no more than so much towards the eye."""


class Waved(Source):
    """How folds go over a sheet."""

    at: Point = setting([960, 190], unit="px", help="The middle of its upper edge, as it is held.")
    held: Literal["its upper edge", "its left edge"] = setting(
        "its upper edge", help="By which edge it is held."
    )
    width: float = setting(
        760, unit="px", drawn="width", about="at", least=4, most=20000, usual=(50, 2500), help="How wide it is, laid flat."
    )  # fmt: skip
    height: float = setting(
        760, unit="px", least=4, most=20000, usual=(50, 2500), help="How long it is, laid flat."
    )
    folds: float = setting(
        6, least=0, most=60, usual=(1, 20), help="How many folds it is in from side to side."
    )
    turned: float = setting(
        8, unit="°", least=-360, most=360, usual=(-90, 90), help="How far its folds are turned from upright."
    )  # fmt: skip
    deep: float = setting(
        34, unit="px", least=0, most=4000, usual=(0, 150), help="How deep its folds are."
    )
    grows: float = setting(
        70, unit="%", least=0, most=100, help="How much less deep they are where it is held."
    )
    uneven: float = setting(
        60, unit="%", least=0, most=100, help="How much folds differ from one another."
    )
    run: float = setting(
        {"moves": "rate", "start": 0, "per_second": 0.35},
        unit="folds",
        least=-1e6,
        most=1e6,
        usual=(-10, 10),
        help="By how many folds they have travelled.",
    )
    billow: float = setting(
        60, unit="px", least=-10_000, most=10_000, usual=(-300, 300), help="How far its middle is blown towards the eye."
    )  # fmt: skip
    hangs: float = setting(
        0, unit="%", least=-200, most=200, usual=(-20, 60), help="How far its free end hangs down, of its width, where its left edge is held."
    )  # fmt: skip
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed is another fall of folds."
    )

    def rows_and_columns(self) -> tuple[int, int]:
        """How many points its folds are to be drawn by."""
        turn = math.radians(self.turned)
        return self._points(self.folds * abs(math.sin(turn))), self._points(
            self.folds * abs(math.cos(turn))
        )

    def places(self, at: At, points: tuple[int, int] | None = None) -> Points:
        """Where its points are `(R, C, 3)`, so many down and across if that is said, in px of the full-size canvas. None of
        it is stretched: what goes into depth is lost across and down."""
        rows, columns = points or self.rows_and_columns()
        across, down = np.meshgrid(np.linspace(0, 1, columns), np.linspace(0, 1, rows))
        hanging = self.held == "its upper edge"
        far = down if hanging else across
        loose = 1 - self.grows / 100 * (1 - np.minimum(1, far / 0.6)) ** 2
        deep = self.deep / 2 * loose * self._waves(across, down, at)
        deep += self.billow * np.sin(math.pi * across) * np.sin(math.pi / 2 * down) * far
        wide, long = self.width / (columns - 1), self.height / (rows - 1)
        deep, x = _laid(deep, wide, axis=1)
        deep, y = _laid(deep, long, axis=0)
        x -= x[:, -1:] / 2 if hanging else self.width / 2
        if not hanging:
            y += self.hangs / 100 * self.width * across**2
        return np.stack([self.at.x + x, self.at.y + y, deep], axis=2)

    def _points(self, folds: float) -> int:
        return int(min(_MOST, max(_LEAST, math.ceil(folds * _A_FOLD))))

    def _waves(self, across: Points, down: Points, at: At) -> Points:
        key = at.key("folds", self.seed)
        found, strong = np.zeros_like(across), 0.0
        for i, (deep, close, turn, quick) in enumerate(_WAVES):
            share = deep if i == 0 else deep * self.uneven / 100
            way = math.radians(self.turned) + turn
            along = self.folds * close * (math.cos(way) * across + math.sin(way) * down)
            begins = uniform(*key, i, HOW_A_WAVE_BEGINS)
            found += share * np.sin(2 * math.pi * (along - quick * self.run + begins))
            strong += share * share
        return found / math.sqrt(strong)


def _laid(deep: Points, apart: float, axis: int) -> tuple[Points, Points]:
    """Lines of points that are so far apart along them laid from their beginning on, each as deep as it is said where it
    does not lean more than a piece can; and how far along they come."""
    most = _STEEPEST * apart
    steps = most * np.tanh(np.diff(deep, axis=axis) / most)
    goes = np.sqrt(apart * apart - steps * steps)
    begin = np.take(deep, [0], axis=axis)
    laid = np.cumsum(np.concatenate([begin, steps], axis=axis), axis=axis)
    along = np.cumsum(np.concatenate([np.zeros_like(begin), goes], axis=axis), axis=axis)
    return laid, along


@register
class Folds(Worn, Waved):
    """Folds that travel over a sheet of cloth: a curtain that stirs, a flag that streams, at once and as it is drawn.

    They are waves, and nothing is computed from its beginning on: each frame stands by itself.
    """

    family = "cloth"
    says = (
        "Held by {held} at {at}, {width} by {height}, in {folds} folds turned {turned}, {deep} deep and {grows} less where "
        "it is held, {uneven} uneven, that have travelled {run}; blown {billow} and hanging {hangs}.\n"
        + WORN_SAYS
    )

    def planned(self, ask: Planning) -> Planned:
        """As it is, and how it is half a frame before and after."""
        now = ask.clock().frame
        names = [known.name for known in self.settings if not known.look]
        opens, closes = ask.history(names, [now - 0.5, now + 0.5])
        return ask.drawn(_Moving(self, names, opens, closes), *ask.others())


class _Moving(NamedTuple):
    folds: Folds
    names: list[str]
    opens: tuple[Any, ...]
    closes: tuple[Any, ...]

    def draw(self, at: At, *others: Tile) -> Tile:
        folds = self.folds
        points = folds.rows_and_columns()
        opens, closes = (
            dataclasses.replace(folds, **dict(zip(self.names, row, strict=True))).places(at, points)
            for row in (self.opens, self.closes)
        )
        printed = printed_on(others[0], at, at.scale) if folds.printed else None
        size = (folds.width, folds.height)
        return folds.worn(folds.places(at, points), closes - opens, size, printed, at)
