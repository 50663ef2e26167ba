"""Time, and how a value moves in it."""

from handful.engine.values.moment import Moment, exact_rate
from handful.engine.values.moves import MOVES, Follow, Rate, Surroundings, value_at
from handful.engine.values.point import Point

__all__ = ["MOVES", "Follow", "Moment", "Point", "Rate", "Surroundings", "exact_rate", "value_at"]
