"""Hold: each moment stays for some frames."""

from __future__ import annotations

import math

from handful.engine.kinds import Timed, register, setting
from handful.engine.picture import ANY_KIND


@register
class Hold(Timed):
    """Shows every so many frames only, and holds each until the next, from the layer's first on."""

    takes = ANY_KIND
    family = "time"
    says = "A new picture each {every}."

    every: float = setting(
        2, unit="frames", least=1, most=1000, usual=(1, 12), help="How long each picture stays."
    )

    def moments(self, frame: float, first: int, last: int) -> tuple[float, ...]:
        return (first + math.floor((frame - first) / self.every + 1e-9) * self.every,)
