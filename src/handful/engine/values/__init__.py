"""Time, and how a value moves in it."""

from handful.engine.values.easing import Ease, cubic_bezier, eased
from handful.engine.values.life import Life
from handful.engine.values.moment import Moment, exact_rate
from handful.engine.values.moves import (
    MOVES,
    Follow,
    FormulaText,
    Like,
    Move,
    Reference,
    Surroundings,
    value_at,
)
from handful.engine.values.point import Point
from handful.engine.values.track import Mark, Track

__all__ = [
    "MOVES",
    "Ease",
    "Follow",
    "FormulaText",
    "Life",
    "Like",
    "Mark",
    "Moment",
    "Move",
    "Point",
    "Reference",
    "Surroundings",
    "Track",
    "cubic_bezier",
    "eased",
    "exact_rate",
    "value_at",
]
