"""A track: where something was seen, frame by frame."""

from __future__ import annotations

from bisect import bisect_right
from functools import cached_property
from typing import Annotated, NamedTuple, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from handful.engine.values.point import Point

MOST_MARKS = 100_000

_Number = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
_Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]


class Mark(NamedTuple):
    """A sighting: the frame, the place in px, and how sure it is, from 0 to 1."""

    frame: _Number
    x: _Number
    y: _Number
    confidence: _Share = 1.0


class Track(BaseModel):
    """Sightings in order of their frames. Those less sure than `trust` are taken as gaps.

    Between sightings, and over gaps, the track goes along the cubic curve of Catmull and Rom
    ("A class of local interpolating splines", 1974) with slopes by the unequal distances in time;
    before the first and after the last it stays.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: str = Field(min_length=1, max_length=80)
    marks: list[Mark] = Field(min_length=1, max_length=MOST_MARKS)
    trust: float = Field(0.5, ge=0, le=1, description="Least confidence that counts.")

    @model_validator(mode="after")
    def _usable(self) -> Self:
        for before, mark in zip(self.marks, self.marks[1:], strict=False):
            if mark.frame == before.frame:
                raise ValueError(f"frame {mark.frame:g} has two marks")
            if mark.frame < before.frame:
                raise ValueError(f"the mark at frame {mark.frame:g} comes after {before.frame:g}")
        if not self._sure:
            raise ValueError(f"no mark is as sure as {self.trust:g}")
        return self

    @cached_property
    def _sure(self) -> list[Mark]:
        return [mark for mark in self.marks if mark.confidence >= self.trust]

    def at(self, frame: float) -> Point:
        """Where it is at a frame, which may be fractional."""
        sure = self._sure
        after = bisect_right(sure, frame, key=lambda mark: mark.frame)
        if after in (0, len(sure)):
            held = sure[0] if after == 0 else sure[-1]
            return Point(held.x, held.y)
        first, second = sure[after - 1], sure[after]
        span = second.frame - first.frame
        part = (frame - first.frame) / span
        before, beyond = sure[max(0, after - 2)], sure[min(len(sure) - 1, after + 1)]
        x, y = (
            _curve(
                first[axis],
                second[axis],
                span * _slope(before, first, second, axis),
                span * _slope(first, second, beyond, axis),
                part,
            )
            for axis in (1, 2)
        )
        return Point(x, y)


def _slope(before: Mark, mark: Mark, after: Mark, axis: int) -> float:
    """The slope at a mark: of the parabola through it and its neighbours; of the line at an end."""
    if before is mark:
        return (after[axis] - mark[axis]) / (after.frame - mark.frame)
    if after is mark:
        return (mark[axis] - before[axis]) / (mark.frame - before.frame)
    back, forth = mark.frame - before.frame, after.frame - mark.frame
    down, up = (mark[axis] - before[axis]) / back, (after[axis] - mark[axis]) / forth
    return (forth * down + back * up) / (back + forth)


def _curve(start: float, end: float, leaving: float, arriving: float, t: float) -> float:
    """Hermite's cubic from `start` to `end` with slopes in units of the whole way."""
    return (
        (2 * t**3 - 3 * t**2 + 1) * start
        + (t**3 - 2 * t**2 + t) * leaving
        + (3 * t**2 - 2 * t**3) * end
        + (t**3 - t**2) * arriving
    )
