"""What all ways of moving share."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar, NamedTuple, TypeVar

from pydantic import BaseModel, ConfigDict

from handful.engine.colour.transfer import Colour, colour_from_hex, is_hex
from handful.engine.values.moment import Moment
from handful.engine.values.point import Point

V = TypeVar("V")
"""What a still value is written as, within its range."""

D = TypeVar("D")
"""What a change of it is written as."""

W = TypeVar("W")
"""The value underneath, which may itself move."""

Plain = Any
"""A number, a `Point` or a `Colour`."""


class Surroundings(NamedTuple):
    """What a moving value may look at.

    When it is, where the named points are, how far along its life the layer is, and what keeps
    the random numbers of this value apart from those of every other.
    """

    moment: Moment
    points: Mapping[str, Point]
    life: float = 1.0
    seeds: tuple[object, ...] = ()


class Move(BaseModel):
    """The base of all ways of moving."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    suits: ClassVar[frozenset[str]]
    """Setting types that may move this way."""
    rests_on: ClassVar[bool] = False
    """Whether it adds to a value underneath."""
    help: ClassVar[str]

    def at(self, around: Surroundings) -> Plain:
        """The plain value at a moment."""
        raise NotImplementedError


def value_at(written: Any, around: Surroundings) -> Plain:
    """The plain value of what a recipe says, still or moving."""
    return written.at(around) if isinstance(written, Move) else plain(written)


def plain(written: Any) -> Plain:
    """A pair as a `Point`, a hex colour as a `Colour` in linear light, anything else as it is."""
    if isinstance(written, tuple) and not isinstance(written, (Point, Colour)):
        return Point(*written)
    return colour_from_hex(written) if is_hex(written) else written


def between(first: Plain, second: Plain, part: float) -> Plain:
    """`first` at part 0, `second` at 1, and on in a straight line beyond; colours in linear light."""
    if isinstance(first, tuple):
        mixed = [a + (b - a) * part for a, b in zip(first, second, strict=True)]
        return type(first)(*mixed)
    return first + (second - first) * part


def added(value: Plain, amount: Any, share: tuple[float, ...]) -> Plain:
    """A value plus an amount, times a share for each of its axes."""
    if isinstance(value, tuple):
        return Point(*(v + a * s for v, a, s in zip(value, amount, share, strict=False)))
    return value + amount * share[0]
