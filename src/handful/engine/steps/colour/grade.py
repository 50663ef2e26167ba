"""Grade: slope, offset, power and saturation, as a colour decision list states them."""

from __future__ import annotations

from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.pixels.matrix import mix_channels
from handful.engine.kernels.pixels.tables import table_of, through
from handful.engine.kinds import At, Changer, Pointwise, register, setting
from handful.engine.picture import Picture
from handful.engine.steps.colour.hue import hue_matrix


def _slope(channel: str) -> Any:
    return setting(1, least=0, most=100, usual=(0, 4), help=f"What {channel} is multiplied by.")


def _offset(channel: str) -> Any:
    return setting(0, least=-10, most=10, usual=(-0.5, 0.5), help=f"What is added to {channel}.")


def _power(channel: str) -> Any:
    says = f"The power that {channel} is raised to."
    return setting(1, least=0.05, most=20, usual=(0.3, 3), help=says)


@register
class Grade(Pointwise):
    """Slope, offset and power for each channel, then saturation.

    American Society of Cinematographers, Color Decision List 1.2: (in x slope + offset) ^ power,
    then a saturation around BT.709 luminance. Light is held at nothing below, and not held above.
    """

    family = "colour"
    example = {"power_red": 1.3, "slope_blue": 1.4}
    says = (
        "Slope {slope_red}, {slope_green}, {slope_blue}; offset {offset_red}, {offset_green}, "
        "{offset_blue}; power {power_red}, {power_green}, {power_blue}; saturation {saturation}."
    )

    slope_red: float = _slope("red")
    slope_green: float = _slope("green")
    slope_blue: float = _slope("blue")
    offset_red: float = _offset("red")
    offset_green: float = _offset("green")
    offset_blue: float = _offset("blue")
    power_red: float = _power("red")
    power_green: float = _power("green")
    power_blue: float = _power("blue")
    saturation: float = setting(1, least=0, most=10, usual=(0, 3), help="0 is grey, 1 as it is.")

    def changer(self, at: At) -> Changer:
        ways = (
            (self.slope_red, self.offset_red, self.power_red),
            (self.slope_green, self.offset_green, self.power_green),
            (self.slope_blue, self.offset_blue, self.power_blue),
        )
        tables = np.stack([table_of(partial(_graded, way=way)) for way in ways])
        matrix = hue_matrix(0, self.saturation).astype(np.float32)

        def change(rows: Picture, place: object) -> None:
            through(rows, tables)
            if self.saturation != 1:
                mix_channels(rows, matrix)

        return change


def _graded(light: NDArray[np.float64], way: tuple[float, float, float]) -> NDArray[np.float64]:
    slope, offset, power = way
    graded: NDArray[np.float64] = np.maximum(light * slope + offset, 0) ** power
    return graded
