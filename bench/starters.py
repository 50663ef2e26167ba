"""Every starter: frames a second at full size, and from a changed setting to a picture on its way."""

from __future__ import annotations

import json
import random
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from bench.rows import COPY_MS, Row, median_seconds, milliseconds
from bench.shots import CACHE_BYTES, change_one, count_nodes, encoded
from handful.engine import Cache, Recipe, read_recipe, render_frame
from handful.engine.kinds import At
from handful.engine.picture import Region
from handful.engine.recipe import spans
from handful.engine.render import plan
from handful.engine.render.resolve import Resolver, Take
from handful.engine.render.view import as_jpeg

STARTERS = Path(__file__).parents[1] / "starters"
FRAMES, CHANGES = 12, 40
LEAST_RATE, MOST_MEDIAN, MOST_LATE, MOST_BOLT = 6.0, 0.060, 0.150, 0.030


def starters(part: str = "") -> Iterator[Row]:
    """Frames beside copying the picture once for each node, and changes beside copies; of all starters, or of
    one, or a family."""
    picture = np.zeros((1080, 1920, 4), np.float32)
    copy = median_seconds(picture.copy, 9)
    for path in sorted(STARTERS.glob("*/*.json")):
        if part in ("", path.stem, path.parent.name):
            data = json.loads(path.read_text())
            yield _frames(data, copy)
            yield _changes(data, copy)
    if not part:
        yield _long_bolt(copy)


def _frames(data: dict[str, Any], copy: float) -> Row:
    """Frames spread over the time that something shows."""
    recipe, cache = read_recipe(data), Cache(CACHE_BYTES)
    frames = _shown(recipe)
    render_frame(recipe, frames[0], 1.0, cache)
    begun, nodes = time.perf_counter(), 0
    for frame in frames:
        nodes += count_nodes(plan(recipe, frame))
        render_frame(recipe, frame, 1.0, cache)
    taken = time.perf_counter() - begun
    rate, copying = len(frames) / taken, copy * nodes
    return Row(
        f"{recipe.name}, 1920 × 1080", f"{rate:.1f} frames/s",
        f"{len(frames) / copying:.1f} frames/s of copying", taken / copying,
        f"≥ {LEAST_RATE:g} frames/s", rate >= LEAST_RATE,
    )  # fmt: skip


def _changes(data: dict[str, Any], copy: float) -> Row:
    """Settings changed one after the other at half size, beside copies of a whole picture in the same run."""
    choose, cache = random.Random(7), Cache(CACHE_BYTES)
    frame = _shown(read_recipe(data))[FRAMES // 2]
    encoded(data, frame, cache)
    taken = []
    for _ in range(CHANGES):
        change_one(data, choose)
        begun = time.perf_counter()
        as_jpeg(encoded(data, frame, cache))
        taken.append(time.perf_counter() - begun)
    middle, late = (float(np.percentile(taken, share)) / copy for share in (50, 95))
    most, most_late = (1000 * aim / COPY_MS for aim in (MOST_MEDIAN, MOST_LATE))
    shown = f"{milliseconds(middle * copy)} / {milliseconds(late * copy)}"
    return Row(
        "  a change at 960 × 540, median / 95th", shown, f"{milliseconds(copy)} a copy", middle,
        f"≤ {most:.1f} / {most_late:.1f} copies", middle <= most and late <= most_late,
    )  # fmt: skip


def _long_bolt(copy: float) -> Row:
    """A bolt of some 20,000 pieces, grown and drawn."""
    source = {
        "kind": "bolt", "start": [200, 60], "end": [1700, 1000], "finest": 2.5, "branches": 22,
        "branch_reach": 36, "forks": 2,
    }  # fmt: skip
    layer = {"id": "bolt", "name": "Bolt", "source": source}
    recipe = read_recipe({"version": 3, "name": "Long bolt", "layers": [layer]})
    bolt: Any = Resolver(recipe).source(recipe.layers[0], Take.of(1010))
    canvas = Region(0, 0, 1920, 1080)
    at = At(canvas, 1.0, (0, "bolt", "source"), canvas)
    count = len(bolt.segments(at))
    taken = median_seconds(lambda: bolt.draw(at), 15)
    return Row(
        f"a bolt of {count} pieces, 1920 × 1080", milliseconds(taken), f"{milliseconds(copy)} a copy",
        taken / copy, f"≤ {1000 * MOST_BOLT:.0f} ms", taken <= MOST_BOLT,
    )  # fmt: skip


def _shown(recipe: Recipe) -> list[int]:
    layers = [spans(recipe, layer) for layer in recipe.layers if layer.on]
    first = max(recipe.canvas.first, min(first for first, _ in layers))
    last = min(recipe.canvas.last, max(last for _, last in layers))
    return [round(frame) for frame in np.linspace(first + 1, last - 1, FRAMES)]
