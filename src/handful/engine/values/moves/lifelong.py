"""Life: from one value to another along the layer's life."""

from __future__ import annotations

from typing import Generic, Literal

from pydantic import Field

from handful.engine.values.moves.move import D, Move, Plain, Surroundings, V, between, plain, told


class Lifelong(Move, Generic[V, D]):
    """One value where the layer's life is at nothing, the other where it is full."""

    suits = frozenset({"number", "point", "colour"})
    of_layers = True
    says = "{start} to {end}"
    carried = ("start", "end")
    mark = "M1 10l3-7 2 3h3l2 4"
    help = "Goes with the layer's life, from one value to another."

    moves: Literal["life"]
    start: V = Field(title="Begins at", json_schema_extra=told(begins="none"))
    end: V = Field(title="At full life")

    def at(self, around: Surroundings) -> Plain:
        return between(plain(self.start), plain(self.end), around.life)
