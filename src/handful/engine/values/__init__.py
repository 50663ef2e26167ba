"""Time, and how a value moves in it."""

from handful.engine.values.easing import Ease, cubic_bezier, eased
from handful.engine.values.life import Life
from handful.engine.values.moment import Moment, exact_rate
from handful.engine.values.moves import MOVES, Follow, Keys, Move, Rate, Surroundings, value_at
from handful.engine.values.point import Point

__all__ = [
    "MOVES",
    "Ease",
    "Follow",
    "Keys",
    "Life",
    "Moment",
    "Move",
    "Point",
    "Rate",
    "Surroundings",
    "cubic_bezier",
    "eased",
    "exact_rate",
    "value_at",
]
