"""Follow: where a named point or a track of the recipe is."""

from __future__ import annotations

from typing import Any, Generic, Literal, Self

from pydantic import Field, model_validator

from handful.engine.values.moves.move import D, Move, Plain, Surroundings, V, added
from handful.engine.values.point import Point

_TAPS = 4
"""Places taken on each side of now for smoothing, and one now."""


class Follow(Move, Generic[V, D]):
    """Where a named point or a track is, with an offset.

    Smoothed, it is the mean place over so many frames before and after, nearer ones counting more
    (by a triangle), so that what shakes is steadied and what moves evenly stays on its way.
    """

    suits = frozenset({"point"})
    help = "Stays with a named point or a track."

    moves: Literal["follow"]
    point: str | None = Field(None, min_length=1, max_length=80)
    track: str | None = Field(None, min_length=1, max_length=80)
    offset: D | None = None
    smoothing: float = Field(
        0.0, ge=0, le=250, allow_inf_nan=False, description="Frames on each side of now."
    )

    @model_validator(mode="after")
    def _one_of_both(self) -> Self:
        if (self.point is None) == (self.track is None):
            raise ValueError("name a point or a track to follow, and not both")
        return self

    def at(self, around: Surroundings) -> Plain:
        place = self._smoothed(around) if self.smoothing else self._place(around, around.now)
        offset: Any = self.offset
        return place if offset is None else added(place, offset, (1.0, 1.0))

    def _place(self, around: Surroundings, frame: float) -> Point:
        if self.point is not None:
            return around.scene.point(self.point, frame)
        assert self.track is not None
        return around.scene.track(self.track, frame)

    def _smoothed(self, around: Surroundings) -> Point:
        x = y = weights = 0.0
        for tap in range(-_TAPS, _TAPS + 1):
            weight = 1 - abs(tap) / (_TAPS + 1)
            place = self._place(around, around.now + self.smoothing * tap / _TAPS)
            x, y, weights = x + weight * place.x, y + weight * place.y, weights + weight
        return Point(x / weights, y / weights)
