"""Light through water, waves in a tank, and what grows by reaction."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np

from bench.rows import Row, judged, median_seconds
from handful.engine import Cache, read_recipe, render_frame
from handful.engine.kernels.fluid.reaction import react
from handful.engine.kernels.fluid.tank import ripple
from handful.engine.picture import Region, blank


def liquid() -> Iterator[Row]:
    """A frame of caustics at 1920 x 1080, rays and all, with its colours apart and without, and of open water; a step of a
    ripple tank, and one of reaction and diffusion.

    Aims are judged as copies of a picture in the same run, where one takes 4.5 ms.
    """
    copying = median_seconds(blank(Region(0, 0, 1920, 1080)).copy, 9)
    for name, spread in (("caustics as they come", 2), ("caustics of one colour", 0)):
        taken = median_seconds(_frames("caustics", spread=spread), 5)
        yield judged(name, taken, copying, 60)
    yield judged("open water as it comes", median_seconds(_frames("water"), 5), copying, 80)
    water, none = np.zeros((288, 512), np.float32), np.zeros((288, 512), np.float32)
    taken = median_seconds(lambda: ripple(water, water, none, 0.5, 0.01, 20), 21)
    yield judged("one step of a tank of 512 x 288", taken, copying, 2)
    feeds = np.ones((216, 384), np.float32)
    taken = median_seconds(lambda: react(feeds, feeds, feeds, 0.037, 0.06), 21)
    yield judged("one step of growth on 384 x 216", taken, copying, 2)


def _frames(kind: str, **settings: Any) -> Any:
    """What makes another frame each time."""
    layer = {"id": "water", "name": "Water", "source": {"kind": kind, **settings}}
    recipe = read_recipe({"version": 2, "name": "Water", "layers": [layer]})
    frames = iter(range(recipe.canvas.first, recipe.canvas.last))
    return lambda: render_frame(recipe, next(frames), 1.0, Cache(0))
