"""Levels: what is black, what is white, and how it goes between."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.pixels.tables import table_of, through
from handful.engine.kinds import At, Changer, Pointwise, register, setting


@register
class Levels(Pointwise):
    """Stretches light between a black and a white, along a power."""

    family = "colour"
    example = {"white": 50, "gamma": 1.3}
    says = "From {black} to {white} along {gamma}, to {darkest} to {brightest}."

    black: float = setting(
        0, unit="%", least=0, most=1000, usual=(0, 50), help="Light that becomes the darkest."
    )
    white: float = setting(
        100,
        unit="%",
        least=0.1,
        most=10_000,
        usual=(1, 400),
        help="Light that becomes the brightest.",
    )
    gamma: float = setting(
        1, least=0.05, most=10, usual=(0.3, 3), help="Above 1 the middle becomes brighter."
    )
    darkest: float = setting(
        0, unit="%", least=0, most=1000, usual=(0, 50), help="What black becomes."
    )
    brightest: float = setting(
        100, unit="%", least=0, most=10_000, usual=(1, 400), help="What white becomes."
    )

    def changer(self, at: At) -> Changer:
        low, span = self.black / 100, max(1e-4, (self.white - self.black) / 100)
        darkest, rise = self.darkest / 100, (self.brightest - self.darkest) / 100
        table = table_of(
            lambda light: darkest + rise * np.maximum((light - low) / span, 0) ** (1 / self.gamma)
        )
        tables = np.stack([table] * 3)
        return lambda rows, place: through(rows, tables)
