"""What a row of a picture finds on a water: how it slopes, as far as that is seen from so far off."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled, compiled_along
from handful.engine.kernels.drawing.sea.squares import (
    FIRST_STRONG,
    SECOND,
    SECOND_STRONG,
    THIRD,
    TURNED,
    TURNED_ON,
    Along,
    Eye,
    Field,
    Finer,
    Layer,
    Reach,
    Slopes,
    find,
    take,
)
from handful.engine.kernels.drawing.sea.standing import Heights

_RIPPLED = 0.33
"""How strong ripples are at the most, where waves are 1."""

_SEEN = 0.2
"""Where less is left of them, they are not looked at."""

_AS_NONE = 1e-7
"""Slopes with a smaller mean square are as none."""


class Water(NamedTuple):
    """A square of water at a moment: how it slopes, how high it is, and how many of all ripples there are on it."""

    slopes: Slopes
    heights: Heights
    ripples: float


class Waves(NamedTuple):
    """The slopes of all that is on a water, and how strong its waves, their smaller ones and its ripples are in these: the
    sum of the squares is 1."""

    slopes: Slopes
    large: float
    small: float
    ripples: float


def waves_of(water: Water) -> Waves:
    """What slopes on a water."""
    ripples = _RIPPLED * water.ripples
    left = math.sqrt(1 - ripples * ripples)
    return Waves(water.slopes, left * FIRST_STRONG, left * SECOND_STRONG, ripples)


class Room(NamedTuple):
    """Room for what is found along a part of a row of a picture, and how far off each of its px is and how deep what that
    shows."""

    firsts: NDArray[np.int32]
    behind: Field
    first: Field
    second: Field
    third: Field
    tilted: Field
    shines: Field
    whites: Field
    facing: Field
    reflected: Field
    looked: Field
    fars: Field
    deeps: Field


@compiled
def room_for(width: int) -> Room:
    """Room for a row of so many px."""
    two, twice, kind = (2, width), 2 * width, np.float32
    return Room(
        np.empty(width, np.int32), np.empty(two, kind), np.empty(twice, kind), np.empty(twice, kind),
        np.empty(twice, kind), np.empty(two, kind), np.empty((3, width), kind), np.empty(width, kind),
        np.empty(width, kind), np.empty(width, kind), np.empty(width, kind), np.empty(width, kind),
        np.empty(width, kind),
    )  # fmt: skip


@compiled_along
def set_off(near: Field, a_row: np.float32, fars: Field, deeps: Field) -> None:
    """How far off what is seen along a row is, and how deep a px of it: what is not seen is nowhere."""
    zero, one = np.float32(0.0), np.float32(1.0)
    for x in range(near.shape[0]):
        far = one / near[x] if near[x] > zero else zero
        fars[x], deeps[x] = far, far * far * a_row


@compiled
def part_of(room: Room, x0: int, x1: int) -> Room:
    """Room for a part of a row, of which it is known how far off it is."""
    n = x1 - x0
    return Room(
        room.firsts[:n], _rows(room.behind, n), room.first[: 2 * n], room.second[: 2 * n],
        room.third[: 2 * n], _rows(room.tilted, n), _rows(room.shines, n), room.whites[:n],
        room.facing[:n], room.reflected[:n], room.looked[:n], room.fars[x0:x1], room.deeps[x0:x1],
    )  # fmt: skip


@compiled
def _rows(field: Field, width: int) -> Field:
    """Rows of a field as they are when each is only so wide, one right behind the other."""
    return field.reshape(-1)[: field.shape[0] * width].reshape(field.shape[0], width)


@compiled
def look(
    n: int,
    reach: Reach,
    of: Slopes,
    flat: Field,
    eye: Eye,
    along: Along,
    is_laced: bool,
    room: Room,
) -> None:
    """What a square holds in one of the looks along a part of a row: as it is, smaller, and once more if it is laced."""
    _go_on(room.fars, room.deeps, np.float32((n + 0.5) / reach.looks - 0.5), room.looked)
    size = Finer(of.starts[reach.level], of.sides[reach.level])
    find(eye, size, Layer(1.0, 0.0), along, room.looked, room.firsts, room.behind)
    take(flat, size.side, room.firsts, room.behind, room.first)
    size = Finer(of.starts[reach.level2], of.sides[reach.level2])
    find(eye, size, Layer(SECOND, TURNED), along, room.looked, room.firsts, room.behind)
    take(flat, size.side, room.firsts, room.behind, room.second)
    if is_laced:
        size = Finer(of.starts[reach.level3], of.sides[reach.level3])
        find(eye, size, Layer(THIRD, TURNED_ON), along, room.looked, room.firsts, room.behind)
        take(flat, size.side, room.firsts, room.behind, room.third)


@compiled
def look_at_waves(
    n: int, reach: Reach, waves: Waves, flat: Field, eye: Eye, along: Along, room: Room
) -> None:
    """How waves slope in one of the looks along a part of a row."""
    is_rippled = _is_rippled(reach, waves)
    look(n, reach, waves.slopes, flat, eye, along, is_rippled, room)
    _tilt(room.first, room.second, waves.large, waves.small, room.tilted)
    if is_rippled:
        _ripple(room.third, waves.ripples, room.tilted)


@compiled_along
def _go_on(fars: Field, deeps: Field, part: np.float32, looked: Field) -> None:
    """How far off what is looked at in each px is: part of a px on from its middle."""
    for x in range(fars.shape[0]):
        looked[x] = fars[x] + part * deeps[x]


@compiled_along
def _tilt(first: Field, second: Field, large: float, small: float, tilted: Field) -> None:
    """Two layers of waves as one: the second is turned."""
    strong = np.float32(large)
    turned, askew = np.float32(small * math.cos(TURNED)), np.float32(small * math.sin(TURNED))
    across, away = tilted[0], tilted[1]
    for x in range(np.uint64(across.shape[0])):
        i, j = np.uint64(2) * x, np.uint64(2) * x + np.uint64(1)
        across[x] = strong * first[i] + turned * second[i] + askew * second[j]
        away[x] = strong * first[j] + turned * second[j] - askew * second[i]


@compiled_along
def _ripple(third: Field, strong: float, tilted: Field) -> None:
    """Add ripples to them."""
    turned = np.float32(strong * math.cos(TURNED_ON))
    askew = np.float32(strong * math.sin(TURNED_ON))
    across, away = tilted[0], tilted[1]
    for x in range(np.uint64(across.shape[0])):
        i, j = np.uint64(2) * x, np.uint64(2) * x + np.uint64(1)
        across[x] += turned * third[i] + askew * third[j]
        away[x] += turned * third[j] - askew * third[i]


@compiled
def _is_rippled(reach: Reach, waves: Waves) -> bool:
    """Whether ripples are seen in a reach."""
    lost, all = waves.slopes.lost[reach.level3], waves.slopes.lost[-1]
    seen: bool = lost[0] + lost[1] <= (1.0 - _SEEN) * (all[0] + all[1]) + _AS_NONE
    return seen and waves.ripples > 0.0


@compiled
def unseen(reach: Reach, waves: Waves) -> float:
    """The mean square of what is lost of slopes in the sizes that are seen of a reach."""
    lost = waves.slopes.lost
    first, second = lost[reach.level], lost[reach.level2]
    third = lost[reach.level3 if _is_rippled(reach, waves) else -1]
    whole: float = waves.large * waves.large * (first[0] + first[1])
    whole += waves.small * waves.small * (second[0] + second[1])
    whole += waves.ripples * waves.ripples * (third[0] + third[1])
    return 0.5 * whole
