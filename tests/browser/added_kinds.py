"""A source, a step, a limit, a way of moving and a blend that the program does not ship;
`HANDFUL_KINDS` names this module."""

from __future__ import annotations

from typing import Any, Generic, Literal

import numpy as np
from pydantic import Field

from handful.engine.kinds import At, Limit, Source, Step, register, setting
from handful.engine.mix import add_blend
from handful.engine.picture import Matte, Picture, Region, Tile
from handful.engine.values import MOVES, Move
from handful.engine.values.moves.move import D, Plain, Surroundings, V, added, plain


@register
class Slab(Source):
    """A plain slab of light, from the left edge on."""

    family = "energy"
    says = "Fills {share} of the canvas from the left, at {light}."

    share: float = setting(50, unit="%", least=0, most=100, help="How much of the width.")
    light: float = setting(0, unit="stops", least=-8, most=8, help="How bright.")

    def draw(self, at: At, *others: Tile) -> Tile:
        pixels = np.zeros((at.wanted.height, at.wanted.width, 4), np.float32)
        columns = np.arange(at.wanted.left, at.wanted.right) / at.canvas.width
        pixels[:, columns < self.share / 100] = 2.0**self.light
        pixels[..., 3] = np.minimum(pixels[..., 3], 1)
        return Tile(pixels, at.wanted)


@register
class Halve(Step):
    """So many times half of the light."""

    family = "light"
    says = "Halves {times} times."

    times: int = setting(2, least=0, most=8, help="How often.")

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        return Tile(tile.pixels * np.float32(0.5**self.times), tile.region)


@register
class UpperHalf(Limit):
    """Above a height."""

    family = "mask"
    says = "Above {height}."

    height: float = setting(540, unit="px", least=0, most=20000, help="Down to where.")

    def coverage(self, region: Region, at: At, *others: Tile) -> Matte:
        rows = np.arange(region.top, region.bottom)[:, None] < self.height * at.scale
        return np.broadcast_to(rows, (region.height, region.width)).astype(np.float32)


class Steps(Move, Generic[V, D]):
    """So much more with every whole second."""

    suits = frozenset({"number", "point", "colour"})
    help = "Goes up in steps, one each second."
    says = "{start} and {each}"
    carried = ("start",)

    moves: Literal["steps"]
    start: V = Field(title="Starts from")
    each: D = Field(title="More each second")

    def at(self, around: Surroundings) -> Plain:
        steps = float(int(around.moment.seconds))
        change: Any = self.each
        return added(plain(self.start), change, (steps, steps, steps))


MOVES["steps"] = Steps


def _replace(below: Picture, above: Picture, amount: float) -> None:
    below[...] = above * np.float32(amount)


add_blend("replace", _replace)
