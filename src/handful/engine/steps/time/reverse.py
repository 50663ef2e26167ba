"""Reverse: the layer backwards."""

from __future__ import annotations

from handful.engine.kinds import Timed, register
from handful.engine.picture import ANY_KIND


@register
class Reverse(Timed):
    """Runs the layer from its last frame to its first."""

    takes = ANY_KIND
    family = "time"
    says = "Runs backwards."

    def moments(self, frame: float, first: int, last: int) -> tuple[float, ...]:
        return (first + last - frame,)
