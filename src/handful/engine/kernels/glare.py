"""Light that a bright point leaves in a lens: around it, in streaks and a star, and in ghosts."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.picture import Picture, Region

Rgb = NDArray[np.float32]

_GHOST_EDGE = 0.06
"""Of its size, how softly a ghost ends."""

_RIM = 0.6
"""How much of a ghost's light is only at its rim."""


class Glare(NamedTuple):
    """What is around a point; lengths in px of the picture, lights RGB `(3,)`.

    `hot` and `halo` are radii, `ring` its radius and width for each channel. A streak has its half
    length for each channel, its thickness and the cosine and sine of its turn. `star` is its
    radius and the cosine and sine of its turn.
    """

    x: float
    y: float
    hot: float
    hot_light: Rgb
    halo: float
    halo_light: Rgb
    ring: Rgb
    ring_width: float
    ring_light: Rgb
    streaks: NDArray[np.float32]
    streak_lights: NDArray[np.float32]
    star: NDArray[np.float32]
    star_light: Rgb


def draw_glare(glare: Glare, star: NDArray[np.float32], region: Region, picture: Picture) -> None:
    """Fill a picture on a region with the glare; cover is nothing. `star` is a table `(N, N, 3)`."""
    in_bands(
        _glare_rows, region.height, region.left, region.top,
        np.array([glare.x, glare.y, glare.hot, glare.halo, glare.ring_width], np.float32),
        glare.hot_light, glare.halo_light, glare.ring, glare.ring_light, glare.streaks,
        glare.streak_lights, glare.star, glare.star_light, star, picture,
    )  # fmt: skip


