"""Copy: another layer's picture again, linked to it, with a few things of its own."""

from __future__ import annotations

from typing import Any

from handful.engine.kinds import (
    Again,
    LayerId,
    Others,
    OwnSettings,
    Planned,
    Planning,
    Source,
    register,
    setting,
)
from handful.engine.picture import ANY_KIND, PictureKind


@register
class Copy(Source):
    """Another layer again, steps and limits included; what changes there changes here.

    It has its own seed and moment, so that it does not repeat its twin, and settings of the other
    layer's source may be its own. The places that it follows stay those of now, and so does its
    life: only what moves by itself is at another moment.
    """

    family = "layers"
    says = "The layer {of} again, with seed {seed} and {ahead} ahead. {own}"

    of: LayerId = setting("", takes=ANY_KIND, help="Which layer.")
    seed: int = setting(
        1,
        least=0,
        most=2**31 - 1,
        usual=(0, 99),
        help="Another seed is another shape; 0 is a twin.",
    )
    ahead: float = setting(
        0,
        unit="frames",
        least=-100_000,
        most=100_000,
        usual=(-50, 50),
        help="How far ahead in time it is, of the other layer.",
    )
    own: OwnSettings = setting({}, help="Settings of the other layer's source that differ here.")

    @classmethod
    def makes(cls, written: Any, others: Others) -> PictureKind:
        return others.of(written.of, written.own)

    def planned(self, ask: Planning) -> Planned:
        return ask.other(self.of, Again(self.ahead, self.seed, own=dict(self.own)))
