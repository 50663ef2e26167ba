"""Particles in depth, as a camera sees them that may go among them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kinds import Kind, setting
from handful.engine.named import Camera, Pose
from handful.engine.sources.particles.births import Numbers
from handful.engine.values import Point

SEEN_FROM = ("dolly", "track", "aside", "upwards", "lens", "camera")
"""The settings that say where the camera is and how it looks."""

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
    are seen, how fast they go, in px a second, the colours that they were born from, if from any, and for how many seconds
    they have moved."""

    which: NDArray[np.int64]
    age: Numbers
    part: Numbers
    seen: Seen
    fast: Numbers
    dyes: NDArray[np.float32]
    moved: Numbers


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
    camera: Camera | None = setting(
        "",
        look=True,
        help="A camera that has a name, through whose lens they are seen as all else that names it; "
        "what is said here is gone and turned beyond it.",
    )
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
        poses: tuple[Pose, Pose],
        middle: tuple[float, float],
    ) -> Seen:
        """Places `(N, 2)` when the shutter opens and closes, and before `(K, N, 2)`, with even shares `(N,)` of
        the depth, as seen about a middle. A thing at a distance z is lens / z times as large (central projection), and a
        point of it |1 - focus / z| times `blurs` wide (thin lens, common practice)."""
        ones = np.ones(len(share))
        if self.depth <= 0:
            return Seen(opens, closes, ones, ones, np.zeros(len(share)), ones / 2, behind)
        gone, lens = 0.5 * (poses[0].z + poses[1].z), 0.5 * (poses[0].lens + poses[1].lens)
        far = np.mod(share * self.depth - gone, self.depth)
        ends = [
            _before(places, far + gone, pose, middle)
            for places, pose in zip((opens, closes), poses, strict=True)
        ]
        last = poses[1]
        past = [_before(places, far + gone, last, middle) for places in behind]
        nearest = _NEAREST * lens
        off = (ends[0][:, 2] + ends[1][:, 2]) / 2
        at = np.maximum(off, nearest)
        faint = np.clip((off - nearest) / (2 * nearest), 0, 1)
        faint *= np.clip((1 - far / self.depth) / _FADES, 0, 1)
        faint *= 1 - self.haze / 100 * np.minimum(1, at / self.depth)
        return Seen(
            _projected(ends[0], poses[0], middle), _projected(ends[1], last, middle), lens / at, faint,
            self.blurs * np.abs(1 - self.focus / at), np.clip(off / self.depth, 0, 1),
            np.array([_projected(each, last, middle) for each in past]).reshape(behind.shape),
        )  # fmt: skip

    @staticmethod
    def pose(
        dolly: float, track: Point, aside: float, upwards: float, lens: float, camera: Camera | None
    ) -> Pose:
        """Where one looks from, of the settings that say so."""
        own = Pose(track.x, track.y, dolly, aside, upwards, 0.0, lens)
        return own if camera is None else camera.pose().and_more(own)


def _before(places: Numbers, far: Numbers, pose: Pose, middle: tuple[float, float]) -> Numbers:
    """How far aside of a camera, below it and before it things `(N, 3)` are, along the way that it looks."""
    ways = np.column_stack([places - middle, far]) - pose[:3]
    seen: Numbers = ways @ pose.turning().T
    return seen


def _projected(things: Numbers, pose: Pose, middle: tuple[float, float]) -> Numbers:
    large = pose.lens / np.maximum(things[:, 2], _NEAREST * pose.lens)
    return middle + things[:, :2] * large[:, None]
