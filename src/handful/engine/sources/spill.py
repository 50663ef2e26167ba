"""Spill: the light that a layer sheds on what is around it."""

from __future__ import annotations

import math
from typing import Literal, NamedTuple

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.drawing.lit import light_of
from handful.engine.kernels.fluid.laid import laid
from handful.engine.kernels.pixels.bounds import hold_bounds
from handful.engine.kernels.pixels.convolve import convolved
from handful.engine.kinds import At, LayerId, Planned, Planning, Source, State, register, setting
from handful.engine.picture import Matte, Picture, Tile, blank, clear_tile


@register
class Spill(Source):
    """The light that another layer sheds on a wall behind it: wide, soft, and flickering as that layer does.

    Each px of it shines on the wall as a small lamp before it does, so that what is seen is the light
    that comes to every place: all of it together is what the layer sheds. It is light without cover.
    Added up it is a glow in the air; on the plate it is what the plate sends back; rendered by itself it is a
    pass that says how much light comes to where.
    """

    family = "flare"
    says = "What {of} sheds on {falls_on}, {behind} behind it, {gain} brighter, in {tint}, no more than {reaches} off."

    of: LayerId = setting("", help="The layer that sheds it.")
    falls_on: Literal["all alike", "the plate"] = setting(
        "all alike", help="Whether all sends it back alike, or each place of the plate as bright as it is."
    )  # fmt: skip
    behind: float = setting(
        240, unit="px", least=8, most=20_000, usual=(40, 1500), help="How far behind the layer that is on which it falls: the farther, the wider."
    )  # fmt: skip
    gain: float = setting(
        3, unit="stops", least=-12, most=16, usual=(-4, 8), help="How much brighter it is."
    )
    tint: Colour = setting("#ffffff", help="What colour it is sent back in.")
    reaches: float = setting(
        2000, unit="px", least=16, most=20_000, usual=(200, 4000), help="How far it comes at most."
    )

    def planned(self, ask: Planning) -> Planned:
        scale = self._scale()
        seen = ask.seen(self.of, ask.clock().frame, scale, shed=True)
        spread = ask.state(_Spread(self.behind * scale, round(self.reaches * scale)), seen)
        plate = [ask.plate(0.0, "hold")] if self.falls_on == "the plate" else []
        return ask.drawn(_Fall(self, scale), spread, *plate)

    def _scale(self) -> float:
        """The scale at which the layer is looked at: as coarse as does not show."""
        halvings = math.floor(math.log2(max(1.0, self.behind / _FINE)))
        return 0.5 ** min(_MOST_HALVINGS, max(_LEAST_HALVINGS, halvings))


_FINE = 6.0
"""px between a lamp and a wall at which the light on it is even from px to px."""

_LEAST_HALVINGS, _MOST_HALVINGS = 2, 5


def on_a_wall(behind: float, reaches: int) -> Matte:
    """What comes from a lamp to a wall `behind` px behind it, around the foot of it `(2 N + 1, 2 N + 1)`: by the
    inverse square of how far off a place is and the cosine there, h / (r² + h²)^(3/2) (Lambert 1760). Its sum is 1."""
    side = np.arange(-reaches, reaches + 1, dtype=np.float64)
    square = side[:, None] ** 2 + side[None, :] ** 2
    found = np.where(square <= (reaches + 0.5) ** 2, (square + behind**2) ** -1.5, 0.0)
    shares: Matte = (found / found.sum()).astype(np.float32)
    return shares


class _Spread(NamedTuple):
    """Spreads a picture on a wall so many px of it behind, and up to so many around."""

    behind: float
    reaches: int

    def next(self, at: At, tile: Tile) -> State:
        if tile.region.empty:
            return (np.zeros((0, 0, 4), np.float32), (0, 0))
        reaches = min(self.reaches, _MOST_PX)
        region = tile.region.grown(reaches // 2)
        found = convolved(tile, on_a_wall(self.behind, reaches), region)
        return (found.pixels, (found.region.left, found.region.top))


_MOST_PX = 600
"""How far light is followed at most in px of the small picture: at a hundred times the distance of the wall it is nothing."""


class _Fall(NamedTuple):
    """Lays what was spread at a scale on what is there."""

    source: Spill
    scale: float

    def draw(self, at: At, spread: State, *plate: Tile) -> Tile:
        light, (left, top) = spread
        source, by = self.source, at.scale / self.scale
        if not light.size:
            return clear_tile(at.wanted)
        colour = light_of(source.tint, source.gain)
        planes = [laid(light[..., c], left * by, top * by, by, at.wanted) for c in range(3)]
        region = planes[0][1]
        result: Picture = blank(region)
        for c in range(3):
            np.maximum(planes[c][0] * colour[c], 0, out=result[..., c])
        if plate:
            result[..., :3] *= plate[0].within(region)[..., :3]
        hold_bounds(result)
        return Tile(result, region)
