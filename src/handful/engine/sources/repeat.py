"""Repeat: many linked copies of a layer in one."""

from __future__ import annotations

from typing import Any, Literal

from handful.engine.kinds import (
    Again,
    LayerId,
    Others,
    Piece,
    Planned,
    Planning,
    SettingName,
    Source,
    register,
    setting,
)
from handful.engine.picture import ANY_KIND, PictureKind
from handful.engine.values import FARTHEST, Point


class Spot(Piece):
    """A place for one copy."""

    says = "{at}"

    at: Point = setting([960, 540], unit="px", help="Where this copy is put.")


@register
class Repeat(Source):
    """Linked copies of another layer, each with the next seed and moment.

    With spots there is one copy for each, whose setting `takes` is that spot; without there are
    `count`. A formula of the layer knows the copy as `n`, from 0.
    """

    family = "layers"
    says = (
        "{count} times the layer {of}, each {seed_step} seeds and {ahead_step} on from the one "
        "before, mixed by {blend}. Its {takes} is at {spots}."
    )

    of: LayerId = setting("", takes=ANY_KIND, help="Which layer.")
    count: int = setting(
        3, least=1, most=64, usual=(1, 16), help="How many, where no spots are set."
    )
    seed_step: int = setting(
        1, least=0, most=1000, usual=(0, 10), help="What is added to the seed from copy to copy."
    )
    ahead_step: float = setting(
        0,
        unit="frames",
        least=-10_000,
        most=10_000,
        usual=(-20, 20),
        help="How far ahead in time each copy is, of the one before.",
    )
    blend: Literal["add", "normal", "screen", "lighten"] = setting(
        "add", help="How the copies mix."
    )
    spots: tuple[Spot, ...] = setting(
        [], least=0, most=64, help="One copy for each of these places."
    )
    takes: SettingName = setting(
        "end", help="Which point of the other layer's source is put on the spot."
    )

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        return others.of(written.of)

    def planned(self, ask: Planning) -> Planned:
        return ask.mixed([ask.other(self.of, self._again(i)) for i in self._copies()], self.blend)

    def _copies(self) -> range:
        return range(len(self.spots) or self.count)

    def _again(self, i: int) -> Again:
        if not (self.spots and self.takes):
            return Again(i * self.ahead_step, i * self.seed_step, i)
        # What moves may have gone farther than what is written.
        near = tuple(min(FARTHEST, max(-FARTHEST, part)) for part in self.spots[i].at)
        return Again(i * self.ahead_step, i * self.seed_step, i, {str(self.takes): near})
