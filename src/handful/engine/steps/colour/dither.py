"""Dither: noise that keeps faint light from showing steps in files of few bits."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.chance.noise import hashed
from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.pixels.tables import Numbers, Table, looked_up, table_of
from handful.engine.kinds import At, Changer, Pointwise, register, setting
from handful.engine.picture import Picture


@register
class Dither(Pointwise):
    """Adds noise of about one level of an sRGB file, so that rounding to it shows no steps.

    Lipshitz, Wannamaker and Vanderkooy, "Quantization and dither: a theoretical survey", Journal
    of the Audio Engineering Society 40(5), 1992: noise of triangular distribution, two levels
    wide, makes the error's mean and variance the same at every level. It belongs at the very end.
    """

    family = "colour"
    says = "Noise of one level of {bits} bits."

    bits: int = setting(8, least=4, most=16, help="Bits of the file for each channel.")

    def changer(self, at: At) -> Changer:
        key = at.key("dither")
        level = np.float32(1 / (2**self.bits - 1))
        return lambda rows, place: _dither(
            rows, place.left, place.top, level, _WIDTHS, key.first, key.second
        )


def _width(light: Numbers) -> Numbers:
    """How much light one whole sRGB signal is at a light: the slope's inverse."""
    above = 2.4 / 1.055 * np.maximum(light, 0.0031308) ** (1 - 1 / 2.4)
    return np.where(light <= 0.0031308, 1 / 12.92, above)


_WIDTHS = table_of(_width)


@compiled
def _dither(
    rows: Picture, left: int, top: int, level: np.float32, widths: Table, k0: int, k1: int
) -> None:
    unit = np.float32(1.0 / 65536.0)
    zero = np.float32(0.0)
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            a, b = hashed(left + x, top + y, 0, k0, k1)
            c, _ = hashed(left + x, top + y, 1, k0, k1)
            for n in range(3):
                word = a if n == 0 else b if n == 1 else c
                light = line[x, n]
                if light <= zero or light >= np.float32(1.0):
                    continue
                noise = np.float32(word & np.uint32(65535)) - np.float32(word >> np.uint32(16))
                line[x, n] = max(zero, light + noise * unit * level * looked_up(widths, light))
