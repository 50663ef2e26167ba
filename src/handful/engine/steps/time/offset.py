"""Offset: the layer at another moment."""

from __future__ import annotations

from handful.engine.kinds import Timed, register, setting
from handful.engine.picture import ANY_KIND


@register
class Offset(Timed):
    """Shows the layer as it is some frames later, or earlier below nothing."""

    takes = ANY_KIND
    family = "time"
    says = "As it is {frames} later."

    frames: float = setting(
        -5, unit="frames", least=-100_000, most=100_000, usual=(-50, 50), help="Earlier below 0."
    )

    def moments(self, frame: float, first: int, last: int) -> tuple[float, ...]:
        return (frame + self.frames,)
