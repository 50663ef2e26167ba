"""Keys: a value for some frames, and how it goes from one to the next."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator
from typing import Annotated, Any, Generic, Literal, Self

from pydantic import Field, model_validator

from handful.engine.values.easing import Ease, eased
from handful.engine.values.moves.move import (
    D,
    ForSort,
    Move,
    Plain,
    Surroundings,
    V,
    between,
    plain,
    told,
)

Beyond = Literal["hold", "cycle", "mirror", "continue"]
_BEYOND = told(
    words={
        "hold": "holds",
        "cycle": "begins again",
        "mirror": "goes back and forth",
        "continue": "goes straight on",
    }
)
KeyFrame = Annotated[float, Field(ge=-10_000_000, le=10_000_000, allow_inf_nan=False)]
MOST_KEYS = 2000


class Key(ForSort, Generic[V]):
    """A value at a frame, and the easing on the way to the next key."""

    frame: KeyFrame
    value: V
    ease: Ease = "smooth"


class Keys(Move, Generic[V, D]):
    """Goes from key to key. Colours mix in linear light."""

    suits = frozenset({"number", "point", "colour"})
    help = "Goes through values at set frames."
    says = "{keys}"
    carried = ("keys",)
    mark = "M1 9c4 0 5-6 10-6M1 9h.1M11 3h.1"

    moves: Literal["keys"]
    keys: list[Key[V]] = Field(title="Keys", min_length=1, max_length=MOST_KEYS)
    before: Beyond = Field(
        "hold",
        title="Before the first key",
        description="What it does before its first key.",
        json_schema_extra=_BEYOND,
    )
    after: Beyond = Field(
        "hold",
        title="After the last key",
        description="What it does after its last key.",
        json_schema_extra=_BEYOND,
    )

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        for before, key in zip(self.keys, self.keys[1:], strict=False):
            if key.frame == before.frame:
                raise ValueError(f"two keys stand at frame {key.frame:g}")
            if key.frame < before.frame:
                raise ValueError(f"the key at frame {key.frame:g} comes after {before.frame:g}")
        return self

    def stills(self) -> Iterator[tuple[str, Any]]:
        for i, key in enumerate(self.keys):
            yield f"keys[{i}].value", key.value

    def at(self, around: Surroundings) -> Plain:
        frame = around.moment.frame
        first, last = self.keys[0].frame, self.keys[-1].frame
        if frame < first:
            return self._beyond(self.before, frame, first, last)
        if frame > last:
            return self._beyond(self.after, frame, first, last)
        return self._within(frame)

    def _within(self, frame: float) -> Plain:
        index = bisect_right(self.keys, frame, key=lambda key: key.frame) - 1
        key = self.keys[index]
        if index == len(self.keys) - 1:
            return plain(key.value)
        following = self.keys[index + 1]
        part = (frame - key.frame) / (following.frame - key.frame)
        return between(plain(key.value), plain(following.value), eased(key.ease, part))

    def _beyond(self, way: Beyond, frame: float, first: float, last: float) -> Plain:
        edge = first if frame < first else last
        span = last - first
        if way == "hold" or span == 0:
            return self._within(edge)
        if way == "continue":
            return self._straight_on(frame, edge)
        turns, within = divmod(frame - first, span)
        if way == "mirror" and turns % 2:
            return self._within(last - within)
        return self._within(first + within)

    def _straight_on(self, frame: float, edge: float) -> Plain:
        """On along the line through the two keys nearest to the edge."""
        near, far = (self.keys[0], self.keys[1]) if edge == self.keys[0].frame else self.keys[-2:]
        part = (frame - near.frame) / (far.frame - near.frame)
        return between(plain(near.value), plain(far.value), part)
