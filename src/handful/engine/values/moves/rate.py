"""Rate: from a start, by so much each second."""

from __future__ import annotations

from typing import Any, Generic, Literal

from pydantic import Field

from handful.engine.values.moves.move import D, Move, Plain, Surroundings, V, added, plain


class Rate(Move, Generic[V, D]):
    """From a start, by so much each second."""

    suits = frozenset({"number", "point", "colour"})
    help = "Starts at a value and changes by so much each second."

    moves: Literal["rate"]
    start: V
    per_second: D
    offset: float = Field(0.0, ge=-86400, le=86400, description="Seconds by which it is ahead.")
    since: Literal["shot", "layer"] = Field(
        "shot", description="Whether it starts with the shot, or where its layer begins to show."
    )

    def at(self, around: Surroundings) -> Plain:
        begun = around.moment.first if self.since == "shot" else around.begins
        elapsed = around.moment.seconds_since(begun + around.back) + self.offset
        change: Any = self.per_second
        return added(plain(self.start), change, (elapsed, elapsed, elapsed))
