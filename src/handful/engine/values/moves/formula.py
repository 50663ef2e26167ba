"""Formula: arithmetic on time, and on the value underneath."""

from __future__ import annotations

import math
from typing import Annotated, Generic, Literal

from pydantic import AfterValidator, Field

from handful.engine.values.arithmetic import MOST_CHARACTERS, read_formula, work_out
from handful.engine.values.moves.move import D, Move, Plain, Surroundings, V, W, value_at

NAMES = frozenset({"t", "f", "fps", "value", "life"})
"""Seconds since the first frame, the frame, frames a second, the value underneath, and how far
along its life the layer is, from 0 to 1."""


def _readable(text: str) -> str:
    read_formula(text, NAMES)
    return text


class Formula(Move, Generic[V, D, W]):
    """A formula in plain mathematical notation. Where it has no number the value underneath holds."""

    suits = frozenset({"number"})
    rests_on = True
    help = "Is worked out by a formula from time and a value."

    moves: Literal["formula"]
    value: W
    formula: Annotated[
        str, AfterValidator(_readable), Field(min_length=1, max_length=MOST_CHARACTERS)
    ]

    def at(self, around: Surroundings) -> Plain:
        underneath = float(value_at(self.value, around))
        moment = around.moment
        values = {
            "t": moment.seconds,
            "f": float(moment.frame),
            "fps": float(moment.rate),
            "value": underneath,
            "life": around.life,
        }
        result = work_out(read_formula(self.formula, NAMES), values)
        return underneath if math.isnan(result) else result
