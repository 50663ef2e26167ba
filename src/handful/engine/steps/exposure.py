"""Exposure: brighter or darker, in stops."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.compiled import compiled
from handful.engine.kinds import At, Changer, Pointwise, register, setting
from handful.engine.picture import Picture


@register
class Exposure(Pointwise):
    """Makes the light brighter or darker, as a camera's stops do; cover stays as it is."""

    family = "colour"
    says = "Brighter by {stops}."

    stops: float = setting(
        1, unit="stops", least=-20, most=20, usual=(-6, 6), help="Each stop doubles the light."
    )

    def changer(self, at: At) -> Changer:
        return brighten(2.0**self.stops)


def brighten(gain: float) -> Changer:
    """What multiplies light, and leaves cover as it is."""
    factor = np.float32(gain)
    return lambda rows, place: _scale(rows, factor)


@compiled
def _scale(rows: Picture, gain: np.float32) -> None:
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            for c in range(3):
                line[x, c] *= gain
