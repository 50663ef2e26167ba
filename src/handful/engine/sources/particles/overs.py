"""What things are over their lives: curves drawn by hand, and a ramp of colours."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour
from handful.engine.kernels.pixels.monotone import curve_through
from handful.engine.kinds import Kind, Piece, setting
from handful.engine.sources.particles.births import Numbers


class OverLife(Piece):
    """How much there is of something at a part of a life."""

    pictured = "curve"

    says = "{share} at {part}"

    part: float = setting(50, unit="%", least=0, most=100, help="The part of its life.")
    share: float = setting(
        100, unit="%", least=0, most=1000, usual=(0, 200), help="How much of it there is then."
    )


class Hue(Piece):
    """A colour at a part of a ramp."""

    pictured = "ramp"

    says = "{colour} at {part}, {light} brighter"

    part: float = setting(50, unit="%", least=0, most=100, help="Where on the ramp it is.")
    colour: Colour = setting("#ffffff", help="The colour there.")
    light: float = setting(
        0, unit="stops", least=-12, most=12, usual=(-4, 4), help="How much brighter it is."
    )


_EVEN = [{"part": 0, "share": 100}, {"part": 100, "share": 100}]


class Overs(Kind):
    """The settings of what they are over their lives."""

    size_over: tuple[OverLife, ...] = setting(
        _EVEN, look=True, least=1, most=16, help="How wide each is over its life, of what it would be."
    )  # fmt: skip
    light_over: tuple[OverLife, ...] = setting(
        _EVEN, look=True, least=1, most=16, help="How much of each shows over its life, of what would."
    )  # fmt: skip
    hues: tuple[Hue, ...] = setting(
        [
            {"part": 0, "colour": "#fff3d8"},
            {"part": 35, "colour": "#ffb43c"},
            {"part": 100, "colour": "#8a1600"},
        ],
        look=True,
        least=1,
        most=24,
        help="The ramp of colours, if they are of one.",
    )
    hued_by: Literal["age", "speed", "chance"] = setting(
        "age", look=True, help="What says where on that ramp each is."
    )
    full_speed: float = setting(
        800, unit="px/s", look=True, least=1, most=50_000, usual=(50, 3000), help="How fast things are at its end, if speed says."
    )  # fmt: skip

    def hued(self, places: Numbers) -> NDArray[np.float32]:
        """The colours `(N, 3)` at places of the ramp, mixed in light; of two stops at one place the last counts."""
        stops = {
            hue.part / 100: np.array(hue.colour, np.float64) * 2.0**hue.light for hue in self.hues
        }
        at = np.array(sorted(stops))
        colours = np.array([stops[place] for place in at])
        return np.stack(
            [np.interp(places, at, colours[:, channel]) for channel in range(3)], axis=1
        ).astype(np.float32)


def over_life(points: Sequence[OverLife], part: Numbers) -> Numbers | float:
    """A curve through points in any order, at parts of lives, never below nothing; even before and after it."""
    shares = [(point.part / 100, point.share / 100) for point in points]
    if len({share for _, share in shares}) == 1:
        return shares[0][1]
    ends = min(at for at, _ in shares), max(at for at, _ in shares)
    return np.maximum(curve_through(shares, np.clip(part, *ends)), 0)
