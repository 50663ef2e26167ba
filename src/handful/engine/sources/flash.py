"""Flash: a burst of light on everything."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.noise import field_on
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.drawing.lit import light_of
from handful.engine.kinds import At, Source, register, setting
from handful.engine.picture import Picture, Tile, clear_tile, unset
from handful.engine.values import Point


@register
class Flash(Source):
    """A burst that lights everything a little, and what is near a point more.

    It is light without cover. Added to a picture it is haze that flashes; mixed by the blend expose
    it makes the layers before it brighter, as a longer exposure would; rendered by itself as a pass
    it says how much brighter a plate becomes. Its timing is the layer's life.
    """

    family = "flare"
    says = (
        "Lights everything by {everywhere} and around {at} by {near}, down to half at {radius}, "
        "in {colour}. Uneven by {uneven} in patches of {size}."
    )

    at: Point = setting([960, 540], unit="px", help="Where the light comes from.")
    colour: Colour = setting("#bcd3ff", help="Colour of the light.")
    everywhere: float = setting(
        -6,
        unit="stops",
        least=-20,
        most=12,
        usual=(-10, 4),
        help="Light on everything; −20 is none.",
    )
    near: float = setting(
        -2.5,
        unit="stops",
        least=-20,
        most=12,
        usual=(-8, 6),
        help="Light where it comes from; −20 is none.",
    )
    radius: float = setting(
        360,
        unit="px",
        drawn="radius",
        about="at",
        least=1,
        most=20000,
        usual=(40, 1500),
        help="Distance at which that light is down to half.",
    )
    uneven: float = setting(
        0, unit="%", least=0, most=100, help="How much darker it is in patches, as in cloud."
    )
    size: float = setting(
        420, unit="px", least=8, most=20000, usual=(40, 1500), help="Size of those patches."
    )
    boil: float = setting(
        {"moves": "rate", "start": 0, "per_second": 2},
        unit="cycles",
        least=-1e6,
        most=1e6,
        usual=(0, 10),
        help="How far the patches have changed.",
    )
    seed: int = setting(1, least=0, most=2**31 - 1, help="Another seed, other patches.")

    def draw(self, at: At, *others: Tile) -> Tile:
        region = at.wanted
        if region.empty:
            return clear_tile(region)
        patches = np.zeros((1, 1, 2), np.float32)
        if self.uneven > 0:
            patches = field_on(
                *region[:2], region.width, region.height, self.size * at.scale, 3, 0.5, (0.0, 0.0),
                self.boil, at.key("patches", self.seed),
            )  # fmt: skip
        pixels = unset(region)
        reach = self.radius * at.scale / math.sqrt(_HALF)
        in_bands(
            _flash_rows, region.height, region.left, region.top,
            np.float32(self.at.x * at.scale), np.float32(self.at.y * at.scale),
            np.float32(1 / (reach * reach)), self._light(self.everywhere), self._light(self.near),
            patches, np.float32(self.uneven / 100), pixels,
        )  # fmt: skip
        return Tile(pixels, region)

    def _light(self, stops: float) -> np.ndarray:
        return light_of(self.colour, stops) if stops > _NONE else np.zeros(3, np.float32)


_NONE = -20.0
_HALF = 2.0 ** (2.0 / 3.0) - 1.0
"""Where (1 + r^2)^(-3/2) is a half: an even point of light over a plane falls off like that."""


@compiled
def _flash_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    at_x: np.float32,
    at_y: np.float32,
    inverse: np.float32,
    everywhere: np.ndarray,
    near: np.ndarray,
    patches: np.ndarray,
    uneven: np.float32,
    picture: Picture,
) -> None:
    half, one = np.float32(0.5), np.float32(1.0)
    has_patches = patches.shape[0] > 1
    for y in range(first, last):
        dy = np.float32(y + top) + half - at_y
        for x in range(picture.shape[1]):
            dx = np.float32(x + left) + half - at_x
            fall = one / (one + (dx * dx + dy * dy) * inverse)
            fall *= math.sqrt(fall)
            kept = one
            if has_patches:
                dip = half - np.float32(1.2) * patches[y, x, 0]
                kept -= uneven * min(one, max(np.float32(0.0), dip))
            for c in range(3):
                picture[y, x, c] = (everywhere[c] + near[c] * fall) * kept
            picture[y, x, 3] = np.float32(0.0)
