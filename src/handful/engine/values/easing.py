"""How a change is spread over its time."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

Handle = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Height = Annotated[float, Field(ge=-10, le=10, allow_inf_nan=False)]
Curve = tuple[Handle, Height, Handle, Height]
"""x1, y1, x2, y2 of a cubic Bezier from 0, 0 to 1, 1."""

Ease = Literal["hold", "linear", "smooth"] | Curve

_SMOOTH = (0.42, 0.0, 0.58, 1.0)
"""What CSS calls ease-in-out."""


def eased(ease: Ease, part: float) -> float:
    """How far a change has come after a part, from 0 to 1, of its time."""
    match ease:
        case "hold":
            return 0.0 if part < 1 else 1.0
        case "linear":
            return part
        case "smooth":
            return cubic_bezier(*_SMOOTH, part)
    return cubic_bezier(*ease, part)


def cubic_bezier(x1: float, y1: float, x2: float, y2: float, part: float) -> float:
    """The height of a Bezier curve where its way across is `part`.

    W3C, CSS Easing Functions Level 1, 2.2: the curve runs from 0, 0 to 1, 1, and `x1` and `x2`
    lie within 0 and 1, so that there is exactly one height for each way across. It is found by
    halving, to the precision of a double.
    """
    if part <= 0:
        return 0.0
    if part >= 1:
        return 1.0
    low, high = 0.0, 1.0
    for _ in range(60):
        middle = (low + high) / 2
        if _along(x1, x2, middle) < part:
            low = middle
        else:
            high = middle
    return _along(y1, y2, (low + high) / 2)


def _along(first: float, second: float, t: float) -> float:
    back = 1 - t
    return 3 * back * back * t * first + 3 * back * t * t * second + t * t * t
