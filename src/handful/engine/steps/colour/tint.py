"""Tint: the picture in two or three colours."""

from __future__ import annotations

import numpy as np

from handful.engine.colour.transfer import Colour
from handful.engine.kinds import At, Changer, Pointwise, register, setting
from handful.engine.steps.colour.ramp import recoloured


@register
class Tint(Pointwise):
    """Turns brightness into two colours, dark and bright, or three with one between."""

    family = "colour"
    says = "Tints from {dark} to {bright}, by way of {middle} if {three}, by {amount}."

    dark: Colour = setting("#000000", help="What black becomes.")
    middle: Colour = setting("#4a7dff", help="What a light of 0.18, middle grey, becomes.")
    bright: Colour = setting("#ffffff", help="What white becomes.")
    three: bool = setting(True, help="Whether the middle colour counts.")
    amount: float = setting(50, unit="%", least=0, most=100, help="How much of it shows.")

    def changer(self, at: At) -> Changer:
        stops = [(0.0, self.dark), (0.18, self.middle), (1.0, self.bright)]
        used = stops if self.three else [stops[0], stops[2]]
        levels = np.array([level for level, _ in used])
        colours = np.array([colour for _, colour in used])
        return recoloured(levels, colours, self.amount / 100)
