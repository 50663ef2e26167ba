"""Reverse: the layer backwards."""

from __future__ import annotations

from handful.engine.kinds import Timed, register


@register
class Reverse(Timed):
    """Runs the layer from its last frame to its first."""

    family = "time"
    says = "Runs backwards."

    def moments(self, frame: float, first: int, last: int) -> tuple[float, ...]:
        return (first + last - frame,)
