"""Particles in depth, as a camera sees them that may go among them."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kinds import Kind, setting
from handful.engine.sources.particles.births import Numbers
from handful.engine.values import Point


class Camera(NamedTuple):
    """How far a camera has gone forward, and aside and down, and how far it looks aside and up, in degrees: the settings
    that move it."""

    dolly: float
    track: Point
    aside: float = 0.0
    upwards: float = 0.0


_NEAREST = 0.05
"""What is nearer, of the distance at which a thing is as large as it is, is not seen."""

_FADES = 0.15
"""The part of the whole depth at its end over which what comes into it appears."""


class Seen(NamedTuple):
    """Things as they are seen: between two places `(N, 2)` of the full-size canvas, how many times as
    large as they are `(N,)`, how much fainter, how wide a point of them is, in px, and how far off they are,
    as a part of the whole depth: half way where that is nothing.
    `behind` `(K, N, 2)` is where they were before, from now on back, if that is seen."""

    opens: Numbers
    closes: Numbers
    large: Numbers
    faint: Numbers
    blurred: Numbers
    far: Numbers
    behind: Numbers


class Flying(NamedTuple):
    """Particles at a moment: their numbers `(N,)`, ages in seconds, the parts of their lives, how they
    are seen, how fast they go, in px a second, and the colours that they were born from, if from any."""

    which: NDArray[np.int64]
    age: Numbers
    part: Numbers
    seen: Seen
    fast: Numbers
    dyes: NDArray[np.float32]


class Sight(Kind):
    """The settings of the camera. All are of the look."""

    depth: float = setting(
        0,
        unit="px",
        look=True,
        least=0,
        most=200_000,
        usual=(0, 8000),
        help="How deep the space is that they are spread in; 0 is flat.",
    )
    lens: float = setting(
        1800,
        unit="px",
        look=True,
        least=50,
        most=50_000,
        usual=(500, 5000),
        help="How far off a thing is seen as large as it is: less is wider.",
    )
    dolly: float = setting(
        0,
        unit="px",
        look=True,
        least=-10_000_000,
        most=10_000_000,
        usual=(-5000, 5000),
        help="How far the camera has gone forward; what it has passed comes again from afar.",
    )
    track: Point = setting(
        [0, 0], unit="px", look=True, elsewhere=True, help="How far it has gone aside and down."
    )
    aside: float = setting(
        0, unit="°", look=True, least=-80, most=80, usual=(-30, 30), help="How far the camera looks to the right."
    )  # fmt: skip
    upwards: float = setting(
        0, unit="°", look=True, least=-80, most=80, usual=(-30, 30), help="How far the camera looks up."
    )  # fmt: skip
    haze: float = setting(
        0, unit="%", look=True, least=0, most=100, help="How much fainter the farthest are."
    )
    focus: float = setting(
        1800,
        unit="px",
        look=True,
        least=10,
        most=200_000,
        usual=(100, 8000),
        help="How far off things are sharp.",
    )
    blurs: float = setting(
        0,
        unit="px",
        look=True,
        least=0,
        most=2000,
        usual=(0, 80),
        help="How wide a point far away is out of focus.",
    )

    wraps: bool = setting(
        False,
        look=True,
        help="Whether what flies out of the canvas comes in again at its other side.",
    )

    def wrapped(self, seen: Seen, width: float, height: float, margin: float) -> Seen:
        """The same where what is beyond a canvas and a margin about it has come in again at the other side."""
        if not self.wraps:
            return seen
        span = np.array([width, height]) + 2 * margin
        over = np.floor(((seen.opens + seen.closes) / 2 + margin) / span) * span
        return seen._replace(
            opens=seen.opens - over, closes=seen.closes - over, behind=seen.behind - over
        )

    def seen(
        self,
        share: Numbers,
        opens: Numbers,
        closes: Numbers,
        behind: Numbers,
        cameras: tuple[Camera, Camera],
        middle: tuple[float, float],
    ) -> Seen:
        """Places `(N, 2)` when the shutter opens and closes, and before `(K, N, 2)`, with even shares `(N,)` of
        the depth, as seen about a middle. A thing at a distance z is lens / z times as large (central projection), and a
        point of it |1 - focus / z| times `blurs` wide (thin lens, common practice)."""
        ones = np.ones(len(share))
        if self.depth <= 0:
            return Seen(opens, closes, ones, ones, np.zeros(len(share)), ones / 2, behind)
        gone = 0.5 * (cameras[0].dolly + cameras[1].dolly)
        far = np.mod(share * self.depth - gone, self.depth)
        ends = [
            self._before(places, far + gone - camera.dolly, camera, middle)
            for places, camera in zip((opens, closes), cameras, strict=True)
        ]
        last = cameras[1]
        past = [self._before(places, far + gone - last.dolly, last, middle) for places in behind]
        nearest = _NEAREST * self.lens
        off = (ends[0][:, 2] + ends[1][:, 2]) / 2
        at = np.maximum(off, nearest)
        faint = np.clip((off - nearest) / (2 * nearest), 0, 1)
        faint *= np.clip((1 - far / self.depth) / _FADES, 0, 1)
        faint *= 1 - self.haze / 100 * np.minimum(1, at / self.depth)
        return Seen(
            self._projected(ends[0], middle), self._projected(ends[1], middle), self.lens / at, faint,
            self.blurs * np.abs(1 - self.focus / at), np.clip(off / self.depth, 0, 1),
            np.array([self._projected(each, middle) for each in past]).reshape(behind.shape),
        )  # fmt: skip

    def _before(
        self, places: Numbers, far: Numbers, camera: Camera, middle: tuple[float, float]
    ) -> Numbers:
        """How far aside of a camera, below it and before it things `(N, 3)` are, along the way that it looks."""
        x, y = (places - middle - (camera.track.x, camera.track.y)).T
        pan, tilt = math.radians(camera.aside), math.radians(camera.upwards)
        x, z = math.cos(pan) * x - math.sin(pan) * far, math.sin(pan) * x + math.cos(pan) * far
        y, z = math.cos(tilt) * y + math.sin(tilt) * z, math.cos(tilt) * z - math.sin(tilt) * y
        return np.stack([x, y, z], axis=1)

    def _projected(self, things: Numbers, middle: tuple[float, float]) -> Numbers:
        large = self.lens / np.maximum(things[:, 2], _NEAREST * self.lens)
        return middle + things[:, :2] * large[:, None]
