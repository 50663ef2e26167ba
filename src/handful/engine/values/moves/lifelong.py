"""Life: from one value to another along the layer's life."""

from __future__ import annotations

from typing import Generic, Literal

from handful.engine.values.moves.move import D, Move, Plain, Surroundings, V, between, plain


class Lifelong(Move, Generic[V, D]):
    """One value where the layer's life is at nothing, the other where it is full."""

    suits = frozenset({"number", "point", "colour"})
    help = "Goes with the layer's life, from one value to another."

    moves: Literal["life"]
    start: V
    end: V

    def at(self, around: Surroundings) -> Plain:
        return between(plain(self.start), plain(self.end), around.life)
