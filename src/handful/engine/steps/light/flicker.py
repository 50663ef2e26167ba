"""Flicker: light that is never steady."""

from __future__ import annotations

import numpy as np

from handful.engine.kernels.chance.hash import level_at
from handful.engine.kernels.pixels.light import brighten
from handful.engine.kinds import At, Changer, Pointwise, register, setting


@register
class Flicker(Pointwise):
    """Makes the light brighter and darker at random, up to so many stops; cover stays as it is."""

    family = "light"
    says = "Flickers by up to {depth}, {ease} from level to level, at {phase}."

    depth: float = setting(
        0.7, unit="stops", least=0, most=10, usual=(0, 3), help="How far it goes up and down."
    )
    phase: float = setting(
        {"moves": "rate", "start": 0, "per_second": 12},
        unit="levels",
        least=-1e7,
        most=1e7,
        usual=(0, 100),
        help="A new level at each whole number: its rate is how many there are a second.",
    )
    ease: float = setting(
        30, unit="%", least=0, most=100, help="How much of the time is spent on the way."
    )

    def changer(self, at: At) -> Changer:
        level = level_at(at.key("flicker"), self.phase, self.ease / 100)
        gain = np.float32(2.0 ** (self.depth * level))
        return lambda rows, place: brighten(rows, gain)
