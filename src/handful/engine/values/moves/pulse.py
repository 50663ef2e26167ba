"""Pulse: a shape that repeats, added to a value that may itself move."""

from __future__ import annotations

import math
from typing import Any, Generic, Literal

from pydantic import Field

from handful.engine.kernels.chance.hash import key_for, uniform
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

Shape = Literal["sine", "triangle", "square", "saw", "random"]


class Pulse(Move, Generic[V, D, W]):
    """A shape from -1 to 1 that repeats, times an amount, added to a value.

    `duty` is the share of a period that a square is up and a triangle rises. `random` takes a new
    level at each period and holds it, for flicker.
    """

    suits = frozenset({"number", "point", "colour"})
    parts = ("still", "change", "under")
    help = "Goes up and down around a value in a shape that repeats."
    says = "{value} ± {amount}"
    carried = ("value",)
    mark = "M1 8h2V4h3v4h2V4h3"

    moves: Literal["pulse"]
    value: W = Field(title="Around")
    amount: D = Field(title="By")
    shape: Shape = Field("sine", title="Shape")
    period: float = Field(
        title="Every",
        ge=0.0001,
        le=86400,
        allow_inf_nan=False,
        description="Seconds.",
        json_schema_extra=told(unit="seconds", begins=1),
    )
    phase: float = Field(
        0.0,
        title="Is ahead by",
        ge=-1000,
        le=1000,
        description="Periods by which it is ahead.",
        json_schema_extra=told(unit="periods"),
    )
    duty: float = Field(
        50,
        title="Up for",
        ge=0.01,
        le=99.99,
        description="In % of a period.",
        json_schema_extra=told(unit="%"),
    )
    seed: int = Field(0, title="Seed", ge=0, le=2**31 - 1)

    def at(self, around: Surroundings) -> Plain:
        turns = around.moment.seconds / self.period + self.phase
        level = self._level(around, turns)
        amount: Any = self.amount
        return added(value_at(self.value, around), amount, (level, level, level))

    def _level(self, around: Surroundings, turns: float) -> float:
        whole = math.floor(turns)
        part = turns - whole
        duty = self.duty / 100
        match self.shape:
            case "sine":
                return math.sin(2 * math.pi * turns)
            case "triangle":
                up = part / duty if part < duty else (1 - part) / (1 - duty)
                return 2 * up - 1
            case "square":
                return 1.0 if part < duty else -1.0
            case "saw":
                return 2 * part - 1
            case "random":
                return 2 * uniform(*key_for(*around.seeds, "pulse", self.seed), whole, 0) - 1
