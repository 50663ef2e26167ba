"""Jitter: a shake added to a value that may itself move."""

from __future__ import annotations

from typing import Any, Generic, Literal

from pydantic import Field

from handful.engine.kernels.chance.hash import key_for, level_at
from handful.engine.values.moves.move import D, Move, Plain, Surroundings, V, W, added, value_at


class Jitter(Move, Generic[V, D, W]):
    """Noise of so many changes a second, each axis by its own amount, added to a value.

    Between two changes it goes smoothly, so that there is nothing in it faster than they are.
    """

    suits = frozenset({"number", "point", "colour"})
    parts = ("still", "change", "under")
    help = "Shakes around a value, so many times a second."

    moves: Literal["jitter"]
    value: W
    amount: D
    per_second: float = Field(gt=0, le=1000, allow_inf_nan=False)
    offset: float = Field(0.0, ge=-86400, le=86400, description="Seconds by which it is ahead.")
    seed: int = Field(0, ge=0, le=2**31 - 1)

    def at(self, around: Surroundings) -> Plain:
        turns = (around.moment.seconds + self.offset) * self.per_second
        shares = tuple(
            level_at(key_for(*around.seeds, "jitter", self.seed, axis), turns) for axis in range(3)
        )
        amount: Any = self.amount
        return added(value_at(self.value, around), amount, shares)
