"""Group: the layers within it, mixed into one picture."""

from __future__ import annotations

from handful.engine.kinds import Planned, Planning, Source, register


@register
class Group(Source):
    """The layers that belong to it, mixed into one picture, to be changed and mixed as one."""

    family = "layers"
    says = "Mixes the layers that belong to it."

    def planned(self, ask: Planning) -> Planned:
        return ask.members()
