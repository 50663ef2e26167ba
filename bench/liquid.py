"""Light through water."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from bench.rows import Row, judged, median_seconds
from handful.engine import Cache, read_recipe, render_frame
from handful.engine.picture import Region, blank


def liquid() -> Iterator[Row]:
    """A frame of caustics at 1920 x 1080, rays and all, with its colours apart and without."""
    copying = median_seconds(blank(Region(0, 0, 1920, 1080)).copy, 9)
    for name, spread in (("caustics as they come", 2), ("caustics of one colour", 0)):
        yield judged(name, median_seconds(_frames(spread=spread), 5), copying, 60)


def _frames(**settings: Any) -> Any:
    """What makes another frame each time."""
    layer = {"id": "net", "name": "Net", "source": {"kind": "caustics", **settings}}
    recipe = read_recipe({"version": 2, "name": "Net", "layers": [layer]})
    frames = iter(range(recipe.canvas.first, recipe.canvas.last))
    return lambda: render_frame(recipe, next(frames), 1.0, Cache(0))
