"""How a value moves: one file for each way, named by the word written at `moves` in a recipe.

A value in a recipe is either plain, and then still, or an object with `moves`: for a number
`{"moves": "rate", "start": 0, "per_second": 1.2}`. A new way of moving is a new class in `MOVES`;
documents, schema, catalogue and the rest take it from there.
"""

from __future__ import annotations

from handful.engine.values.moves.follow import Follow
from handful.engine.values.moves.formula import Formula, FormulaText
from handful.engine.values.moves.jitter import Jitter
from handful.engine.values.moves.keys import Keys
from handful.engine.values.moves.lifelong import Lifelong
from handful.engine.values.moves.like import Like
from handful.engine.values.moves.move import (
    Move,
    Reference,
    Scene,
    Slot,
    Surroundings,
    between,
    value_at,
)
from handful.engine.values.moves.pulse import Pulse
from handful.engine.values.moves.rate import Rate

MOVES: dict[str, type[Move]] = {
    "keys": Keys,
    "rate": Rate,
    "jitter": Jitter,
    "pulse": Pulse,
    "formula": Formula,
    "follow": Follow,
    "life": Lifelong,
    "like": Like,
}

__all__ = [
    "MOVES",
    "Follow",
    "Formula",
    "FormulaText",
    "Jitter",
    "Keys",
    "Lifelong",
    "Like",
    "Move",
    "Pulse",
    "Rate",
    "Reference",
    "Scene",
    "Slot",
    "Surroundings",
    "between",
    "value_at",
]
