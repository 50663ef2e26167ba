"""Light from cover: one colour wherever there is cover."""

from __future__ import annotations

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.compiled import compiled
from handful.engine.kinds import At, Changer, Pointwise, register, setting
from handful.engine.picture import Picture


@register
class LightFromCover(Pointwise):
    """Replaces the light by one colour, as much of it as there is cover; cover stays as it is."""

    family = "matte"
    says = "Light of {colour} at {light}, by cover."

    colour: Colour = setting("#ffffff", help="The colour.")
    light: float = setting(
        0, unit="stops", least=-12, most=12, usual=(-4, 6), help="How bright it is."
    )

    def changer(self, at: At) -> Changer:
        light = np.array(self.colour, np.float32) * np.float32(2.0**self.light)
        return lambda rows, place: _fill(rows, light)


@compiled
def _fill(rows: Picture, light: np.ndarray) -> None:
    for y in range(rows.shape[0]):
        line = rows[y]
        for x in range(line.shape[0]):
            for c in range(3):
                line[x, c] = light[c] * line[x, 3]
