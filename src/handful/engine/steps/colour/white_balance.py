"""White balance: as lit by light of another temperature."""

from __future__ import annotations

import numpy as np

from handful.engine.colour.temperature import LEAST_KELVIN, MOST_KELVIN, balancing
from handful.engine.kernels.pixels.matrix import mix_channels
from handful.engine.kinds import At, Changer, Pointwise, register, setting


@register
class WhiteBalance(Pointwise):
    """Makes the light warmer or cooler: white becomes the light of a temperature."""

    family = "colour"
    example = {"kelvin": 3600}
    says = "White as of {kelvin}."

    kelvin: float = setting(
        6504,
        unit="K",
        least=LEAST_KELVIN,
        most=MOST_KELVIN,
        usual=(2000, 12000),
        help="6504 changes nothing, lamplight is about 2900, a blue sky 10000 and more.",
    )

    def changer(self, at: At) -> Changer:
        matrix = balancing(self.kelvin).astype(np.float32)
        return lambda rows, place: mix_channels(rows, matrix)
