"""Light that a bright point leaves in a lens: around it, in streaks and a star, and in ghosts."""

from __future__ import annotations

import math
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.angle import angle_of
from handful.engine.kernels.compiled import compiled, in_bands
from handful.engine.kernels.easing import smooth
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
    """Fill a picture on a region with the glare; cover is nothing. `star` is a table `(N, N, 3)`.

    Where something is thin for the px, a px is the mean of several places in it.
    """
    star, middle = _coarse_enough(star, float(glare.star[0]))
    thinnest = 1 / np.sqrt(glare.streaks[:, 3].max())
    sides = np.array([_side(glare.hot), _side(glare.ring_width), _side(thinnest)])
    in_bands(
        _glare_rows, region.height, region.left, region.top, sides, middle,
        np.array([glare.x, glare.y, glare.hot, glare.halo, glare.ring_width], np.float32),
        glare.hot_light, glare.halo_light, glare.ring, glare.ring_light, glare.streaks,
        glare.streak_lights, glare.star, glare.star_light, star, picture,
    )  # fmt: skip


def _coarse_enough(
    star: NDArray[np.float32], radius: float
) -> tuple[NDArray[np.float32], np.float32]:
    """A star reduced until its px are not finer than the picture's, and where its middle is."""
    size = star.shape[0]
    octaves = max(0, min(_MOST_OCTAVES, math.floor(math.log2(size / 2 / max(radius, 1e-3)))))
    by = 2**octaves
    if by > 1:
        star = cv2.resize(star, (size // by, size // by), interpolation=cv2.INTER_AREA)
    return star, np.float32((size // 2 - (by - 1) / 2) / by)


_MOST_OCTAVES = 6

_PLACES_A_SIZE = 2.0
_MOST_SIDE = 24


def _side(size: float) -> int:
    """How many places a px has along each side for what is `size` px wide."""
    return min(_MOST_SIDE, max(1, math.ceil(_PLACES_A_SIZE / size)))


_NEAR = np.float32(3.0)
"""px around a thin thing, and of its own size around it, in which it is looked at more finely."""


@compiled
def _glare_rows(
    first: int,
    last: int,
    left: int,
    top: int,
    sides: NDArray[np.int64],
    star_middle: np.float32,
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
    least, most = ring.min() - three * place[4] - one, ring.max() + three * place[4] + one
    has_ring, has_star = ring_light.max() > zero, star_light.max() > zero
    last_cell = np.float32(star.shape[0] - 1)
    pace = star_middle / star_place[0]
    close = (_NEAR + _NEAR * place[2]) ** 2
    at_star = sides[0] if not has_star else max(sides[0], 2)
    slim_side = _NEAR / np.float32(2.0) + one
    for y in range(first, last):
        middle_y = np.float32(y + top) + half - place[1]
        for x in range(picture.shape[1]):
            middle_x = np.float32(x + left) + half - place[0]
            squared = middle_x * middle_x + middle_y * middle_y
            side = 1
            if squared < close:
                side = at_star
            if sides[1] > 1 and has_ring and max(zero, least) ** 2 < squared < most * most:
                side = max(side, sides[1])
            if sides[2] > side:
                for i in range(streaks.shape[0]):
                    across = abs(middle_y * streaks[i, 4] - middle_x * streaks[i, 5])
                    along = abs(middle_x * streaks[i, 4] + middle_y * streaks[i, 5])
                    if across < slim_side and along * streaks[i, :3].min() < one:
                        side = sides[2]
            red, green, blue = zero, zero, zero
            step = one / np.float32(side)
            column, row = 0, 0
            for _ in range(side * side):
                dx = middle_x - half + (np.float32(column) + half) * step
                dy = middle_y - half + (np.float32(row) + half) * step
                column += 1
                if column == side:
                    column, row = 0, row + 1
                squared = dx * dx + dy * dy
                near = one / (one + squared * hot)
                near *= near
                wide = one / (one + squared * halo)
                wide *= wide
                red += hot_light[0] * near + halo_light[0] * wide
                green += hot_light[1] * near + halo_light[1] * wide
                blue += hot_light[2] * near + halo_light[2] * wide
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
                    u = (dx * star_place[1] + dy * star_place[2]) * pace + star_middle
                    v = (dy * star_place[1] - dx * star_place[2]) * pace + star_middle
                    if zero < u < last_cell and zero < v < last_cell:
                        whole_u, whole_v = np.int64(u), np.int64(v)
                        p, q = u - np.float32(whole_u), v - np.float32(whole_v)
                        near_u, near_v = np.uint64(whole_u), np.uint64(whole_v)
                        right, below = near_u + np.uint64(1), near_v + np.uint64(1)
                        w0, w1 = (one - p) * (one - q), p * (one - q)
                        w2, w3 = (one - p) * q, p * q
                        red += star_light[0] * (
                            w0 * star[near_v, near_u, 0] + w1 * star[near_v, right, 0]
                            + w2 * star[below, near_u, 0] + w3 * star[below, right, 0]
                        )  # fmt: skip
                        green += star_light[1] * (
                            w0 * star[near_v, near_u, 1] + w1 * star[near_v, right, 1]
                            + w2 * star[below, near_u, 1] + w3 * star[below, right, 1]
                        )  # fmt: skip
                        blue += star_light[2] * (
                            w0 * star[near_v, near_u, 2] + w1 * star[near_v, right, 2]
                            + w2 * star[below, near_u, 2] + w3 * star[below, right, 2]
                        )  # fmt: skip
            share = step * step
            picture[y, x, 0], picture[y, x, 1] = red * share, green * share
            picture[y, x, 2], picture[y, x, 3] = blue * share, zero


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
    ghosts: Ghosts,
    blades: int,
    turn: float,
    spread: float,
    region: Region,
    picture: Picture,
) -> None:
    """Add images of an aperture of `blades`, turned by radians, to a picture on a region.

    `spread` is how much larger red is than green, and blue smaller. Of a small one, a px is the mean
    of several places in it.
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
    two = np.float32(2.0)
    corner = one / np.float32(math.cos(math.pi / blades))
    share = np.float32(2.0 * math.pi) / np.float32(blades)
    edge = np.float32(_GHOST_EDGE)
    rim = np.float32(_RIM)
    for i in range(places.shape[0]):
        cx, cy, size = places[i, 0], places[i, 1], places[i, 2]
        side = min(_MOST_SIDE, max(1, int(np.ceil(_SMALL_GHOST / size))))
        share_of_px = one / np.float32(side * side)
        soft = max(edge, one / (size * np.float32(side)))
        reach = size * sizes.max() * (one + soft) * corner
        for y in range(
            max(first, int(np.floor(cy - reach)) - top),
            min(last, int(np.ceil(cy + reach)) - top),
        ):
            for x in range(
                max(0, int(np.floor(cx - reach)) - left),
                min(picture.shape[1], int(np.ceil(cx + reach)) - left),
            ):
                for below in range(side):
                    for beside in range(side):
                        dx = np.float32(x + left) - cx
                        dy = np.float32(y + top) - cy
                        dx += (np.float32(beside) + half) / np.float32(side)
                        dy += (np.float32(below) + half) / np.float32(side)
                        away = math.sqrt(dx * dx + dy * dy)
                        if away > reach:
                            continue
                        angle = angle_of(dy, dx) - turn
                        angle -= share * (np.floor(angle / share) + half)
                        flat = away * math.cos(angle) / size
                        for c in range(3):
                            far = flat / sizes[c]
                            part = min(one, max(zero, half + (one - far) / (two * soft)))
                            part = smooth(part) * share_of_px
                            body = (one - rim) + rim * min(one, far * far * far)
                            picture[y, x, c] += lights[i, c] * part * body


_SMALL_GHOST = 4.0
"""px; a smaller one is not held by the places in the middle of px."""
