"""Invert: dark for bright."""

from __future__ import annotations

from typing import Literal

import numpy as np

from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.pixels.tables import table_of, through
from handful.engine.kinds import At, Changer, Pointwise, register, setting
from handful.engine.picture import Picture


@register
class Invert(Pointwise):
    """Dark for bright, of the light or of the cover. What is above white becomes black."""

    family = "colour"
    says = "Inverts the {what}."

    what: Literal["light", "cover"] = setting("light", help="What is inverted.")

    def changer(self, at: At) -> Changer:
        if self.what == "cover":
            return lambda rows, place: _uncover(rows)
        tables = np.stack([table_of(lambda light: np.maximum(1 - light, 0))] * 3)
        return lambda rows, place: through(rows, tables)


@compiled
def _uncover(rows: Picture) -> None:
    """Cover for none; light stays what it is."""
    for y in range(rows.shape[0]):
        for x in range(rows.shape[1]):
            rows[y, x, 3] = np.float32(1.0) - rows[y, x, 3]
