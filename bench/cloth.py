"""Bringing a sheet of cloth on, and drawing it."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Any

from bench.rows import Row, judged, median_seconds
from handful.engine import read_recipe
from handful.engine.kinds import At, Stretch
from handful.engine.picture import Region, blank
from handful.engine.render.resolve import Resolver, Take
from handful.engine.sources.cloth.cloth import Cloth

RATE = 25
WARM_FRAMES = 20


def cloth() -> Iterator[Row]:
    """A step of 96 x 96 points, a whole frame of it, and its picture at 1920 x 1080 and half of that.

    Aims are judged as copies of a picture in the same run, where one takes 4.5 ms.
    """
    whole = Region(0, 0, 1920, 1080)
    copying = median_seconds(blank(whole).copy, 9)
    made = _made(detail=96)
    at = At(whole, 1.0, (1, "cloth"), whole)
    state: Any = made.begin(at)
    for frame in range(WARM_FRAMES):
        state = made.advance(state, at, _stretch(made, frame / RATE))
    one = _stretch(made, 1.0)._replace(steps=1)
    taken = median_seconds(partial(made.advance, state, at, one), 9)
    yield judged("one step of 96 x 96", taken, copying, 8)
    taken = median_seconds(partial(made.advance, state, at, _stretch(made, 1.0)), 5)
    yield judged("one frame of 96 x 96", taken, copying, 60)
    for scale, aim in ((1.0, 40), (0.5, 40)):
        shown = Region(0, 0, round(1920 * scale), round(1080 * scale))
        seen = At(shown, scale, (1, "cloth"), shown)
        taken = median_seconds(partial(made.drawn_from, state, seen, 1.0, 0.0), 5)
        yield judged(f"drawing at {shown.width} x {shown.height}", taken, copying, aim)


def _made(**settings: Any) -> Cloth:
    layer = {"id": "cloth", "name": "Cloth", "source": {"kind": "cloth", **settings}}
    recipe = read_recipe({"version": 3, "name": "Cloth", "layers": [layer]})
    source = Resolver(recipe).source(recipe.layers[0], Take.of(1001))
    assert isinstance(source, Cloth)
    return source


def _stretch(made: Cloth, seconds: float) -> Stretch:
    return Stretch(seconds, seconds, RATE, made.steps(RATE), made)