@compiled
def _glare_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    place: NDArray[np.float32],
    hot_light: Rgb,
    halo_light: Rgb,
    ring: Rgb,
    ring_light: Rgb,
    streaks: NDArray[np.float32],
    streak_lights: NDArray[np.float32],
    star_place: NDArray[np.float32],
    star_light: Rgb,
    star: NDArray[np.float32],
    picture: Picture,
) -> None:
    zero, half, one = np.float32(0.0), np.float32(0.5), np.float32(1.0)
    three = np.float32(3.0)
    hot = one / (place[2] * place[2])
    halo = one / (place[3] * place[3])
    thin = one / place[4]
    least, most = ring.min() - three * place[4], ring.max() + three * place[4]
    has_ring, has_star = ring_light.max() > zero, star_light.max() > zero
    table = star.shape[0]
    middle = np.float32(table // 2)
    pace = middle / star_place[0]
    for y in range(first, last):
        dy = np.float32(y + top) + half - place[1]
        for x in range(picture.shape[1]):
            dx = np.float32(x + left) + half - place[0]
            squared = dx * dx + dy * dy
            near = one / (one + squared * hot)
            near *= near
            wide = one / (one + squared * halo)
            wide *= wide
            red = hot_light[0] * near + halo_light[0] * wide
            green = hot_light[1] * near + halo_light[1] * wide
            blue = hot_light[2] * near + halo_light[2] * wide
            if has_ring:
                away = math.sqrt(squared)
                if least < away < most:
                    a, b, c = (
                        (away - ring[0]) * thin,
                        (away - ring[1]) * thin,
                        (away - ring[2]) * thin,
                    )
                    red += ring_light[0] * math.exp(-a * a)
                    green += ring_light[1] * math.exp(-b * b)
                    blue += ring_light[2] * math.exp(-c * c)
            for i in range(streaks.shape[0]):
                across = dy * streaks[i, 4] - dx * streaks[i, 5]
                slim = one / (one + across * across * streaks[i, 3])
                slim *= slim
                if slim > np.float32(1e-5):
                    along = abs(dx * streaks[i, 4] + dy * streaks[i, 5])
                    red += streak_lights[i, 0] * slim * _tail(along * streaks[i, 0])
                    green += streak_lights[i, 1] * slim * _tail(along * streaks[i, 1])
                    blue += streak_lights[i, 2] * slim * _tail(along * streaks[i, 2])
            if has_star:
                u = (dx * star_place[1] + dy * star_place[2]) * pace + middle
                v = (dy * star_place[1] - dx * star_place[2]) * pace + middle
                if zero < u < np.float32(table - 1) and zero < v < np.float32(table - 1):
                    column, row = np.uint64(u), np.uint64(v)
                    p, q = u - np.float32(column), v - np.float32(row)
                    right, below = column + np.uint64(1), row + np.uint64(1)
                    w0, w1 = (one - p) * (one - q), p * (one - q)
                    w2, w3 = (one - p) * q, p * q
                    red += star_light[0] * (
                        w0 * star[row, column, 0] + w1 * star[row, right, 0] + w2 * star[below, column, 0]
                        + w3 * star[below, right, 0]
                    )  # fmt: skip
                    green += star_light[1] * (
                        w0 * star[row, column, 1] + w1 * star[row, right, 1] + w2 * star[below, column, 1]
                        + w3 * star[below, right, 1]
                    )  # fmt: skip
                    blue += star_light[2] * (
                        w0 * star[row, column, 2] + w1 * star[row, right, 2] + w2 * star[below, column, 2]
                        + w3 * star[below, right, 2]
                    )  # fmt: skip
            picture[y, x, 0], picture[y, x, 1], picture[y, x, 2] = red, green, blue
            picture[y, x, 3] = zero


@compiled
def _tail(share: np.float32) -> np.float32:
    """Light along a streak, from 1 at the point to nothing at its end, where `share` is 1."""
    left = max(np.float32(0.0), np.float32(1.0) - share)
    return left * left / (np.float32(1.0) + np.float32(12.0) * share)


class Ghosts(NamedTuple):
    """Images of the aperture: `places` `(N, 3)` are x, y and size in px, `lights` `(N, 3)` RGB."""

    places: NDArray[np.float32]
    lights: NDArray[np.float32]


def add_ghosts(
    ghosts: Ghosts, blades: int, turn: float, spread: float, region: Region, picture: Picture
) -> None:
    """Add images of an aperture of `blades`, turned by radians, to a picture on a region.

    `spread` is how much larger red is than green, and blue smaller.
    """
    in_bands(
        _ghost_rows, region.height, region.left, region.top, *ghosts, blades, np.float32(turn),
        np.array([1 + spread, 1, max(0.01, 1 - spread)], np.float32), picture,
    )  # fmt: skip


@compiled
def _ghost_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    places: NDArray[np.float32],
    lights: NDArray[np.float32],
    blades: int,
    turn: np.float32,
    sizes: Rgb,
    picture: Picture,
) -> None:
    zero, half, one = np.float32(0.0), np.float32(0.5), np.float32(1.0)
    two, three = np.float32(2.0), np.float32(3.0)
    share = np.float32(2.0 * math.pi) / np.float32(blades)
    edge = np.float32(_GHOST_EDGE)
    rim = np.float32(_RIM)
    for i in range(places.shape[0]):
        cx, cy, size = places[i, 0], places[i, 1], places[i, 2]
        reach = size * sizes.max() * np.float32(1.6) + two
        soft = max(edge, one / size)
        for y in range(
            max(first, int(math.floor(cy - reach)) - top),
            min(last, int(math.ceil(cy + reach)) - top),
        ):
            dy = np.float32(y + top) + half - cy
            for x in range(
                max(0, int(math.floor(cx - reach)) - left),
                min(picture.shape[1], int(math.ceil(cx + reach)) - left),
            ):
                dx = np.float32(x + left) + half - cx
                away = math.sqrt(dx * dx + dy * dy)
                if away > reach:
                    continue
                angle = math.atan2(dy, dx) - turn
                angle -= share * (math.floor(angle / share) + half)
                flat = away * math.cos(angle) / size
                for c in range(3):
                    far = flat / sizes[c]
                    part = min(one, max(zero, half + (one - far) / (two * soft)))
                    part = part * part * (three - two * part)
                    body = (one - rim) + rim * min(one, far * far * far)
                    picture[y, x, c] += lights[i, c] * part * body
