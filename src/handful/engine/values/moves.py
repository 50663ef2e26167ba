"""How a value moves. Each way is one class, named by the word written at `moves` in a recipe.

A value in a recipe is either plain, and then still, or an object with `moves`: for a number
`{"moves": "rate", "start": 0, "per_second": 1.2}`. A new way of moving is a new class in
`MOVES`; documents, schema, catalogue and interface take it from there.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar, Generic, Literal, NamedTuple, TypeVar

from pydantic import BaseModel, ConfigDict, Field

from handful.engine.values.moment import Moment
from handful.engine.values.point import Point

V = TypeVar("V")
D = TypeVar("D")


class Surroundings(NamedTuple):
    """What a moving value may look at: when it is, and where the named points are."""

    moment: Moment
    points: Mapping[str, Point]


class Move(BaseModel):
    """The base of all ways of moving."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    suits: ClassVar[frozenset[str]]
    """Setting types that may move this way."""
    help: ClassVar[str]

    def at(self, around: Surroundings) -> Any:
        """The plain value at a moment."""
        raise NotImplementedError


class Rate(Move, Generic[V, D]):
    """From a start, by so much each second."""

    suits = frozenset({"number", "point"})
    help = "Starts at a value and changes by so much each second."

    moves: Literal["rate"]
    start: V
    per_second: D
    offset: float = Field(0.0, ge=-86400, le=86400, description="Seconds by which it is ahead.")

    def at(self, around: Surroundings) -> Any:
        elapsed = around.moment.seconds + self.offset
        if isinstance(self.start, tuple) and isinstance(self.per_second, tuple):
            return Point(
                self.start[0] + elapsed * self.per_second[0],
                self.start[1] + elapsed * self.per_second[1],
            )
        return self.start + elapsed * self.per_second  # type: ignore[operator]


class Follow(Move, Generic[V, D]):
    """Where a named point of the recipe is, with an offset."""

    suits = frozenset({"point"})
    help = "Stays with a named point."

    moves: Literal["follow"]
    point: str = Field(min_length=1, max_length=80)
    offset: D | None = None

    def at(self, around: Surroundings) -> Any:
        x, y = around.points[self.point]
        dx, dy = self.offset if isinstance(self.offset, tuple) else (0.0, 0.0)
        return Point(x + dx, y + dy)


MOVES: dict[str, Any] = {"rate": Rate, "follow": Follow}


def value_at(written: Any, around: Surroundings) -> Any:
    """The plain value of what a recipe says, still or moving."""
    if isinstance(written, Move):
        return written.at(around)
    return Point(*written) if isinstance(written, tuple) else written
