"""The demo shot: frames a second, and from a changed setting to a picture on its way."""

from __future__ import annotations

import json
import random
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from bench.rows import Row, median_seconds, milliseconds
from handful.engine import Cache, read_recipe, render_frame
from handful.engine.kinds import sources, steps
from handful.engine.render import evaluate, plan
from handful.engine.render.plan import Node
from handful.engine.render.view import View, as_jpeg, shown

RECIPE = Path(__file__).parents[1] / "demo" / "recipes" / "mast-strike.json"
CACHE_BYTES = 1 << 30
CHANGES = 100


def frames() -> Iterator[Row]:
    """Every frame of the demo shot at full size, beside copying a picture once for each node."""
    recipe = read_recipe(RECIPE.read_bytes())
    cache = Cache(CACHE_BYTES)
    canvas = recipe.canvas
    render_frame(recipe, canvas.first + 12, 1.0, cache)
    begun = time.perf_counter()
    nodes = 0
    for frame in range(canvas.first, canvas.last + 1):
        nodes += _count(plan(recipe, frame))
        render_frame(recipe, frame, 1.0, cache)
    taken = time.perf_counter() - begun
    count = canvas.last - canvas.first + 1
    picture = np.zeros((canvas.height, canvas.width, 4), np.float32)
    copying = median_seconds(picture.copy, 9) * nodes
    rate = count / taken
    yield Row(
        f"{recipe.name}, 1920 × 1080", f"{rate:.1f} frames/s",
        f"{count / copying:.1f} frames/s of copying", taken / copying, "≥ 6 frames/s", rate >= 6,
    )  # fmt: skip


def change() -> Iterator[Row]:
    """A hundred changes of one setting of the demo shot, each to an encoded picture of 960 x 540."""
    data = json.loads(RECIPE.read_text())
    cache = Cache(CACHE_BYTES)
    choose = random.Random(7)
    picture = _encoded(data, cache)
    encoding = median_seconds(lambda: as_jpeg(picture), 9)
    taken = []
    for _ in range(CHANGES):
        _change_one(data, choose)
        begun = time.perf_counter()
        as_jpeg(_encoded(data, cache))
        taken.append(time.perf_counter() - begun)
    reference = f"{milliseconds(encoding)} encoding alone"
    for name, share, aim in (("median", 50, 0.060), ("95th percentile", 95, 0.150)):
        value = float(np.percentile(taken, share))
        yield Row(
            f"change to picture, 960 × 540, {name}", milliseconds(value), reference,
            value / encoding, f"≤ {1000 * aim:.0f} ms", value <= aim,
        )  # fmt: skip


def _encoded(data: dict[str, Any], cache: Cache) -> np.ndarray:
    node = plan(read_recipe(data), 1012, 0.5)
    return shown(evaluate(node, cache).pixels, View("grey"))


def _change_one(data: dict[str, Any], choose: random.Random) -> None:
    """Another value for one still or moving number of one source or step."""
    layer = choose.choice(data["layers"])
    node, kinds = choose.choice([(layer["source"], sources()), (layer["steps"][0], steps())])
    numbers = [known for known in kinds[node["kind"]].settings if known.type == "number"]
    known = choose.choice(numbers)
    low, high = known.usual or (known.least, known.most)
    node[known.name] = low + (high - low) * choose.random()


def _count(node: Node) -> int:
    return 1 + sum(_count(before) for before in node.inputs)
