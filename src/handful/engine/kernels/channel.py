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
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.curve import Points
from handful.engine.kernels.hash import Key, Word, boiling_normal, philox, uniform
from handful.engine.kernels.line import Segments
from handful.engine.kernels.strokes import Stroke

MOST_LEVELS = 13
"""8192 pieces in one channel at the most."""

_SIDEWAYS, _ALONG, _WHEN, _BRANCH, _ASTRAY, _DIM, _WHEN_DIM = 1, 2, 3, 11, 22, 23, 24
"""Purposes that keep the uses of one key apart."""

_MOST_WAITING = 512
_LEAST_PIECES = 4
_SWAY = 0.12
"""Deviation in radians by which a branch swings while it boils."""

_MOST_TILT = 1.1
_TIP_WIDTH = 0.35
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
    return mean_turn / (math.sqrt(2 / math.pi) * spread)


@compiled
def grow_channel(
    k0: Word,
    k1: Word,
    start_x: float,
    start_y: float,
    end_x: float,
    end_y: float,
    levels: float,
    tilt: float,
    phase: float,
) -> NDArray[np.float64]:
    """Vertices `(n + 1, 2)` of a channel whose ends lie on the two points to the bit.

    `levels` may be fractional: the last level then fades in, so that a channel that grows longer
    gains detail without a pop. Every vertex is a function of its place in the tree alone, so a
    moved end point carries the same shape along. `tilt` comes from `tilt_for_turn`; `phase` is
    the boil in turns, slower for the large swings than for the small bends.
    """
    whole = int(math.ceil(levels))
    pieces = 1 << whole
    points = np.empty((pieces + 1, 2))
    points[0, 0], points[0, 1] = start_x, start_y
    points[pieces, 0], points[pieces, 1] = end_x, end_y
    for level in range(whole):
        weight = min(1.0, levels - level)
        stride = pieces >> level
        pace = 0.4 + 0.6 * (level + 1.0) / whole
        for i in range(1 << level):
            a, b = i * stride, (i + 1) * stride
            node = (1 << level) + i
            shift = uniform(k0, k1, node, _WHEN)
            push = boiling_normal(k0, k1, node, _SIDEWAYS, phase * pace + shift)
            sideways = min(_MOST_TILT, max(-_MOST_TILT, tilt * push * weight))
            across = 0.5 * math.tan(sideways)
            along = 0.5 + 0.3 * weight * (uniform(k0, k1, node, _ALONG) - 0.5)
            dx, dy = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1]
            middle = (a + b) >> 1
            points[middle, 0] = points[a, 0] + along * dx - across * dy
            points[middle, 1] = points[a, 1] + along * dy + across * dx
    return points


def levels_for(length: float, finest: float) -> float:
    """How often a channel of a length is split until its pieces are `finest` long; fractional."""
    return min(float(MOST_LEVELS), max(1.0, math.log2(max(length, 1.0) / finest)))


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
    return _tree(
        *key, trunk, length, *widths, how.finest, how.tilt, how.phase, how.branches, how.forks,
        np.array([how.reach, how.angle, how.branch_width, how.branch_light, how.dying]),
        how.uneven, *stroke,
    )  # fmt: skip


