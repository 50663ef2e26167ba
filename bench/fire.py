"""Bringing a fire on, and drawing it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import Any

from bench.rows import Row, judged, median_seconds
from handful.engine import Cache, read_recipe, render_frame
from handful.engine.kinds import At, Stretch
from handful.engine.picture import Region, blank
from handful.engine.render.resolve import Resolver, Take
from handful.engine.sources.fire import Fire

RATE = 25
WARM_FRAMES = 12
FRAMES = 250
MOST_MEGABYTES = 1536.0


def fire() -> Iterator[Row]:
    """One step of two grids, drawing at 960 x 540, and the memory of ten seconds of states.

    Aims are judged as copies of a picture in the same run, where one takes 4.5 ms.
    """
    copying = median_seconds(blank(Region(0, 0, 1920, 1080)).copy, 9)
    for rows, columns, aim in ((288, 192, 14), (576, 384, 60)):
        made = _made(detail=rows, room=1000, breadth=round(1000 * columns / rows), sheets=1)
        state, at = _burning(made)
        taken = median_seconds(partial(made.advance, state, at, _stretch(made, 1.0, 1)), 5)
        yield judged(f"one step of {columns} x {rows}", taken, copying, aim)
    made = _made()
    state, _ = _burning(made)
    shown = At(Region(0, 0, 960, 540), 0.5, (1, "fire"), Region(0, 0, 960, 540))
    taken = median_seconds(lambda: made.drawn_from(state, shown, 1.0, 0.0), 5)
    yield judged("drawing as it comes at 960 x 540", taken, copying, 25)
    taken = median_seconds(lambda: made.advance(state, shown, _stretch(made, 1.0)), 3)
    yield judged("one frame as it comes", taken, copying, 120)
    yield judged(
        "the quick flame as it comes at 960 x 540", median_seconds(_flames(), 9), copying, 60
    )
    megabytes = FRAMES * sum(array.nbytes for array in state) / 1e6
    yield Row(
        f"states of {FRAMES} frames", f"{megabytes:.0f} MB", "", megabytes, f"≤ {MOST_MEGABYTES:g} MB",
        megabytes <= MOST_MEGABYTES,
    )  # fmt: skip


def _flames() -> Callable[[], Any]:
    """What makes another frame of the quick flame each time."""
    layer = {"id": "flame", "name": "Flame", "source": {"kind": "flame"}}
    recipe = read_recipe({"version": 3, "name": "Flame", "layers": [layer]})
    frames = iter(range(recipe.canvas.first, recipe.canvas.last))
    return lambda: render_frame(recipe, next(frames), 0.5, Cache(0))


def _made(**settings: Any) -> Fire:
    layer = {"id": "fire", "name": "Fire", "source": {"kind": "fire", **settings}}
    recipe = read_recipe({"version": 3, "name": "Fire", "layers": [layer]})
    source = Resolver(recipe).source(recipe.layers[0], Take.of(1001))
    assert isinstance(source, Fire)
    return source


def _stretch(made: Fire, seconds: float, steps: int | None = None) -> Stretch:
    """A frame from a moment on, or so many of its steps."""
    return Stretch(seconds, seconds, RATE, steps or made.steps(RATE), made)


def _burning(made: Fire) -> tuple[Any, At]:
    """A state of a fire that burns already, and where its random numbers come from."""
    at = At(Region(0, 0, 0, 0), 1.0, (1, "fire"))
    state = made.begin(at)
    for frame in range(WARM_FRAMES):
        state = made.advance(state, at, _stretch(made, frame / RATE))
    for array in state:
        array.flags.writeable = False
    return state, at
