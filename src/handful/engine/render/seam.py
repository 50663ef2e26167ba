"""Whether a shot loops: how its last frame meets its first one."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from handful.engine.recipe import Recipe
from handful.engine.render.cache import Cache
from handful.engine.render.frame import render_frame
from handful.engine.render.plan import LEAST_SCALE

_WIDTH = 240
_MOST_PAIRS = 24
_STANDS_OUT = 1.5
"""How many times the usual change a seam may be."""

_UNSEEN = 0.0005
"""A change of the signal, as a mean over the picture, that nobody sees at a seam."""


class Seam(NamedTuple):
    """How much the picture changes from the last frame to the first, and usually between two in a
    row: mean changes of the signal, 1 from black to white. `holds` if the seam does not stand out."""

    change: float
    usual: float
    holds: bool


def seam_of(recipe: Recipe, cache: Cache) -> Seam:
    """Measure the seam of a shot that is played round and round, on small pictures.

    It stands out where it changes the picture by half as much again as the greater changes between
    frames that follow one another do, those above nine tenths of up to 24 spread over the shot.
    """
    canvas = recipe.canvas
    scale = min(1.0, max(LEAST_SCALE, _WIDTH / canvas.width))

    def signal(frame: int) -> np.ndarray:
        light = render_frame(recipe, frame, scale, cache)[..., :3]
        return np.sqrt(np.clip(light, 0, 1))

    def change(one: int, other: int) -> float:
        return float(np.abs(signal(one) - signal(other)).mean())

    count = min(_MOST_PAIRS, canvas.length - 1)
    starts = np.unique(
        np.linspace(canvas.first, canvas.last - 1, max(1, count)).round().astype(int)
    )
    steps = [change(frame, frame + 1) for frame in starts.tolist() if frame < canvas.last]
    usual = float(np.quantile(steps, 0.9)) if steps else 0.0
    at_seam = change(canvas.last, canvas.first)
    return Seam(at_seam, usual, at_seam <= max(_STANDS_OUT * usual, _UNSEEN))
