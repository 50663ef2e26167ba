"""Camera: where one looks from, which way and through what, for all layers that are seen through it."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kinds import Kind, setting

Matrix = NDArray[np.float64]


class Pose(NamedTuple):
    """A camera at a moment: how far right, down and forward of where it began it is, in px, how far it looks to the right
    and up and is rolled clockwise, in degrees, and how far off a thing is seen as large as it is, in px."""

    x: float
    y: float
    z: float
    pan: float
    tilt: float
    roll: float
    lens: float

    def and_more(self, more: Pose) -> Pose:
        """Gone so much farther and turned so much more, through the lens that it has."""
        return Pose(
            self.x + more.x, self.y + more.y, self.z + more.z,
            self.pan + more.pan, self.tilt + more.tilt, self.roll + more.roll, self.lens,
        )  # fmt: skip

    def turning(self) -> Matrix:
        """The matrix `(3, 3)` from ways to the right, down and forward to those that the camera sees so: it turns to the
        right first, then up, then rolls (common practice)."""
        pan, tilt, roll = (math.radians(each) for each in (self.pan, self.tilt, self.roll))
        aside = [[math.cos(pan), 0, -math.sin(pan)], [0, 1, 0], [math.sin(pan), 0, math.cos(pan)]]
        up = [[1, 0, 0], [0, math.cos(tilt), math.sin(tilt)], [0, -math.sin(tilt), math.cos(tilt)]]
        over = [
            [math.cos(roll), math.sin(roll), 0],
            [-math.sin(roll), math.cos(roll), 0],
            [0, 0, 1],
        ]
        turning: Matrix = np.array(over) @ np.array(up) @ np.array(aside)
        return turning


_ANGLES = 36_000
_FAR = 10_000_000


class Camera(Kind):
    """Where one looks from, which way and through what, the same for all layers that name it: keyed by hand, or as a
    solved camera's file says."""

    family = "place"
    says = (
        "Gone {aside} aside and {down} down and {forward} forward, in units of {unit}, looking {pan} to the right and "
        "{tilt} up, rolled {roll}, through a lens of {lens}."
    )

    aside: float = setting(
        0, unit="units", least=-_FAR, most=_FAR, usual=(-2000, 2000), help="How far it has gone to the right."
    )  # fmt: skip
    down: float = setting(
        0, unit="units", least=-_FAR, most=_FAR, usual=(-2000, 2000), help="How far it has gone down."
    )  # fmt: skip
    forward: float = setting(
        0, unit="units", least=-_FAR, most=_FAR, usual=(-5000, 5000), help="How far it has gone forward."
    )  # fmt: skip
    unit: float = setting(
        1, unit="px", least=1e-4, most=100_000, usual=(0.1, 1000),
        help="How many px of the canvas a unit of its way is: a camera solved in metres needs some hundreds.",
    )  # fmt: skip
    pan: float = setting(
        0, unit="°", least=-_ANGLES, most=_ANGLES, usual=(-60, 60), help="How far it looks to the right."
    )  # fmt: skip
    tilt: float = setting(
        0, unit="°", least=-_ANGLES, most=_ANGLES, usual=(-60, 60), help="How far it looks up."
    )  # fmt: skip
    roll: float = setting(
        0, unit="°", least=-_ANGLES, most=_ANGLES, usual=(-45, 45), help="How far it is rolled, clockwise."
    )  # fmt: skip
    lens: float = setting(
        1800, unit="px", least=50, most=50_000, usual=(500, 5000),
        help="How far off a thing is seen as large as it is, its focal length in px of the canvas: less is wider.",
    )  # fmt: skip

    def pose(self) -> Pose:
        """Where it is and how it looks."""
        unit = self.unit
        return Pose(
            self.aside * unit, self.down * unit, self.forward * unit,
            self.pan, self.tilt, self.roll, self.lens,
        )  # fmt: skip
