"""Vignette: darker towards the edges."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.pixels.tables import Table
from handful.engine.kinds import At, Changer, Pointwise, register, setting
from handful.engine.picture import Picture
from handful.engine.values import Point


@register
class Vignette(Pointwise):
    """Makes the light darker away from a point, along a soft round edge; cover stays as it is."""

    family = "colour"
    says = "Darker by {amount} beyond {radius} of {centre}, soft over {softness}."

    amount: float = setting(
        1.5, unit="stops", least=-10, most=20, usual=(0, 6), help="How much darker it becomes."
    )
    radius: float = setting(
        800,
        unit="px",
        drawn="radius",
        about="centre",
        least=0,
        most=20_000,
        usual=(0, 3000),
        help="Where half of that is reached.",
    )
    softness: float = setting(
        900, unit="px", least=1, most=20_000, usual=(1, 3000), help="Width of the soft edge."
    )
    centre: Point = setting([960, 540], unit="px", help="What stays as bright as it is.")

    def changer(self, at: At) -> Changer:
        x, y, radius, soft = (
            part * at.scale for part in (*self.centre, self.radius, self.softness)
        )
        table = np.exp2(-self.amount * smooth(np.linspace(0, 1, 1025, dtype=np.float32)))
        return lambda rows, place: _darken(
            rows, place.left - x, place.top - y, radius - soft / 2, soft, table
        )


@compiled
def _darken(rows: Picture, left: float, top: float, low: float, soft: float, table: Table) -> None:
    last = table.shape[0] - 1
    scale = np.float32(last / soft)
    begin = np.float32(low)
    for y in range(rows.shape[0]):
        line = rows[y]
        down = np.float32(y + top + 0.5)
        for x in range(line.shape[0]):
            across = np.float32(x + left + 0.5)
            away = np.sqrt(across * across + down * down)
            place = min(np.float32(last), max(np.float32(0.0), (away - begin) * scale))
            index = min(last - 1, int(place))
            by = table[index] + (table[index + 1] - table[index]) * (place - np.float32(index))
            line[x, 0] *= by
            line[x, 1] *= by
            line[x, 2] *= by
