"""The counter-based hash behind all randomness: Philox 4x32-10.

Salmon, Moraes, Dror and Shaw, "Parallel random numbers: as easy as 1, 2, 3", SC 2011. A number
is a pure function of a key and a counter, never of what was drawn before.
"""

from __future__ import annotations

import math
from hashlib import blake2b
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.easing import smooth

Word = int | np.uint64

_LOW = np.uint64(0xFFFFFFFF)
_MULTIPLIER_0 = np.uint64(0xD2511F53)
_MULTIPLIER_1 = np.uint64(0xCD9E8D57)
_WEYL_0 = np.uint64(0x9E3779B9)
_WEYL_1 = np.uint64(0xBB67AE85)
_SHIFT = np.uint64(32)
_UNIT = 1.0 / 4294967296.0


class Key(NamedTuple):
    """Two 32-bit words that say which stream of numbers is meant."""

    first: int
    second: int


def key_for(*parts: object) -> Key:
    """The key for a purpose, from anything that names it: `key_for(seed, layer, "path")`."""
    digest = blake2b("\x1f".join(str(part) for part in parts).encode(), digest_size=8).digest()
    return Key(int.from_bytes(digest[:4], "little"), int.from_bytes(digest[4:], "little"))


@compiled
def philox(
    c0: int, c1: int, c2: int, c3: int, k0: Word, k1: Word
) -> tuple[np.uint64, np.uint64, np.uint64, np.uint64]:
    """Four 32-bit words (in uint64) for a counter of four words and a key of two."""
    a, b, c, d = (
        np.uint64(c0) & _LOW,
        np.uint64(c1) & _LOW,
        np.uint64(c2) & _LOW,
        np.uint64(c3) & _LOW,
    )
    key0, key1 = np.uint64(k0) & _LOW, np.uint64(k1) & _LOW
    for _ in range(10):
        product0 = _MULTIPLIER_0 * a
        product1 = _MULTIPLIER_1 * c
        a = (product1 >> _SHIFT) ^ b ^ key0
        c = (product0 >> _SHIFT) ^ d ^ key1
        b = product1 & _LOW
        d = product0 & _LOW
        key0 = (key0 + _WEYL_0) & _LOW
        key1 = (key1 + _WEYL_1) & _LOW
    return a, b, c, d


@compiled
def uniform(k0: Word, k1: Word, index: int, purpose: int) -> float:
    """A number in [0, 1) for an index; `purpose` keeps several uses of one key apart."""
    return float(philox(index, purpose, 0, 1, k0, k1)[0]) * _UNIT


@compiled
def uniforms(k0: Word, k1: Word, count: int, purpose: int) -> NDArray[np.float64]:
    """The numbers `(count,)` of the first indices."""
    numbers = np.empty(count)
    for i in range(count):
        numbers[i] = uniform(k0, k1, i, purpose)
    return numbers


@compiled
def normal(k0: Word, k1: Word, index: int, purpose: int, turn: int) -> float:
    """A standard normal number (Box and Muller 1958) for an index, at a whole `turn` of boil."""
    a, b, _, _ = philox(index, purpose, turn, 2, k0, k1)
    radius = math.sqrt(-2.0 * math.log((float(a) + 0.5) * _UNIT))
    return radius * math.cos(2.0 * math.pi * float(b) * _UNIT)


@compiled
def boiling_normal(k0: Word, k1: Word, index: int, purpose: int, phase: float) -> float:
    """A standard normal number that changes smoothly with `phase`, a new one at each whole turn.

    Two independent normals are mixed by the sine and cosine of an eased angle, so that the
    variance is 1 at every phase and nothing pops or breathes.
    """
    turn = int(np.floor(phase))
    part = phase - turn
    angle = 0.5 * math.pi * smooth(part)
    return math.cos(angle) * normal(k0, k1, index, purpose, turn) + math.sin(angle) * normal(
        k0, k1, index, purpose, turn + 1
    )


def level_at(key: Key, phase: float, ease: float = 1.0) -> float:
    """A random level from -1 to 1 at each whole `phase`, and a smooth step from one to the next.

    `ease` is the part of the time spent on the way, from nothing to 1; before it the level holds.
    """
    whole = math.floor(phase)
    ease = max(ease, 1e-6)
    part = min(1.0, max(0.0, (phase - whole - 1.0 + ease) / ease))
    # Counters are words, and go on from nothing after so many turns.
    first, second = (2 * uniform(*key, (whole + i) & int(_LOW), 0) - 1 for i in (0, 1))
    return float(first + (second - first) * smooth(part))
