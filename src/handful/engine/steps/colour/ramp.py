"""Ramp: colours by brightness."""

from __future__ import annotations

from functools import partial

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.pixels.tables import divisor, looked_up, table_of, there
from handful.engine.kinds import At, Changer, Piece, Pointwise, register, setting
from handful.engine.picture import LUMINANCE_WEIGHTS, Picture


class RampStop(Piece):
    """A colour at a brightness."""

    pictured = "ramp"

    says = "{colour} at {level}, {light} brighter"

    level: float = setting(
        50, unit="%", least=0, most=10_000, usual=(0, 200), help="Luminance at which it is."
    )
    colour: Colour = setting("#ffffff", help="The colour there.")
    light: float = setting(
        0, unit="stops", least=-12, most=12, usual=(-4, 6), help="How much brighter it is."
    )


@register
class Ramp(Pointwise):
    """Gives every brightness a colour, from dark to bright, mixed in linear light between.

    Above its last stop, and above white, light goes on in that stop's colour, in proportion, and
    is not cut off.
    """

    family = "colour"
    says = "Colours by brightness: {stops}; shows by {amount}."

    stops: tuple[RampStop, ...] = setting(
        [
            {"level": 0, "colour": "#000000"},
            {"level": 12, "colour": "#7a1200"},
            {"level": 40, "colour": "#ff5a00", "light": 0.5},
            {"level": 75, "colour": "#ffc24a", "light": 1},
            {"level": 100, "colour": "#fff6d8", "light": 1.5},
        ],
        least=1,
        most=24,
        help="The stops, in any order.",
    )
    amount: float = setting(100, unit="%", least=0, most=100, help="How much of it shows.")

    def changer(self, at: At) -> Changer:
        stops = sorted(self.stops, key=lambda stop: stop.level)
        levels = np.array([stop.level / 100 for stop in stops])
        colours = np.array([np.array(stop.colour) * 2.0**stop.light for stop in stops])
        return recoloured(levels, colours, self.amount / 100)


def recoloured(levels: NDArray[np.float64], colours: NDArray[np.float64], amount: float) -> Changer:
    """What gives each luminance the colour between the nearest of rising `levels`.

    `colours` is `(N, 3)` in linear light; `amount`, from 0 to 1, is how much of it shows.
    """
    tables = np.stack(
        [table_of(partial(_ramp, levels=levels, values=colours[:, c])) for c in range(3)]
    )
    share = np.float32(amount)
    return lambda rows, place: _recolour(rows, tables, share)


def _ramp(
    light: NDArray[np.float64], levels: NDArray[np.float64], values: NDArray[np.float64]
) -> NDArray[np.float64]:
    last = max(float(levels[-1]), 1.0)
    ramp: NDArray[np.float64] = np.interp(light, levels, values) * np.maximum(1, light / last)
    return ramp


@compiled
def _recolour(rows: Picture, tables: NDArray[np.float32], amount: np.float32) -> None:
    red, green, blue = tables[0], tables[1], tables[2]
    wr, wg, wb = LUMINANCE_WEIGHTS
    weight_r, weight_g, weight_b = np.float32(wr), np.float32(wg), np.float32(wb)
    kept = np.float32(1.0) - amount
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            r, g, b, cover = line[x, 0], line[x, 1], line[x, 2], line[x, 3]
            by = divisor(r, g, b, cover)
            less = max(np.float32(0.0), by - there(r, g, b, cover))
            share = np.float32(1.0) / by
            light = (weight_r * r + weight_g * g + weight_b * b) * share
            line[x, 0] = kept * r + amount * (by * looked_up(red, light) - less * red[0])
            line[x, 1] = kept * g + amount * (by * looked_up(green, light) - less * green[0])
            line[x, 2] = kept * b + amount * (by * looked_up(blue, light) - less * blue[0])
