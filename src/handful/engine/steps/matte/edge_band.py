"""Edge band: light along the edge of what covers."""

from __future__ import annotations

from typing import Literal

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.pixels.area import reach_of_softness, softened
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Matte, Picture, Tile, luminance, unset


@register
class EdgeBand(Step):
    """Turns the picture into a soft band along the edge of its cover, in one colour.

    The cover is softened, and kept where it is neither inside nor outside: 4 s (1 - s).
    """

    family = "matte"
    says = "A band {width} wide {side} the edge of its {of}, in {colour} at {light}."

    width: float = setting(
        40, unit="px", least=1, most=1000, usual=(2, 200), help="Width at half its strength."
    )
    side: Literal["on both sides of", "inside", "outside"] = setting(
        "on both sides of", help="On which side of the edge it is."
    )
    of: Literal["cover", "brightness"] = setting("cover", help="Whose edge.")
    colour: Colour = setting("#ffffff", help="Its colour.")
    light: float = setting(
        0, unit="stops", least=-12, most=12, usual=(-4, 6), help="How bright it is."
    )

    def reach(self) -> float:
        return float(reach_of_softness(self.width * _DEVIATION_FOR_WIDTH))

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        deviation = max(0.3, self.width * at.scale * _DEVIATION_FOR_WIDTH)
        reach = reach_of_softness(deviation)
        region = tile.region.grown(reach).meet(at.wanted)
        room = region.grown(reach).aligned(64)
        known = tile.within(room)
        matte = known[..., 3] if self.of == "cover" else luminance(known)
        matte = np.clip(matte, 0, 1).astype(np.float32)
        soft = softened(np.ascontiguousarray(matte), deviation)
        light = np.array(self.colour, np.float32) * np.float32(2.0**self.light)
        side = ("on both sides of", "inside", "outside").index(self.side)
        top, left = region.top - room.top, region.left - room.left
        result = unset(region)
        in_bands(_band_rows, region.height, soft, matte, top, left, side, light, result)
        return Tile(result, region)


_DEVIATION_FOR_WIDTH = 1 / (2 * 1.0515)
"""4 s (1 - s) of a normal edge is a half where the edge is at 0.1464 and 0.8536: 1.0515 deviations."""


@compiled
def _band_rows(
    first: int,
    last: int,
    soft: Matte,
    matte: Matte,
    top: int,
    left: int,
    side: int,
    light: np.ndarray,
    result: Picture,
) -> None:
    one = np.float32(1.0)
    for y in range(first, last):
        for x in range(result.shape[1]):
            s, m = soft[y + top, x + left], matte[y + top, x + left]
            band = np.float32(4.0) * s * (one - s)
            if side == 1:
                band *= m
            elif side == 2:
                band *= one - m
            for c in range(3):
                result[y, x, c] = light[c] * band
            result[y, x, 3] = band
