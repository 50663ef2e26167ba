"""Bead: the picture seen through a ball of glass or water."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.forms.places import Places
from handful.engine.kernels.pixels.resample import Edge, resampled
from handful.engine.kinds import At, Step, register, setting
from handful.engine.picture import Picture, Region, Tile, clear_tile
from handful.engine.values import Point


@register
class Bead(Step):
    """The picture seen through a clear ball, bent by Snell's law where a ray goes in and comes out.

    The picture is a plane behind the ball, looked at from far away. The rim is darker by what
    Fresnel's equations reflect there, times the darkening.
    """

    family = "warp"
    says = (
        "Through a ball of index {index} at {centre}, {radius} in radius, {distance} before the "
        "picture, its rim darkened by {darkening}. Outside it shows {outside}; its edge is {edge}."
    )

    centre: Point = setting([960, 540], unit="px", help="Middle of the ball.")
    radius: float = setting(
        260,
        unit="px",
        drawn="radius",
        about="centre",
        least=1,
        most=10_000,
        usual=(10, 1500),
        help="Radius of the ball.",
    )
    index: float = setting(
        1.33, least=1, most=2.5, help="Refractive index: water 1.33, glass about 1.5."
    )
    distance: float = setting(
        300,
        unit="%",
        least=0,
        most=1000,
        usual=(0, 800),
        help="From the ball's back to the picture, of its radius.",
    )
    darkening: float = setting(
        100, unit="%", least=0, most=400, help="How much of what the rim reflects is taken away."
    )
    outside: Literal["the picture", "nothing"] = setting(
        "the picture", help="What there is around the ball."
    )
    edge: Edge = setting("mirror", help="What comes from beyond the canvas's edge.")

    def needs(self, wanted: Region, at: At) -> Region:
        reach = math.ceil(2 * self.radius * (2 + self.distance / 100) * at.scale)
        needed = at.canvas if self.edge != "clear" else self._ball(at).grown(reach)
        return needed if self.outside == "nothing" else needed.around(wanted)

    def apply(self, tile: Tile, at: At, *others: Tile) -> Tile:
        region = self._ball(at).meet(at.wanted)
        places = np.empty((region.height, region.width, 2), np.float32)
        shares = np.empty((region.height, region.width, 2), np.float32)
        in_bands(
            _refract_rows, region.height, region.left, region.top,
            self.centre.x * at.scale, self.centre.y * at.scale, self.radius * at.scale,
            self.index, self.distance / 100, self.darkening / 100, places, shares,
        )  # fmt: skip
        ball = resampled(tile, places, region, self.edge, at.canvas).within(region)
        is_alone = self.outside == "nothing"
        around = clear_tile(at.wanted) if is_alone else tile
        covered = region if is_alone else at.wanted
        around = Tile(around.within(covered).copy(), covered)
        in_bands(_lay_rows, region.height, ball, shares, around.within(region))
        return around

    def _ball(self, at: At) -> Region:
        x, y, r = (part * at.scale for part in (*self.centre, self.radius))
        return Region(
            math.floor(x - r) - 1, math.floor(y - r) - 1, math.ceil(x + r) + 1, math.ceil(y + r) + 1
        )


@compiled
def ray_through(height: float, index: float, distance: float) -> tuple[float, float]:
    """Where a ray at a height on a ball of radius 1 meets the plane, and the share that passes.

    The ray comes along the axis. The plane is `distance` behind the ball's back. The share is
    Fresnel's for unpolarised light, for going in and coming out alike.
    """
    entering = math.asin(min(1.0, height))
    within = math.asin(min(1.0, height) / index)
    turned = entering - within
    chord = 2.0 * math.cos(within)
    out = height - chord * math.sin(turned)
    depth = chord * math.cos(turned) - math.cos(entering)
    place = out - (1.0 + distance - depth) * math.tan(min(_STEEPEST, 2.0 * turned))
    cos_in, cos_within = math.cos(entering), math.cos(within)
    across = (cos_in - index * cos_within) / (cos_in + index * cos_within)
    along = (index * cos_in - cos_within) / (index * cos_in + cos_within)
    passes = 1.0 - 0.5 * (across * across + along * along)
    return place, passes * passes


_STEEPEST = 1.5
"""Radians; a ray turned farther never comes to the picture, and is taken from as far as this."""


@compiled
def _refract_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    x0: float,
    y0: float,
    radius: float,
    index: float,
    distance: float,
    darkening: float,
    places: Places,
    shares: Places,
) -> None:
    """Where each px of the ball comes from; its light, and how much of the px is in the ball."""
    for y in range(first, last):
        dy = y + top + 0.5 - y0
        for x in range(places.shape[1]):
            dx = x + left + 0.5 - x0
            away = math.hypot(dx, dy)
            inside = min(1.0, max(0.0, radius - away + 0.5))
            shares[y, x, 1] = np.float32(inside)
            shares[y, x, 0] = np.float32(0.0)
            if inside == 0.0:
                places[y, x, 0], places[y, x, 1] = np.float32(np.nan), np.float32(np.nan)
                continue
            height = min(0.9999, max(1e-6, away / radius))
            place, passes = ray_through(height, index, distance)
            by = place / max(height, 1e-6)
            places[y, x, 0] = x0 + dx * by
            places[y, x, 1] = y0 + dy * by
            shares[y, x, 0] = np.float32(max(0.0, 1.0 - darkening * (1.0 - passes)))


@compiled
def _lay_rows(first: int, last: int, ball: Picture, shares: Places, around: Picture) -> None:
    for y in range(first, last):
        for x in range(ball.shape[1]):
            light, inside = shares[y, x, 0], shares[y, x, 1]
            kept = np.float32(1.0) - inside
            for c in range(3):
                around[y, x, c] = around[y, x, c] * kept + ball[y, x, c] * light * inside
            around[y, x, 3] = around[y, x, 3] * kept + ball[y, x, 3] * inside
