"""Rate: from a start, by so much each second."""

from __future__ import annotations

from typing import Any, Generic, Literal

from pydantic import Field

from handful.engine.values.moves.move import D, Move, Plain, Surroundings, V, added, plain, told


class Rate(Move, Generic[V, D]):
    """From a start, by so much each second."""

    suits = frozenset({"number", "point", "colour"})
    help = "Starts at a value and changes by so much each second."

    says = "{per_second}"
    carried = ("start",)
    dragged = "per_second"
    mark = "M2.5 9.5l6.5-7M4.5 2.3H9v4.5"

    moves: Literal["rate"]
    start: V = Field(title="Starts at")
    per_second: D = Field(title="Changes by", json_schema_extra=told(unit="/s"))
    offset: float = Field(
        0.0,
        title="Is ahead by",
        ge=-86400,
        le=86400,
        description="Seconds by which it is ahead.",
        json_schema_extra=told(unit="seconds"),
    )
    since: Literal["shot", "layer"] = Field(
        "shot",
        title="Starts with",
        description="Whether it starts with the shot, or where its layer begins to show.",
        json_schema_extra=told(words={"shot": "the shot", "layer": "its layer"}),
    )

    def at(self, around: Surroundings) -> Plain:
        begun = around.moment.first if self.since == "shot" else around.begins
        elapsed = around.moment.seconds_since(begun + around.back) + self.offset
        change: Any = self.per_second
        return added(plain(self.start), change, (elapsed, elapsed, elapsed))
