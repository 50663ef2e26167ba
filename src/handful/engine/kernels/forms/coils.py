"""Strands that wind round a curve."""

from __future__ import annotations

import math

import numpy as np

from handful.engine.kernels.chance.hash import Key, Word, boiling_normal, uniform
from handful.engine.kernels.chance.purposes import LOOSE, SPREAD_OF_PACE, WHERE_ROUND
from handful.engine.kernels.compiled import compiled
from handful.engine.kernels.easing import smooth
from handful.engine.kernels.forms.curve import Curve, Points, Segments, laid_along

_PIECES_A_TURN = 36
_BACK = 0.45
"""Light of a strand behind the curve, of one before it."""

_MOST_PIECES = 4000


def coiled(
    curve: Curve,
    key: Key,
    count: int,
    radii: tuple[float, float],
    pitch: float,
    turned: float,
    loose: float,
    phase: float,
    width: float,
    reach: tuple[float, float],
    fades: tuple[float, float],
) -> Segments:
    """`count` strands round a curve, as segments one strand after the other, in px of the canvas.

    `radii` are how far they stand off at its two ends, `pitch` the length of a turn, `turned` the
    turns that they have travelled along. `loose` from 0 to 1 makes each go its own way, slowly
    changing with `phase`. They are drawn within `reach` along the curve only, and fade in and
    out over `fades`.
    """
    begin, end = max(0.0, reach[0]), min(curve.length, reach[1])
    if count == 0 or end <= begin:
        return np.empty((0, 8))
    pieces = min(_MOST_PIECES, max(8, math.ceil((end - begin) / pitch * _PIECES_A_TURN)))
    strands = []
    for strand in range(count):
        shape, shares = _strand(
            *key, strand, count, pieces, begin, end, curve.length, *radii, pitch, turned, loose,
            phase, *fades,
        )  # fmt: skip
        places = laid_along(shape, *curve)
        segments = np.empty((pieces, 8))
        segments[:, 0:2], segments[:, 4:6] = places[:-1], places[1:]
        segments[:, [2, 6]] = width
        segments[:, 3], segments[:, 7] = shares[:-1], shares[1:]
        strands.append(segments)
    return np.concatenate(strands)


@compiled
def _strand(
    k0: Word,
    k1: Word,
    strand: int,
    count: int,
    pieces: int,
    begin: float,
    end: float,
    length: float,
    near: float,
    far: float,
    pitch: float,
    turned: float,
    loose: float,
    phase: float,
    fade_in: float,
    fade_out: float,
) -> tuple[Points, Points]:
    """Places along and across, and the light of each."""
    shape = np.empty((pieces + 1, 2))
    shares = np.empty(pieces + 1)
    own = strand / count + loose * (uniform(k0, k1, strand, WHERE_ROUND) - 0.5)
    pace = 1.0 + 0.5 * loose * (uniform(k0, k1, strand, SPREAD_OF_PACE) - 0.5)
    for i in range(pieces + 1):
        s = begin + (end - begin) * i / pieces
        place = s / pitch * pace - turned
        knot = int(np.floor(place))
        part = place - knot
        part = smooth(part)
        wide, turn = 1.0, 0.0
        if loose > 0.0:
            first = boiling_normal(k0, k1, 64 * knot + strand, LOOSE, phase)
            second = boiling_normal(k0, k1, 64 * (knot + 1) + strand, LOOSE, phase)
            push = first + (second - first) * part
            wide = 1.0 + 0.45 * loose * math.tanh(push)
            turn = 0.2 * loose * push
        angle = 2.0 * math.pi * (place + own + turn)
        ends = min(1.0, min(s, length - s) / (0.35 * pitch))
        ends = math.sqrt(max(0.0, ends * (2.0 - ends)))
        shape[i, 0] = s
        shape[i, 1] = (near + (far - near) * s / length) * wide * ends * math.sin(angle)
        shares[i] = 0.5 * (1.0 + _BACK) + 0.5 * (1.0 - _BACK) * math.cos(angle)
        shares[i] *= _risen(s - begin, fade_in) * _risen(end - s, fade_out)
    return shape, shares


@compiled
def _risen(away: float, over: float) -> float:
    part = min(1.0, away / over) if over > 0.0 else 1.0
    return float(smooth(part))
