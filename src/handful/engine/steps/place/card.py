"""Card: the picture as a flat card, turned in space."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.kernels.forms.places import Matrix, places_by, shifted, undone
from handful.engine.kernels.pixels.resample import resampled
from handful.engine.kinds import At, Step, clockwise, register, setting
from handful.engine.named import Camera
from handful.engine.picture import Region, Tile
from handful.engine.values import Point


@register
class Card(Step):
    """The picture as a card in space, turned about a pivot and seen with perspective.

    The camera looks straight at the middle of the canvas, from where its view spans the canvas's
    width; a card that is not turned or moved is seen as it is. Through a camera that has a name it is seen
    where it stands then, as far off as where the view would see it as it is.
    """

    family = "place"
    says = (
        "A card turned {tilt} back, {swing} sideways and {turn} in its plane about {pivot}, moved "
        "{move} and {away} away, seen with a view of {view}, or through {camera}."
    )

    tilt: float = setting(
        0, unit="°", least=-36000, most=36000, usual=(-85, 85), help="Its top goes back."
    )
    swing: float = setting(
        30, unit="°", least=-36000, most=36000, usual=(-85, 85), help="Its right side goes back."
    )
    turn: float = clockwise(0, about="pivot", help="Clockwise, in its plane.")
    pivot: Point = setting([960, 540], unit="px", help="What stays in its place in space.")
    move: Point = setting(
        [0, 0],
        unit="px",
        drawn="offset",
        about="pivot",
        help="How far it is moved across and down.",
    )
    away: float = setting(
        0, unit="px", least=-100_000, most=100_000, usual=(-2000, 4000), help="How far back it is."
    )
    view: float = setting(
        45, unit="°", least=2, most=150, usual=(10, 100), help="Angle of view across the canvas."
    )
    camera: Camera | None = setting(
        "", help="A camera that goes past it; the view says only how far off the card is then."
    )

    def needs(self, wanted: Region, at: At) -> Region:
        """What the corners of the view see of the card; where they miss it, all that may be."""
        back = self._back(at)
        corners = np.array([(x, y, 1.0) for x in wanted[0::2] for y in wanted[1::2]])
        x, y, depth = back @ corners.T
        if (depth <= _BEHIND).any():
            return wanted.grown(_FAR)
        x, y = np.clip(x / depth, -1e6, 1e6), np.clip(y / depth, -1e6, 1e6)
        return Region(
            math.floor(x.min()) - 2, math.floor(y.min()) - 2,
            math.ceil(x.max()) + 2, math.ceil(y.max()) + 2,
        )  # fmt: skip

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        places = places_by(self._back(at), at.wanted)
        return resampled(tile, places, at.wanted, "clear", at.canvas)

    def _back(self, at: At) -> Matrix:
        """The map from the canvas's px to the card's; nothing is seen of a card that goes through the eye."""
        try:
            return undone(self.matrix(at))
        except np.linalg.LinAlgError:
            return np.zeros((3, 3))

    def matrix(self, at: At) -> Matrix:
        """The projective map from the card's px to the canvas's."""
        scale = at.scale
        middle_x, middle_y = at.canvas.width / 2, at.canvas.height / 2
        eye = middle_x / math.tan(math.radians(self.view) / 2)
        pivot_x, pivot_y = self.pivot.x * scale, self.pivot.y * scale
        spun = _about_x(self.tilt) @ _about_y(self.swing) @ _about_z(self.turn)
        place = np.array(
            [
                pivot_x + self.move.x * scale - middle_x,
                pivot_y + self.move.y * scale - middle_y,
                self.away * scale + eye,
            ]
        )
        # A card's px x, y is the point of space x * right + y * downward + place, from its pivot.
        in_space = np.stack([spun[:, 0], spun[:, 1], place], axis=1)
        lens = eye
        if self.camera is not None:
            pose = self.camera.pose()
            in_space[:, 2] -= np.array(pose[:3]) * scale
            in_space, lens = pose.turning() @ in_space, pose.lens * scale
        seen = np.diag([lens, lens, 1.0]) @ in_space @ shifted(-pivot_x, -pivot_y)
        matrix: Matrix = shifted(middle_x, middle_y) @ seen
        return matrix


_BEHIND = 1e-9
_FAR = 10_000
"""px; more than is ever drawn."""


def _about_x(degrees: float) -> Matrix:
    cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return np.array([[1, 0, 0], [0, cos, sin], [0, -sin, cos]])


def _about_y(degrees: float) -> Matrix:
    cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return np.array([[cos, 0, -sin], [0, 1, 0], [sin, 0, cos]])


def _about_z(degrees: float) -> Matrix:
    cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return np.array([[cos, -sin, 0], [sin, cos, 0], [0, 0, 1]])
