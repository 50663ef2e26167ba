"""Squares of water that repeat, laid on it in layers of several sizes, and what a row of a picture finds on them."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, compiled_along

Field = NDArray[np.float32]
Colours = tuple[float, float, float]

SECOND, TURNED = 0.271, 1.1
"""The waves are laid a second time so much smaller, and turned by so much, so that nothing repeats."""

THIRD, TURNED_ON = 0.047, 2.3
"""And ripples and foam a third time."""

FIRST_STRONG, SECOND_STRONG = 0.8, 0.6
"""How strong each is where there are no ripples: their squares are 1."""

_REACHES = 4
"""What is so far off, and up to twice as far, is seen in so many sizes at the most."""


class Slopes(NamedTuple):
    """A square of slopes in sizes that halve `(M, 2)`, each with its first row and column once more at its ends: where each
    begins, how wide it is without these, and how much of the square of each slope is lost in it `(L, 2)`."""

    slopes: Field
    starts: NDArray[np.int64]
    sides: NDArray[np.int64]
    lost: Field


class Finer(NamedTuple):
    """One of the sizes of a square: where it begins, and how wide it is."""

    begins: int
    side: int


class Layer(NamedTuple):
    """How a square lies on the water once more: so much smaller, and turned by radians."""

    small: float
    turned: float


class Eye(NamedTuple):
    """The point where the water vanishes, how far off a px is a px, and how many metres above the water it
    all is seen from, in px of the full-size canvas; how many metres the square of slopes is wide."""

    x: float
    y: float
    lens: float
    high: float
    side: float


class Along(NamedTuple):
    """A part of a row of a picture: how far its first px is aside, and the next from it, in px of the full size."""

    aside: float
    step: float


class Reach(NamedTuple):
    """How what is about so far off is looked at: in how many looks, and in which sizes of its layers."""

    looks: int
    level: int
    level2: int
    level3: int


def sizes_of(slopes: Field) -> Slopes:
    """Slopes `(N, N, 2)` on a square that repeats, N a power of two, in sizes that halve."""
    sizes, starts, levels = in_sizes(slopes, _halved)
    squares = [[float(np.vdot(part, part)) / part.size for part in np.moveaxis(level, 2, 0)] for level in levels]  # fmt: skip
    lost = np.maximum(0, np.array(squares[:1]) - squares).astype(np.float32)
    return Slopes(sizes, starts, np.array([len(level) for level in levels]), lost)


def in_sizes(
    square: Field, halved: Callable[[Field], Field]
) -> tuple[Field, NDArray[np.int64], list[Field]]:
    """A square `(N, N, ...)`, N a power of two, and what is left of it halved again and again, one behind the other with their
    first row and column once more at their ends; where each begins; and each as it is."""
    levels = [square]
    while len(levels[-1]) > 1:
        levels.append(halved(levels[-1]))
    starts = np.concatenate([[0], np.cumsum([(len(level) + 1) ** 2 for level in levels])])
    sizes = np.empty((starts[-1], *square.shape[2:]), np.float32)
    for level, start, end in zip(levels, starts, starts[1:], strict=False):
        to = sizes[start:end].reshape(len(level) + 1, len(level) + 1, *square.shape[2:])
        to[:-1, :-1], to[-1, :-1] = level, level[0]
        to[:, -1] = to[:, 0]
    return sizes, starts[:-1], levels


def _halved(finer: Field) -> Field:
    level = np.empty((len(finer) // 2, len(finer) // 2, 2), np.float32)
    _halve_rows(0, len(level), finer, level)
    return level


@compiled_along
def _halve_rows(first: int, last: int, finer: Field, level: Field) -> None:
    quarter = np.float32(0.25)
    for y in range(first, last):
        above, below, to = (
            finer[2 * y].reshape(-1),
            finer[2 * y + 1].reshape(-1),
            level[y].reshape(-1),
        )
        for x in range(level.shape[1]):
            for k in range(2):
                n = 4 * x + k
                to[2 * x + k] = quarter * (above[n] + above[n + 2] + below[n] + below[n + 2])


@compiled
def reach_number(far: float) -> int:
    """Which reach what is so far off is in."""
    return int(math.floor(math.log2(far) * _REACHES))


@compiled
def parts_in(fars: Field, parts: NDArray[np.int64]) -> int:
    """How many parts of a row there are that lie in one reach each, where each begins and ends, and in which `(W, 3)`; what
    is nowhere is in none."""
    count, x, width = 0, 0, fars.shape[0]
    while x < width:
        if fars[x] <= np.float32(0.0):
            x += 1
            continue
        number, begin = reach_number(fars[x]), x
        nearest = np.float32(math.pow(2.0, number / _REACHES))
        farthest = np.float32(math.pow(2.0, (number + 1) / _REACHES))
        x += 1
        while x < width and nearest <= fars[x] < farthest:
            x += 1
        parts[count, 0], parts[count, 1], parts[count, 2] = begin, x, number
        count += 1
    return count


@compiled
def reach_of(
    number: int, scale: float, eye: Eye, sides: NDArray[np.int64], most_looks: int, layers: int
) -> Reach:
    """How what is in a reach is looked at: in no more looks than the smallest of so many layers holds anything for."""
    far = math.pow(2.0, (number + 0.5) / _REACHES)
    across = far / eye.lens / scale
    deep = far * far / (eye.lens * eye.high) / scale
    most, cell = sides.shape[0] - 1, eye.side / sides[0]
    finest = cell * (SECOND if layers == 2 else THIRD)
    looks = int(max(1.0, min(float(most_looks), deep / across, math.ceil(deep / finest))))
    fine = math.log2(max(across, deep / looks) / cell)
    sizes = [
        min(most, int(max(0.0, fine - math.log2(small)) + 0.5)) for small in (1.0, SECOND, THIRD)
    ]
    return Reach(looks, sizes[0], sizes[1], sizes[2])


@compiled_along
def _between(
    fars: Field,
    aside: np.float32,
    step: np.float32,
    cosine: np.float32,
    sine: np.float32,
    size: Finer,
    firsts: NDArray[np.int32],
    behind: Field,
) -> None:
    """Along a row of a picture, of what lies so far off on a square in its parts: the first of the four that each px is
    between, and how far behind it that is across and down `(2, W)`."""
    wide, last, begin = np.int32(size.side + 1), np.int32(size.side - 1), np.int32(size.begins)
    half = np.float32(0.5)
    right, below = behind[0], behind[1]
    for x in range(firsts.shape[0]):
        far, t = fars[x], aside + np.float32(np.int32(x)) * step
        a, b = far * (t * cosine - sine) - half, far * (t * sine + cosine) - half
        left, top = np.floor(a), np.floor(b)
        right[x], below[x] = a - left, b - top
        i, j = np.int32(np.int32(left) & last), np.int32(np.int32(top) & last)
        firsts[x] = np.int32(begin + np.int32(np.int32(j * wide) + i))


@compiled
def find(
    eye: Eye,
    size: Finer,
    layer: Layer,
    along: Along,
    fars: Field,
    firsts: NDArray[np.int32],
    behind: Field,
) -> None:
    """Where on a layer of a square what is so far off along a row lies, in one of its sizes."""
    by = size.side / (eye.side * layer.small)
    _between(
        fars, np.float32(along.aside / eye.lens), np.float32(along.step / eye.lens),
        np.float32(math.cos(layer.turned) * by), np.float32(math.sin(layer.turned) * by), size,
        firsts, behind,
    )  # fmt: skip


@compiled
def take(flat: Field, side: int, firsts: NDArray[np.int32], behind: Field, pairs: Field) -> None:
    """The two slopes straight between the four places about each px, one after the other `(2 W,)`."""
    one, two, three, below = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(2 * (side + 1))
    for x in range(firsts.shape[0]):
        i, k = np.uint64(firsts[x]) * two, np.uint64(x) * two
        j = i + below
        s, t = behind[0, x], behind[1, x]
        a = flat[i] + t * (flat[j] - flat[i])
        b = flat[i + one] + t * (flat[j + one] - flat[i + one])
        c = flat[i + two] + t * (flat[j + two] - flat[i + two])
        d = flat[i + three] + t * (flat[j + three] - flat[i + three])
        pairs[k], pairs[k + one] = a + s * (c - a), b + s * (d - b)


@compiled
def add_taken(
    places: Field,
    side: int,
    firsts: NDArray[np.int32],
    behind: Field,
    strong: np.float32,
    taken: Field,
) -> None:
    """Add what a square of one value for each place holds straight between the four about each px `(W,)`."""
    one, below = np.uint64(1), np.uint64(side + 1)
    for x in range(firsts.shape[0]):
        i = np.uint64(firsts[x])
        j = i + below
        s, t = behind[0, x], behind[1, x]
        a = places[i] + t * (places[j] - places[i])
        c = places[i + one] + t * (places[j + one] - places[i + one])
        taken[x] += strong * (a + s * (c - a))
