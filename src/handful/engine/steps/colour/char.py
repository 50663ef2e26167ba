"""Char: the picture as what is left of a thing that has burnt, with embers in its cracks."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.heat import COLDEST, STEP_OF_TABLE, heat_table
from handful.engine.colour.transfer import Colour
from handful.engine.kernels.chance.patterns import (
    Laid,
    Octaves,
    Pattern,
    Warping,
    bounds_of,
    pattern_on,
)
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.pixels.bounds import hold_bounds
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Matte, Picture, Tile, unset

_STRAIGHT = Warping(0, 0.0)


@register
class Char(Step):
    """What has burnt: dark, crushed and brown, cracked into plates between which embers glow and breathe, and
    grey with ash.

    Embers shine by their temperature. What the picture covers it covers still, so that a plate's own picture
    chars where a matte says that the fire has been.
    """

    family = "colour"
    says = (
        "Chars it by {amount}: {turned} turned over, {darker} darker, in {colour}.\nPlates {size} wide part in cracks "
        "{cracks} wide, where embers {kelvin} hot at {light} breathe by {breath}, {breathes} by now; {ash} of it is ash. Seed {seed}."
    )

    amount: float = setting(100, unit="%", least=0, most=100, help="How much of it has charred.")
    turned: float = setting(
        15, unit="%", least=0, most=100, help="How much bright parts become dark and dark ones bright."
    )  # fmt: skip
    darker: float = setting(
        2.5, unit="stops", least=-4, most=12, usual=(0, 6), help="How much darker it is."
    )
    colour: Colour = setting("#7a5a48", help="The colour that it is then, in white light.")
    size: float = setting(
        46, unit="px", least=2, most=4000, usual=(8, 300), help="How wide the plates are."
    )
    cracks: float = setting(
        14, unit="%", least=0, most=100, usual=(2, 60), help="How wide the cracks are, of that."
    )
    kelvin: float = setting(
        1150, unit="K", least=700, most=3000, usual=(850, 1500), help="How hot the embers are."
    )
    light: float = setting(
        1, unit="stops", least=-12, most=16, usual=(-4, 6), help="How bright those are."
    )
    breath: float = setting(
        90, unit="%", least=0, most=100, help="How much they glow and fade by turns."
    )
    breathes: float = setting(
        {"moves": "rate", "start": 0, "per_second": 0.6},
        unit="times",
        least=-1e7,
        most=1e7,
        usual=(0, 100),
        help="How often they have done so by now.",
    )
    ash: float = setting(25, unit="%", least=0, most=100, help="How much of it is grey with ash.")
    seed: int = setting(
        1, least=0, most=2**31 - 1, usual=(0, 99), help="Another seed, other cracks."
    )

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        cells = _octaves(1, 0.0)
        apart = self._noise(tile, at, "cell borders", cells, 1.0, Warping(1, 0.25))
        breathes = self._noise(tile, at, "gradient", _octaves(2, self.breathes), 3.0)
        ash = self._noise(tile, at, "billowed", _octaves(3, 0.0), 0.9)
        result = unset(tile.region)
        in_bands(
            _char_rows, tile.region.height, np.ascontiguousarray(tile.pixels), apart, breathes, ash,
            _How(
                amount=self.amount / 100,
                turned=self.turned / 100,
                dark=2.0**-self.darker,
                least=bounds_of("cell borders", cells)[0],
                cracks=self.cracks / 100 * _APART,
                px=_APART / (self.size * at.scale),
                kelvin=self.kelvin,
                breath=self.breath / 100,
                ash=self.ash / 100,
            ),
            np.array(self.colour, np.float32), heat_table(_EMBER) * np.float32(2.0**self.light), result,
        )  # fmt: skip
        return Tile(result, tile.region)

    def _noise(
        self,
        tile: Tile,
        at: At,
        pattern: Pattern,
        octaves: Octaves,
        larger: float,
        warping: Warping = _STRAIGHT,
    ) -> Matte:
        """A field of noise over a picture, in waves so much larger than the plates."""
        size = (self.size * larger, self.size * larger)
        laid = Laid("flat", (0.0, 0.0), size, 0.0, 1.0, 1)
        key = at.key(f"char {pattern}", self.seed)
        field = pattern_on(tile.region, at.scale, pattern, octaves, laid, warping, 0.0, (key,))
        return np.ascontiguousarray(field[..., 0])


def _octaves(waves: int, boil: float) -> Octaves:
    return Octaves(waves, 0.5, 2.0, 0.6, boil, 0, (0.0, 0.0), 1.0)


class _How(NamedTuple):
    """How much has charred, how much is turned over, and by what it is darker; the least of the field of borders,
    how far above it cracks end, and how much a px is of that; how hot embers are, how much they breathe, and how much is ash."""

    amount: float
    turned: float
    dark: float
    least: float
    cracks: float
    px: float
    kelvin: float
    breath: float
    ash: float


_APART = 1.63
"""A field of borders goes up so much faster than the places between two cells are apart, in cells."""

_EMBER = 1150.0
"""Kelvin of an ember that is as bright as it is set."""

_COOLER = 0.3
"""By so much of its heat the edge of a crack is cooler than its middle, and an ember that has breathed out."""


@compiled
def _char_rows(
    first: int,
    last: int,
    picture: Picture,
    apart: Matte,
    breathes: Matte,
    ash: Matte,
    how: _How,
    colour: NDArray[np.float32],
    table: NDArray[np.float32],
    result: Picture,
) -> None:
    zero, half, one = np.float32(0.0), np.float32(0.5), np.float32(1.0)
    amount, turned, dark = np.float32(how.amount), np.float32(how.turned), np.float32(how.dark)
    for y in range(first, last):
        for x in range(picture.shape[1]):
            px = picture[y, x]
            there = max(px[3], min(one, max(px[0], max(px[1], px[2]))))
            if there <= zero:
                result[y, x] = px
                continue
            seen = (
                np.float32(0.2126) * px[0] + np.float32(0.7152) * px[1] + np.float32(0.0722) * px[2]
            ) / there
            seen += turned * (max(zero, one - seen) - seen)
            crushed = seen * seen / (seen + np.float32(0.25)) + np.float32(0.01)
            off = np.float32(apart[y, x] - how.least)
            flat = min(one, off / np.float32(_PLATE))
            body = dark * crushed * (np.float32(0.45) + np.float32(0.55) * flat)
            grey = np.float32(how.ash) * np.float32(
                smooth(min(one, max(zero, ash[y, x] + np.float32(0.6))))
            )
            grey *= flat * dark * (crushed + np.float32(0.12))
            hot, k, part = zero, 0, zero
            wide = np.float32(how.cracks) * max(zero, np.float32(0.65) + half * ash[y, x])
            seen_wide = np.float32(math.sqrt(wide * wide + how.px * how.px))
            if off < seen_wide:
                hot = one - off / seen_wide
                out = np.float32(how.breath) * min(one, max(zero, half - breathes[y, x]))
                kelvin = how.kelvin * (1.0 - _COOLER * (1.0 - hot)) * (1.0 - _COOLER * out)
                place = min(max((kelvin - COLDEST) / STEP_OF_TABLE, 0.0), table.shape[0] - 1.001)
                k = int(place)
                part = np.float32(place - k)
                hot = np.float32(smooth(min(one, hot + hot))) * wide / seen_wide
            for c in range(3):
                ember = hot * (table[k, c] + (table[k + 1, c] - table[k, c]) * part)
                charred = there * (body * colour[c] + grey + ember)
                result[y, x, c] = px[c] + amount * (charred - px[c])
            result[y, x, 3] = px[3]
    hold_bounds(result[first:last])


_PLATE = 0.5
"""How far above the least of the field of borders the top of a plate is."""
