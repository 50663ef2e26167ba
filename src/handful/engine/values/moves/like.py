"""Like: as another setting of the recipe."""

from __future__ import annotations

from typing import Any, Generic, Literal

from pydantic import Field

from handful.engine.values.moves.move import (
    D,
    Move,
    Plain,
    Reference,
    S,
    Surroundings,
    V,
    axes,
    rejoined,
)


class Like(Move, Generic[V, D, S]):
    """As another setting of the same sort, scaled and offset."""

    suits = frozenset({"number", "point", "colour"})
    parts = ("still", "change", "share")
    of_layers = True
    help = "Is as another setting, scaled and offset."
    says = "as {setting}"
    carried = ("offset",)
    mark = "M1.5 4.5h9M1.5 7.5h9"

    moves: Literal["like"]
    setting: Reference = Field(title="As")
    scale: S | None = Field(
        None, title="Times", description="What it is multiplied by, for all axes or for each."
    )
    offset: D | None = Field(None, title="Plus")

    def at(self, around: Surroundings) -> Plain:
        other = around.scene.setting(self.setting, around.moment.frame, around.back)
        numbers = axes(other)
        scales = _for_each(self.scale, 1.0, len(numbers))
        offsets = _for_each(self.offset, 0.0, len(numbers))
        return rejoined(
            other, [n * s + o for n, s, o in zip(numbers, scales, offsets, strict=True)]
        )


def _for_each(written: Any, absent: float, count: int) -> tuple[float, ...]:
    if isinstance(written, tuple):
        return written
    return ((absent if written is None else written),) * count
