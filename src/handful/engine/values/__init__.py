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
    Rate,
    Reference,
    Surroundings,
    between,
    value_at,
)
from handful.engine.values.point import FARTHEST, Point
from handful.engine.values.steadying import steadied
from handful.engine.values.timecode import drops_frames, time_parts, timecode
from handful.engine.values.track import Mark, Track

__all__ = [
    "FARTHEST",
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
    "Rate",
    "Reference",
    "Surroundings",
    "Track",
    "between",
    "cubic_bezier",
    "drops_frames",
    "eased",
    "exact_rate",
    "steadied",
    "time_parts",
    "timecode",
    "value_at",
]
