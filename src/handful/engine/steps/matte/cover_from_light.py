"""Cover from light: what is bright hides what is behind it."""

from __future__ import annotations

from typing import Literal

import numpy as np

from handful.engine.kernels.compiled import compiled
from handful.engine.kinds import At, Changer, Pointwise, register, setting
from handful.engine.picture import LUMINANCE_WEIGHTS, Picture


@register
class CoverFromLight(Pointwise):
    """Makes the cover as high as the light is bright, up to 1; the light stays as it is."""

    family = "matte"
    says = "Cover from the {of}, {gain} up; {keeps} what it has."

    of: Literal["brightest channel", "luminance"] = setting(
        "brightest channel", help="What of the light counts."
    )
    gain: float = setting(
        0, unit="stops", least=-12, most=12, usual=(-4, 6), help="How much the light counts."
    )
    keeps: Literal["replaces", "adds to"] = setting(
        "replaces", help="Whether the cover before it counts as well, by the higher of both."
    )

    def changer(self, at: At) -> Changer:
        gain = np.float32(2.0**self.gain)
        is_brightest, adds = self.of == "brightest channel", self.keeps == "adds to"
        return lambda rows, place: _cover(rows, gain, is_brightest, adds)


@compiled
def _cover(rows: Picture, gain: np.float32, is_brightest: bool, adds: bool) -> None:
    wr, wg, wb = LUMINANCE_WEIGHTS
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            r, g, b = line[x, 0], line[x, 1], line[x, 2]
            light = max(r, max(g, b))
            if not is_brightest:
                light = np.float32(wr) * r + np.float32(wg) * g + np.float32(wb) * b
            cover = min(np.float32(1.0), max(np.float32(0.0), light * gain))
            line[x, 3] = max(cover, line[x, 3]) if adds else cover
