"""Follow: where a named point or a track of the recipe is."""

from __future__ import annotations

from typing import Any, Generic, Literal, Self

from pydantic import Field, model_validator

from handful.engine.values.moves.move import D, Move, Plain, Surroundings, V, added, told


class Follow(Move, Generic[V, D]):
    """Where a named point or a track is, with an offset.

    Smoothed, it is the mean place over all of so many frames before and after, nearer ones counting
    more (by a triangle), so that what shakes is steadied and what moves evenly stays on its way.
    """

    suits = frozenset({"point"})
    help = "Stays with a named point or a track."
    says = "{point}{track}"
    carried = ("offset",)
    mark = "M6 2.6a3.4 3.4 0 100 6.8 3.4 3.4 0 000-6.8"

    moves: Literal["follow"]
    point: str | None = Field(
        None,
        title="Stays with",
        min_length=1,
        max_length=80,
        json_schema_extra=told(names=["points", "tracks"]),
    )
    track: str | None = Field(None, min_length=1, max_length=80)
    offset: D | None = Field(None, title="Offset")
    smoothing: float = Field(
        0.0,
        title="Smoothed over",
        ge=0,
        le=250,
        allow_inf_nan=False,
        description="Frames on each side of now.",
        json_schema_extra=told(unit="frames each way"),
    )

    @model_validator(mode="after")
    def _one_of_both(self) -> Self:
        if (self.point is None) == (self.track is None):
            raise ValueError("name a point or a track to follow, and not both")
        return self

    def at(self, around: Surroundings) -> Plain:
        if self.point is not None:
            place = around.scene.point(self.point, around.now, self.smoothing)
        else:
            assert self.track is not None
            place = around.scene.track(self.track, around.now, self.smoothing)
        offset: Any = self.offset
        return place if offset is None else added(place, offset, (1.0, 1.0))
