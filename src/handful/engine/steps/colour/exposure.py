"""Exposure: brighter or darker, in stops."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.pixels.light import brighten
from handful.engine.kinds import At, Changer, Pointwise, register, setting


@register
class Exposure(Pointwise):
    """Makes the light brighter or darker, as a camera's stops do; cover stays as it is."""

    family = "colour"
    says = "Brighter by {stops}."

    stops: float = setting(
        1, unit="stops", least=-20, most=20, usual=(-6, 6), help="Each stop doubles the light."
    )

    def changer(self, at: At) -> Changer:
        gain = np.float32(2.0**self.stops)
        return lambda rows, place: brighten(rows, gain)
