"""Fronts drawn: each px by how far it is from where they come from, on the picture or on ground that goes back
to a horizon."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.angle import angle_of
from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.forms.fronts import NEAR, Profile
from handful.engine.picture import Region

LIGHT, MIST, HEIGHT, OFFSETS = range(4)
"""What a front is drawn as."""

RING, CONE, BODY = range(3)
"""What it comes from: a place, a place that runs faster than its own waves, or the outline of a body."""

_FARTHEST = 1e4
"""So many times as far as near, ground is no more seen."""

_ALONG = 1200.0
"""px along the side of a cone after which its waves come again."""

_YOUNG = 200.0
"""px of a radius below which a front is not yet as rough as it is set."""


class Placing(NamedTuple):
    """Where a front is: what it comes from, the place and the radius in px of the full size, from which radius
    on it differs from one direction to another, its height of its width, and how large a px is; the place
    where ground vanishes and how far below it a px is one (0 is no ground); the angle to which a cone points
    and its half angle, in radians, and the power of the distance by which it grows weaker."""

    shape: int
    x: float
    y: float
    radius: float
    rim: float
    flat: float
    px: float
    horizon: tuple[float, float]
    near: float
    points: float
    half: float
    falls: float


def on_ground(placing: Placing, region: Region, reach: float) -> Region:
    """What of a region ground can be on that is within a reach of the place."""
    (_, hy), near, px = placing.horizon, placing.near, placing.px
    below = (placing.y - hy) / near if near else 0.0
    if below <= 0 or near < 0:
        return region if below > 0 else region._replace(bottom=region.top)
    away = near / below
    top = math.floor((hy + near * near / (away + reach)) / px) - 1
    bottom = region.bottom
    if away > reach:
        bottom = math.ceil((hy + near * near / (away - reach)) / px) + 1
    return Region(region.left, top, region.right, bottom).meet(region)


@compiled
def front_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    placing: Placing,
    known: Profile,
    table: NDArray[np.float32],
    body: NDArray[np.float32],
    kind: int,
    amount: float,
    colour: NDArray[np.float32],
    planes: NDArray[np.float32],
) -> None:
    """A front on rows of a picture; `table` `(N + 1, 2)` says how far before it is in each direction and how
    strong, `body` `(H, W)` how far px are outside of a body."""
    shape, x0, y0, px = placing.shape, placing.x, placing.y, placing.px
    hx, hy = placing.horizon
    near = placing.near
    is_ground = near != 0.0
    cosine, sine = math.cos(placing.points), math.sin(placing.points)
    along_side, across_side = math.cos(placing.half), math.sin(placing.half)
    young = min(1.0, placing.radius / _YOUNG)
    middle_x, middle_y = x0, y0
    if is_ground:
        by = near / (y0 - hy)
        middle_x, middle_y = (x0 - hx) * by, near * by
    most = table.shape[0] - 1
    for y in range(first, last):
        down = (y + top + 0.5) * px
        by, wide = 1.0, px
        if is_ground:
            by = near / (down - hy) if (down - hy) * near > 0.0 else np.inf
            if not by < _FARTHEST:
                planes[y] = np.float32(0.0)
                continue
            wide = px * max(by, by * by)
        for x in range(planes.shape[1]):
            across = (x + left + 0.5) * px
            ground_x = (across - hx) * by
            if is_ground:
                dx, dy = ground_x - middle_x, middle_y - near * by
            else:
                dx, dy = across - middle_x, (down - middle_y) / placing.flat
            away, strength = math.sqrt(dx * dx + dy * dy), 1.0
            ux, uy = dx / max(away, 1e-9), dy / max(away, 1e-9)
            turn = angle_of(dy, dx) / (2.0 * math.pi)
            if shape == CONE:
                behind, aside = -(dx * cosine + dy * sine), dy * cosine - dx * sine
                side = 1.0 if aside >= 0.0 else -1.0
                away = abs(aside) * along_side - behind * across_side
                ux = -side * sine * along_side + cosine * across_side
                uy = side * cosine * along_side + sine * across_side
                turn = side * (behind * along_side + abs(aside) * across_side) / _ALONG
                strength = (1.0 + max(0.0, behind) / NEAR) ** -placing.falls
            elif shape == BODY:
                away = body[y, x]
                if away <= 0.0:
                    planes[y, x] = np.float32(0.0)
                    continue
                n, m = min(y + 1, body.shape[0] - 1), min(x + 1, body.shape[1] - 1)
                ux, uy = body[y, m] - body[y, max(0, x - 1)], body[n, x] - body[max(0, y - 1), x]
                steep = math.sqrt(ux * ux + uy * uy)
                ux, uy = ux / max(steep, 1e-9), uy / max(steep, 1e-9)
            place = (turn - np.floor(turn)) * most
            i = min(most - 1, int(place))
            part = place - i
            before = young * (table[i, 0] + part * (table[i + 1, 0] - table[i, 0]))
            uneven = 1.0 - (table[i, 1] + part * (table[i + 1, 1] - table[i, 1]))
            strength *= (
                1.0 - uneven * min(1.0, away / placing.rim) if placing.rim > 0.0 else 1.0 - uneven
            )
            value = strength * _mean(known, away - before, wide)
            if kind == LIGHT:
                light = np.float32(max(0.0, value))
                for c in range(3):
                    planes[y, x, c] = light * colour[c]
                planes[y, x, 3] = np.float32(0.0)
            elif kind == MIST:
                cover = np.float32(min(1.0, max(0.0, -value * amount)))
                for c in range(3):
                    planes[y, x, c] = cover * colour[c]
                planes[y, x, 3] = cover
            elif kind == HEIGHT:
                planes[y, x, 0] = amount * value / by
            elif is_ground:
                to_x, away_by = amount * value * ux, -amount * value * uy
                planes[y, x, 0] = to_x / by - ground_x * away_by / (by * by * near)
                planes[y, x, 1] = -away_by / (by * by)
            else:
                planes[y, x, 0] = amount * value * ux
                planes[y, x, 1] = amount * value * uy * placing.flat


@compiled
def _mean(known: Profile, away: float, wide: float) -> float:
    """The mean of what there is over a width about a distance."""
    low = _up_to(known, away - 0.5 * wide)
    return (_up_to(known, away + 0.5 * wide) - low) / wide


@compiled
def _up_to(known: Profile, away: float) -> float:
    place = (away - known.first) / known.step
    last = known.sums.shape[0] - 1
    if place <= 0.0:
        return 0.0
    if place >= last:
        return float(known.sums[last])
    i = int(place)
    return float(known.sums[i] + (place - i) * (known.sums[i + 1] - known.sums[i]))
