"""Group: the layers within it, mixed into one picture."""

from __future__ import annotations

from typing import Any

from handful.engine.kinds import Others, Planned, Planning, Source, register
from handful.engine.picture import PictureKind


@register
class Group(Source):
    """The layers that belong to it, mixed into one picture, to be changed and mixed as one."""

    family = "layers"
    says = "Mixes the layers that belong to it."

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        return others.members()

    def planned(self, ask: Planning) -> Planned:
        return ask.members()
