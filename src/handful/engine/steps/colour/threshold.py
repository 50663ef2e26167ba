"""Threshold: keeps what is bright, or of a colour."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.pixels.tables import divisor
from handful.engine.kinds import At, Changer, Pointwise, register, setting
from handful.engine.picture import LUMINANCE_WEIGHTS, Picture


@register
class Threshold(Pointwise):
    """Keeps what is brighter than a level, or near to a colour, with a soft edge; light and cover.

    A colour's distance is counted between shares of red, green and blue, so that dark and bright
    of one hue are the same.
    """

    family = "colour"
    says = "Keeps what is by {by} above {level}, near {colour} within {distance}, soft over {softness}; inverted {inverted}."

    by: Literal["brightness", "colour"] = setting("brightness", help="What decides.")
    level: float = setting(
        50, unit="%", least=0, most=10_000, usual=(0, 200), help="Luminance at which half is kept."
    )
    colour: Colour = setting("#3f7dff", help="The colour that is kept.")
    distance: float = setting(
        20, unit="%", least=0, most=150, usual=(0, 100), help="Distance at which half is kept."
    )
    softness: float = setting(
        20, unit="%", least=0.1, most=1000, usual=(1, 100), help="Width of the soft edge."
    )
    inverted: bool = setting(False, help="Whether the rest is kept.")

    def changer(self, at: At) -> Changer:
        is_colour = self.by == "colour"
        total = max(1e-6, sum(self.colour))
        shares = np.array([part / total for part in self.colour], np.float32)
        middle = (self.distance if is_colour else self.level) / 100
        soft = self.softness / 100
        falls = is_colour != self.inverted
        return lambda rows, place: _keep(rows, shares, is_colour, middle - soft / 2, soft, falls)


@compiled
def _keep(
    rows: Picture,
    shares: NDArray[np.float32],
    by_colour: bool,
    low: float,
    soft: float,
    falls: bool,
) -> None:
    wr, wg, wb = LUMINANCE_WEIGHTS
    begin, span = np.float32(low), np.float32(soft)
    zero, one = np.float32(0.0), np.float32(1.0)
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            r, g, b = line[x, 0], line[x, 1], line[x, 2]
            if by_colour:
                total = max(r + g + b, np.float32(1e-9))
                dr, dg, db = r / total - shares[0], g / total - shares[1], b / total - shares[2]
                value = np.sqrt(dr * dr + dg * dg + db * db)
            else:
                light = np.float32(wr) * r + np.float32(wg) * g + np.float32(wb) * b
                value = light / divisor(r, g, b, line[x, 3])
            part = min(one, max(zero, (value - begin) / span))
            share = smooth(part)
            if falls:
                share = one - share
            for c in range(4):
                line[x, c] *= share
