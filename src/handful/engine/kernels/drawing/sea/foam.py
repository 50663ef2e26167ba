"""Foam: where waves push water together, and what is left of it behind them."""

from __future__ import annotations

import math
from statistics import NormalDist
from typing import NamedTuple

import numpy as np

from handful.engine.kernels.compiled import compiled, compiled_along
from handful.engine.kernels.drawing.sea.squares import Colours, Field, Reach, Slopes
from handful.engine.kernels.fading import fades

_SOFT_FOAM = 0.5
"""How softly foam begins, of how much water is pushed together as a rule."""

_LEAST_FOAM = 1e-9
"""Foam that covers less of the water is as this: it is not seen, and less could not be told from none."""

_THIN = 0.7
"""How white what is left of foam is."""

_LARGE, _SMALL, _FINEST = 0.76, 0.56, 0.33
"""How strong each layer is in what pushes water together: the sum of squares is 1."""

_TORN = 2.2
"""By what power of e the finest tears what is left of foam."""

_AS_NORMAL = 1.702
"""What makes the logistic curve the nearest to the integral of the normal one."""


class Foam(NamedTuple):
    """How much water is pushed together, and how much of it is covered by foam that is left from before, on the square that
    the slopes are on; how much of the water new foam covers, and its light."""

    folds: Slopes
    covers: float
    light: Colours

    def begins(self) -> float:
        """From how much on there is foam."""
        return foam_begins(self.covers) if self.covers > 0 else math.inf


def foam_begins(covers: float) -> float:
    """From how much on water that is pushed together is foam, so that this covers so much of it: what is pushed together
    is spread as a normal curve, and the edge of foam as another."""
    return NormalDist(0, math.sqrt(1 + _SOFT_FOAM**2)).inv_cdf(1 - max(covers, _LEAST_FOAM))


def foam_on(folds: Field, covers: float) -> Field:
    """How much of each place is new foam, where water is pushed together so much."""
    off = (folds - np.float32(foam_begins(covers))) * np.float32(-_AS_NORMAL / _SOFT_FOAM)
    foam: Field = 1 / (1 + np.exp(np.minimum(off, 60)))
    return foam


@compiled
def softened(reach: Reach, lost: Field) -> np.float32:
    """How softly foam begins in a reach: by itself, and for what is not seen of its layers there."""
    square = _SOFT_FOAM * _SOFT_FOAM
    square += _LARGE * _LARGE * lost[reach.level, 0] + _SMALL * _SMALL * lost[reach.level2, 0]
    return np.float32(math.sqrt(square + _FINEST * _FINEST * lost[reach.level3, 0]))


@compiled_along
def whiten(
    first: Field, second: Field, third: Field, begins: np.float32, soft: np.float32, covers: Field
) -> None:
    """Add how much of each px is foam along a row, from its three layers: where water is pushed together by more than so
    much, and in part where foam is left, which the finest tears. How much of what pushes is not seen makes the edge as soft
    (Dupuy and Bruneton, "Real-time animation and rendering of ocean whitecaps", SIGGRAPH Asia technical briefs 2012)."""
    zero, one, thin, by = (
        np.float32(0.0),
        np.float32(1.0),
        np.float32(_THIN),
        np.float32(_AS_NORMAL) / soft,
    )
    large, small, finest, torn = (
        np.float32(_LARGE),
        np.float32(_SMALL),
        np.float32(_FINEST),
        np.float32(_TORN),
    )
    for x in range(np.uint64(covers.shape[0])):
        i = np.uint64(2) * x
        lace = third[i]
        off = by * (large * first[i] + small * second[i] + finest * lace - begins)
        far = fades(abs(off))
        fresh = (one if off > zero else far) / (one + far)
        left = first[i + np.uint64(1)]
        tear = fades(abs(torn * lace))
        more, less = (left, tear) if lace > zero else (left * tear, one)
        old = thin * more / (more + less * (one - left))
        covers[x] += fresh + old * (one - fresh)
