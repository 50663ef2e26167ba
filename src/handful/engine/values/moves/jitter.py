"""Jitter: a shake added to a value that may itself move."""

from __future__ import annotations

from typing import Any, Generic, Literal

from pydantic import Field

from handful.engine.kernels.chance.hash import key_for, level_at
from handful.engine.values.moves.move import (
    D,
    Move,
    Plain,
    Surroundings,
    V,
    W,
    added,
    told,
    value_at,
)


class Jitter(Move, Generic[V, D, W]):
    """Noise of so many changes a second, each axis by its own amount, added to a value.

    Between two changes it goes smoothly, so that there is nothing in it faster than they are.
    """

    suits = frozenset({"number", "point", "colour"})
    parts = ("still", "change", "under")
    help = "Shakes around a value, so many times a second."
    says = "{value} ± {amount}"
    carried = ("value",)
    mark = "M1 6l1.6-3 1.8 6 1.8-7 1.8 7 1.4-5L11 6"

    moves: Literal["jitter"]
    value: W = Field(title="Around")
    amount: D = Field(title="By up to")
    per_second: float = Field(
        title="Changes",
        ge=1e-6,
        le=1000,
        allow_inf_nan=False,
        json_schema_extra=told(unit="times a second", begins=10),
    )
    offset: float = Field(
        0.0,
        title="Is ahead by",
        ge=-86400,
        le=86400,
        description="Seconds by which it is ahead.",
        json_schema_extra=told(unit="seconds"),
    )
    seed: int = Field(0, title="Seed", ge=0, le=2**31 - 1)

    def at(self, around: Surroundings) -> Plain:
        turns = (around.moment.seconds + self.offset) * self.per_second
        shares = tuple(
            level_at(key_for(*around.seeds, "jitter", self.seed, axis), turns) for axis in range(3)
        )
        amount: Any = self.amount
        return added(value_at(self.value, around), amount, shares)
