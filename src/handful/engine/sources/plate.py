"""Plate: the shot's plate as a layer, so that steps and other layers can work with it."""

from __future__ import annotations

from handful.engine.kernels.pixels.resample import Edge
from handful.engine.kinds import Planned, Planning, Source, register, setting


@register
class Plate(Source):
    """The plate behind the shot, as linear light with full cover; nothing where there is none.

    What is made of it is delivered with the element: a ball of glass holds what is behind it.
    """

    family = "layers"
    fills = True
    says = "The plate of the shot, {ahead} ahead; its edge is {edge}."

    ahead: float = setting(
        0,
        unit="frames",
        least=-100_000,
        most=100_000,
        usual=(-50, 50),
        help="How far ahead in time it is; before the plate begins its first frame stays.",
    )
    edge: Edge = setting("mirror", help="What there is beyond its edges.")

    def planned(self, ask: Planning) -> Planned:
        return ask.plate(self.ahead, self.edge)