@compiled
def _tree(
    k0: Word,
    k1: Word,
    trunk: Points,
    trunk_length: float,
    start_width: float,
    end_width: float,
    finest: float,
    tilt: float,
    phase: float,
    branches: int,
    forks: int,
    branch: NDArray[np.float64],
    uneven: float,
    grown: float,
    channel_light: float,
    branches_light: float,
) -> Segments:
    branch_reach, branch_angle, branch_width = branch[0], branch[1], branch[2]
    branch_light, dying = branch[3], branch[4]
    waiting = np.empty((_MOST_WAITING, 9))
    keys = np.empty((_MOST_WAITING, 2), np.uint64)
    counts = np.empty((_MOST_WAITING, 2), np.int64)
    waiting[0, 4], waiting[0, 5], waiting[0, 6], waiting[0, 7] = start_width, end_width, 1.0, 1.0
    waiting[0, 8] = grown
    keys[0, 0], keys[0, 1] = np.uint64(k0), np.uint64(k1)
    counts[0, 0], counts[0, 1] = branches, forks
    left = 1
    is_trunk = True
    segments = np.empty((1024, 8))
    used = 0
    while left > 0:
        left -= 1
        ax, ay, bx, by = waiting[left, 0], waiting[left, 1], waiting[left, 2], waiting[left, 3]
        wide, thin, bright, dim, come = (
            waiting[left, 4],
            waiting[left, 5],
            waiting[left, 6],
            waiting[left, 7],
            waiting[left, 8],
        )
        own0, own1 = keys[left, 0], keys[left, 1]
        count, again = counts[left, 0], counts[left, 1]
        if is_trunk:
            length, points, shown = trunk_length, trunk, channel_light
        else:
            length = math.hypot(bx - ax, by - ay)
            levels = min(float(MOST_LEVELS), max(1.0, math.log2(max(length, 1.0) / finest)))
            points = grow_channel(own0, own1, ax, ay, bx, by, levels, tilt, phase)
            shown = branches_light
        is_trunk = False
        pieces = points.shape[0] - 1
        light = _light_along(own0, own1, pieces, length, bright, dim, uneven, phase)
        if used + pieces > segments.shape[0]:
            larger = np.empty((2 * (used + pieces), 8))
            larger[:used] = segments[:used]
            segments = larger
        for i in range(min(pieces, int(math.ceil(come * pieces)))):
            part = min(1.0, come * pieces - i)
            row = segments[used]
            row[0], row[1], row[3] = points[i, 0], points[i, 1], shown * light[i]
            row[4] = points[i, 0] + part * (points[i + 1, 0] - points[i, 0])
            row[5] = points[i, 1] + part * (points[i + 1, 1] - points[i, 1])
            row[7] = shown * light[i + 1]
            row[2] = wide + (thin - wide) * i / pieces
            row[6] = wide + (thin - wide) * (i + part) / pieces
            if part == 1.0:
                row[4], row[5] = points[i + 1, 0], points[i + 1, 1]
            used += 1
        if pieces < _LEAST_PIECES:
            continue
        for i in range(count):
            a, b, _, _ = philox(i, 0, 0, 3, own0, own1)
            place = 0.06 + 0.82 * (i + uniform(a, b, 0, _BRANCH)) / count
            at = min(pieces - 1, max(1, int(round(place * pieces))))
            span = max(1, pieces // 8)
            behind, ahead = points[max(0, at - span)], points[min(pieces, at + span)]
            heading = math.atan2(ahead[1] - behind[1], ahead[0] - behind[0])
            side = 1.0 if uniform(a, b, 1, _BRANCH) < 0.5 else -1.0
            heading += side * branch_angle * (0.65 + 0.7 * uniform(a, b, 2, _BRANCH))
            heading += _SWAY * boiling_normal(a, b, 0, _ASTRAY, 0.35 * phase)
            share = 0.3 + 0.9 * uniform(a, b, 3, _BRANCH) ** 1.5
            reach = length * branch_reach * share * (1.1 - 0.6 * place)
            came = min(1.0, (come - place) / (_BRANCH_TIME * (1.0 - place)))
            if reach < 2 * finest or left >= _MOST_WAITING or came <= 0.0:
                continue
            strength = uniform(a, b, 4, _BRANCH)
            width = (wide + (thin - wide) * at / pieces) * branch_width * (0.8 + 0.4 * strength)
            shine = light[at] * branch_light * (0.8 + 0.4 * strength)
            x, y = points[at, 0], points[at, 1]
            waiting[left, 0], waiting[left, 1] = x, y
            waiting[left, 2] = x + reach * math.cos(heading)
            waiting[left, 3] = y + reach * math.sin(heading)
            waiting[left, 4], waiting[left, 5] = width, _TIP_WIDTH * width
            waiting[left, 6], waiting[left, 7] = shine, (1.0 - dying) * shine
            waiting[left, 8] = came
            keys[left, 0], keys[left, 1] = a, b
            counts[left, 0] = max(1, count // 2) if again > 0 else 0
            counts[left, 1] = again - 1
            left += 1
    return segments[:used]


@compiled
def _light_along(
    k0: Word,
    k1: Word,
    pieces: int,
    length: float,
    bright: float,
    dim: float,
    uneven: float,
    phase: float,
) -> NDArray[np.float64]:
    """Light at each vertex, from `bright` to `dim`, with a smooth dip for about every 90 px."""
    knots = 2 + int(min(length, 20000.0) / 90.0)
    dips = np.empty(knots + 1)
    for i in range(knots + 1):
        turn = 2.0 * phase + uniform(k0, k1, i, _WHEN_DIM)
        dips[i] = 0.5 - 0.5 * math.tanh(boiling_normal(k0, k1, i, _DIM, turn))
    light = np.empty(pieces + 1)
    for i in range(pieces + 1):
        place = i / pieces * knots
        knot = min(knots - 1, int(place))
        dip = dips[knot] + (place - knot) * (dips[knot + 1] - dips[knot])
        light[i] = (bright + (dim - bright) * i / pieces) * (1.0 - uneven * dip)
    return light
