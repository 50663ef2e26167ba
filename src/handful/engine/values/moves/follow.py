"""Follow: where a named point of the recipe is."""

from __future__ import annotations

from typing import Any, Generic, Literal

from pydantic import Field

from handful.engine.values.moves.move import D, Move, Plain, Surroundings, V, added


class Follow(Move, Generic[V, D]):
    """Where a named point of the recipe is, with an offset."""

    suits = frozenset({"point"})
    help = "Stays with a named point."

    moves: Literal["follow"]
    point: str = Field(min_length=1, max_length=80)
    offset: D | None = None

    def at(self, around: Surroundings) -> Plain:
        place = around.points[self.point]
        offset: Any = self.offset
        return place if offset is None else added(place, offset, (1.0, 1.0))
