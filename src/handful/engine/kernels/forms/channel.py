"""Tortuous channels with branches, by random midpoint displacement.

Fournier, Fussell and Carpenter, "Computer rendering of stochastic models", CACM 25(6), 1982:
each span is split near its middle and the split is pushed sideways by a normal number in
proportion to the span, level after level. The proportion is chosen so that the mean absolute
change of direction along the finished channel is the one asked for; for natural lightning that
is about 16 degrees whatever the length of the pieces (Hill, "Analysis of irregular paths of
lightning channels", J. Geophys. Res. 73, 1968; used for pictures by Reed and Wyvill 1994).
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.chance.hash import Key, Word, boiling_normal, philox, uniform
from handful.engine.kernels.chance.purposes import (
    ALONG,
    BRANCH,
    BRANCH_ASTRAY,
    DIM,
    SIDEWAYS,
    WHEN,
    WHEN_DIM,
)
from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.forms.curve import Points, Segments
from handful.engine.kernels.forms.strokes import Stroke
from handful.engine.kernels.lengths import way_length

MOST_LEVELS = 13
"""8192 pieces in one channel at the most."""

_SETS_IN = 0.3
"""A span splits where its halves are no shorter than the finest piece. Over this share of its
length beyond that, its bend sets in, so that a channel that grows gains detail without a pop."""

_SLOWEST = 0.4
"""Pace of the boil of the largest swing, of that of the smallest bends."""

_MISSED = 1.19
"""By how much larger tilts are, for the bends that have only begun to set in."""

_MOST_WAITING = 512
_LEAST_PIECES = 4
_SWAY = 0.12
"""Deviation in radians by which a branch swings while it boils."""

_MOST_TILT = 1.1
_TIP_WIDTH = 0.35
_HEADING = 0.125
"""Share of a channel on each side of a branch, over which its direction there is taken."""

_DIP_LENGTH, _MOST_UNEVEN = 90.0, 20000.0
"""px from one dip of the light to the next, and up to which there are such."""

_BRANCH_TIME = 0.35
"""Of the time that the channel needs beyond a branch, what that branch needs to grow."""


@lru_cache(maxsize=256)
def tilt_for_turn(mean_turn: float) -> float:
    """Standard deviation (radians) of one level's tilt for a mean absolute turn (radians).

    Closed form. A split tilts its two halves by +e and -e: a turn of 2e at the split, and e more
    at each older neighbour. So a vertex made `k` levels before the last turns with variance
    (4 + 2k) s^2, and a share 2^-(k+1) of all vertices is that old; the mean absolute value of a
    normal number is sqrt(2 / pi) of its deviation.
    """
    spread: float = sum(math.sqrt(4 + 2 * k) / 2 ** (k + 1) for k in range(40))
    return _MISSED * mean_turn / (math.sqrt(2 / math.pi) * spread)


@compiled
def grow_channel(
    k0: Word,
    k1: Word,
    start_x: float,
    start_y: float,
    end_x: float,
    end_y: float,
    finest: float,
    tilt: float,
    phase: float,
) -> NDArray[np.float64]:
    """Vertices `(n + 1, 2)` of a channel whose ends lie on the two points to the bit.

    A span is split where both parts come out at least `finest` long. Every vertex is a function of
    its place in the tree alone, so a moved end point carries the same shape along, and as spans
    grow long enough one by one, their bends set in one by one. `tilt` comes from `tilt_for_turn`;
    `phase` is the boil in turns, slower for the large swings than for the small bends.
    """
    points = np.empty((64, 2))
    points[0, 0], points[0, 1] = start_x, start_y
    used = 1
    ends = np.empty((MOST_LEVELS + 2, 2))
    nodes = np.empty((MOST_LEVELS + 2, 2), np.int64)
    ends[0, 0], ends[0, 1] = end_x, end_y
    nodes[0, 0], nodes[0, 1] = 1, 0
    left = 1
    while left > 0:
        ax, ay = points[used - 1, 0], points[used - 1, 1]
        bx, by = ends[left - 1, 0], ends[left - 1, 1]
        node, level = nodes[left - 1, 0], nodes[left - 1, 1]
        dx, dy = bx - ax, by - ay
        span = way_length(dx, dy)
        over = span / (2.0 * finest) - 1.0
        if over <= 0.0 or level >= MOST_LEVELS:
            if used == points.shape[0]:
                larger = np.empty((2 * used, 2))
                larger[:used] = points
                points = larger
            points[used, 0], points[used, 1] = bx, by
            used += 1
            left -= 1
            continue
        weight = min(1.0, over / _SETS_IN)
        weight = smooth(weight)
        pace = 1.0 - (1.0 - _SLOWEST) * 2.0 ** (-0.5 * level)
        turn = phase * pace + uniform(k0, k1, node, WHEN)
        push = boiling_normal(k0, k1, node, SIDEWAYS, turn)
        sideways = min(_MOST_TILT, max(-_MOST_TILT, tilt * push * weight))
        across = 0.5 * math.tan(sideways)
        spread = min(0.15, 0.5 - finest / span)
        along = 0.5 + spread * (2.0 * uniform(k0, k1, node, ALONG) - 1.0)
        nodes[left - 1, 0], nodes[left - 1, 1] = 2 * node + 1, level + 1
        nodes[left, 0], nodes[left, 1] = 2 * node, level + 1
        ends[left, 0] = ax + along * dx - across * dy
        ends[left, 1] = ay + along * dy + across * dx
        left += 1
    return points[:used].copy()


class Growth(NamedTuple):
    """How a tree grows from its trunk; angles in radians, reaches and losses as shares.

    `branches` leave a channel, forwards at about `angle`, each about `reach` of its length, as
    wide as `branch_width` of it; its light is `branch_light` of it and goes down by `dying`
    towards its tip. They branch again `forks` times. `uneven` is how much light varies on the way.
    """

    finest: float
    tilt: float
    phase: float
    branches: int
    forks: int
    reach: float
    angle: float
    branch_width: float
    branch_light: float
    dying: float
    uneven: float


def grow_tree(
    key: Key, trunk: Points, length: float, widths: tuple[float, float], how: Growth, stroke: Stroke
) -> Segments:
    """A channel through the vertices of `trunk` and its branches, as segments, the trunk's first.

    `length` is the trunk's without its bends, `widths` those at its two ends. Branches leave as
    Reed and Wyvill (1994) describe: forwards at an angle, shorter, thinner and dimmer. `stroke`
    says how far along the trunk the discharge has come, and how bright its parts are.
    """
    return _tree(*key, trunk, float(length), float(widths[0]), float(widths[1]), how, stroke)


_SHOOT = np.dtype(
    [(name, np.float64) for name in ("ax", "ay", "bx", "by", "wide", "thin", "bright", "dim", "grown")]
    + [(name, np.uint64) for name in ("k0", "k1")]
    + [(name, np.int64) for name in ("branches", "forks")]
)  # fmt: skip
"""A channel that waits to be grown: from where to where, width and light at both ends, how much of
it has come, the key of its random numbers, and how many branches leave it how often again."""


@compiled
def _tree(
    k0: Word,
    k1: Word,
    trunk: Points,
    trunk_length: float,
    start_width: float,
    end_width: float,
    how: Growth,
    stroke: Stroke,
) -> Segments:
    waiting = np.empty(_MOST_WAITING, _SHOOT)
    first = waiting[0]
    first.wide, first.thin, first.bright, first.dim = start_width, end_width, 1.0, 1.0
    first.grown, first.k0, first.k1 = stroke.grown, np.uint64(k0), np.uint64(k1)
    first.branches, first.forks = how.branches, how.forks
    left = 1
    is_trunk = True
    own = np.empty(1, _SHOOT)
    segments = np.empty((1024, 8))
    used = 0
    while left > 0:
        left -= 1
        own[0] = waiting[left]
        shoot = own[0]
        if is_trunk:
            length, points, shown = trunk_length, trunk, stroke.channel
        else:
            length = way_length(shoot.bx - shoot.ax, shoot.by - shoot.ay)
            points = grow_channel(
                shoot.k0, shoot.k1, shoot.ax, shoot.ay, shoot.bx, shoot.by, how.finest, how.tilt,
                how.phase,
            )  # fmt: skip
            shown = stroke.branches
        is_trunk = False
        along = _shares_along(points)
        light = _light_along(shoot, along, length, how)
        pieces = points.shape[0] - 1
        if used + pieces > segments.shape[0]:
            larger = np.empty((2 * (used + pieces), 8))
            larger[:used] = segments[:used]
            segments = larger
        used = _drawn(shoot, points, along, light, shown, segments, used)
        if pieces < _LEAST_PIECES:
            continue
        for i in range(shoot.branches):
            if left < _MOST_WAITING and _sprout(
                i, shoot, points, along, light, length, how, waiting[left]
            ):
                left += 1
    return segments[:used]


@compiled
def _shares_along(points: Points) -> NDArray[np.float64]:
    """How far along the channel each vertex is, from 0 to 1."""
    along = np.zeros(points.shape[0])
    for i in range(1, points.shape[0]):
        step = way_length(points[i, 0] - points[i - 1, 0], points[i, 1] - points[i - 1, 1])
        along[i] = along[i - 1] + step
    if along[-1] > 0.0:
        along /= along[-1]
    return along


@compiled
def _piece_at(along: NDArray[np.float64], share: float) -> tuple[int, float]:
    """The piece in which a share of the way lies, and how far into it, from 0 to 1."""
    piece = min(along.shape[0] - 2, max(0, int(np.searchsorted(along, share)) - 1))
    span = along[piece + 1] - along[piece]
    part = (share - along[piece]) / span if span > 0.0 else 0.0
    return piece, min(1.0, max(0.0, part))


@compiled
def _place_at(points: Points, along: NDArray[np.float64], share: float) -> tuple[float, float]:
    piece, part = _piece_at(along, share)
    return (
        points[piece, 0] + part * (points[piece + 1, 0] - points[piece, 0]),
        points[piece, 1] + part * (points[piece + 1, 1] - points[piece, 1]),
    )


@compiled
def _drawn(
    shoot: Any,
    points: Points,
    along: NDArray[np.float64],
    light: NDArray[np.float64],
    shown: float,
    segments: Segments,
    used: int,
) -> int:
    """Writes the pieces of a channel that have come; returns how many segments there are then."""
    wider = shoot.thin - shoot.wide
    for i in range(points.shape[0] - 1):
        span = along[i + 1] - along[i]
        if along[i] >= shoot.grown:
            break
        part = min(1.0, (shoot.grown - along[i]) / span) if span > 0.0 else 1.0
        row = segments[used]
        row[0], row[1] = points[i, 0], points[i, 1]
        row[2], row[3] = shoot.wide + wider * along[i], shown * light[i]
        row[4], row[5] = points[i + 1, 0], points[i + 1, 1]
        if part < 1.0:
            row[4] = points[i, 0] + part * (points[i + 1, 0] - points[i, 0])
            row[5] = points[i, 1] + part * (points[i + 1, 1] - points[i, 1])
        row[6], row[7] = shoot.wide + wider * (along[i] + part * span), shown * light[i + 1]
        used += 1
    return used


@compiled
def _sprout(
    i: int,
    shoot: Any,
    points: Points,
    along: NDArray[np.float64],
    light: NDArray[np.float64],
    length: float,
    how: Growth,
    branch: Any,
) -> bool:
    """Makes the branch numbered `i` of a channel; says whether there is one."""
    a, b, _, _ = philox(i, 0, 0, 3, shoot.k0, shoot.k1)
    share = 0.06 + 0.82 * (i + uniform(a, b, 0, BRANCH)) / shoot.branches
    reach = length * how.reach * (0.3 + 0.9 * uniform(a, b, 3, BRANCH) ** 1.5)
    reach *= 1.1 - 0.6 * share
    grown = min(1.0, (shoot.grown - share) / (_BRANCH_TIME * (1.0 - share)))
    if reach < 2 * how.finest or grown <= 0.0:
        return False
    behind_x, behind_y = _place_at(points, along, share - _HEADING)
    ahead_x, ahead_y = _place_at(points, along, share + _HEADING)
    heading = math.atan2(ahead_y - behind_y, ahead_x - behind_x)
    side = 1.0 if uniform(a, b, 1, BRANCH) < 0.5 else -1.0
    heading += side * how.angle * (0.65 + 0.7 * uniform(a, b, 2, BRANCH))
    heading += _SWAY * boiling_normal(a, b, 0, BRANCH_ASTRAY, 0.35 * how.phase)
    strength = 0.8 + 0.4 * uniform(a, b, 4, BRANCH)
    piece, part = _piece_at(along, share)
    branch.ax, branch.ay = _place_at(points, along, share)
    branch.bx = branch.ax + reach * math.cos(heading)
    branch.by = branch.ay + reach * math.sin(heading)
    branch.wide = (shoot.wide + (shoot.thin - shoot.wide) * share) * how.branch_width * strength
    branch.thin = _TIP_WIDTH * branch.wide
    shine = light[piece] + part * (light[piece + 1] - light[piece])
    branch.bright = shine * how.branch_light * strength
    branch.dim = (1.0 - how.dying) * branch.bright
    branch.grown, branch.k0, branch.k1 = grown, a, b
    branch.branches = max(1, shoot.branches // 2) if shoot.forks > 0 else 0
    branch.forks = shoot.forks - 1
    return True


@compiled
def _light_along(
    shoot: Any, along: NDArray[np.float64], length: float, how: Growth
) -> NDArray[np.float64]:
    """Light at each vertex, from `bright` to `dim`, with a smooth dip for about every 90 px."""
    length = min(length, _MOST_UNEVEN)
    dips = np.empty(int(length / _DIP_LENGTH) + 2)
    for i in range(dips.shape[0]):
        turn = 2.0 * how.phase + uniform(shoot.k0, shoot.k1, i, WHEN_DIM)
        dips[i] = 0.5 - 0.5 * math.tanh(boiling_normal(shoot.k0, shoot.k1, i, DIM, turn))
    light = np.empty(along.shape[0])
    for i in range(along.shape[0]):
        place = along[i] * length / _DIP_LENGTH
        knot = min(dips.shape[0] - 2, int(place))
        dip = dips[knot] + (place - knot) * (dips[knot + 1] - dips[knot])
        light[i] = (shoot.bright + (shoot.dim - shoot.bright) * along[i]) * (1.0 - how.uneven * dip)
    return light
