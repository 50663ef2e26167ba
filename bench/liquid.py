"""Light through water, waves in a tank, what grows by reaction, what is molten, and drops."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Any

import numpy as np

from bench.rows import Row, judged, median_seconds
from handful.engine import Cache, read_recipe, render_frame
from handful.engine.kernels.fluid.reaction import react
from handful.engine.kernels.fluid.tank import ripple
from handful.engine.kinds import At, State, Stretch
from handful.engine.picture import Region, blank
from handful.engine.render.resolve import Resolver, Take
from handful.engine.sources.molten import Molten

RATE = 25


def liquid() -> Iterator[Row]:
    """A frame of caustics at 1920 x 1080, rays and all, with its colours apart and without, and of open water; a step of a
    ripple tank, one of reaction and diffusion, and one of what is molten; and a frame of drops.

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
    made, state, at = _poured()
    taken = median_seconds(lambda: made.advance(state, at, _stretch(made, 2.0)), 9)
    yield judged("one step of what is molten on 384 x 216", taken, copying, 6)
    shown = At(Region(0, 0, 960, 540), 0.5, (1, "melt"), Region(0, 0, 960, 540))
    for seconds, name in ((1.0, "drawing it at 960 x 540"), (2.0, "where its skin is made anew")):
        taken = median_seconds(partial(made.drawn_from, state, shown, seconds, 0.0), 5)
        yield judged(name, taken, copying, 60)
    yield judged("drops as they come", median_seconds(_frames("drops"), 5), copying, 60)


def _poured() -> tuple[Molten, State, At]:
    """A state of what has been poured for two seconds, and stirred."""
    source = {"kind": "molten", "detail": 384, "stands": 20, "stirs": 30, "preroll": 0}
    layer = {"id": "melt", "name": "Melt", "source": source}
    recipe = read_recipe({"version": 3, "name": "Melt", "layers": [layer]})
    made = Resolver(recipe).source(recipe.layers[0], Take.of(1001))
    assert isinstance(made, Molten)
    at = At(Region(0, 0, 0, 0), 1.0, (1, "melt"))
    state = made.begin(at)
    for frame in range(50):
        state = made.advance(state, at, _stretch(made, frame / RATE))
    return made, state, at


def _stretch(made: Molten, seconds: float) -> Stretch:
    return Stretch(seconds, seconds, RATE, 1, made)


def _frames(kind: str, **settings: Any) -> Any:
    """What makes another frame each time."""
    layer = {"id": "water", "name": "Water", "source": {"kind": kind, **settings}}
    recipe = read_recipe({"version": 3, "name": "Water", "layers": [layer]})
    frames = iter(range(recipe.canvas.first, recipe.canvas.last))
    return lambda: render_frame(recipe, next(frames), 1.0, Cache(0))
