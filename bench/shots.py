"""The demo shot: frames a second, and from a changed setting to a picture on its way."""

from __future__ import annotations

import json
import random
import time
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

import numpy as np

from bench.rows import Row, median_seconds, milliseconds
from handful.engine import Cache, read_recipe, render_frame
from handful.engine.kinds import Kind, sources, steps
from handful.engine.render import evaluate, plan
from handful.engine.render.nodes import Node
from handful.engine.render.view import View, as_jpeg, shown

RECIPE = Path(__file__).parents[1] / "demo" / "recipes" / "mast-strike.json"
CACHE_BYTES = 1 << 30
CHANGES = 100
FRAME = 1012


def frames() -> Iterator[Row]:
    """Every frame of the demo shot at full size, beside copying a picture once for each node."""
    recipe = read_recipe(RECIPE.read_bytes())
    cache = Cache(CACHE_BYTES)
    canvas = recipe.canvas
    render_frame(recipe, canvas.first + 12, 1.0, cache)
    begun = time.perf_counter()
    nodes = 0
    for frame in range(canvas.first, canvas.last + 1):
        nodes += count_nodes(plan(recipe, frame))
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
    picture = encoded(data, FRAME, cache)
    encoding = median_seconds(lambda: as_jpeg(picture), 9)
    taken = []
    for _ in range(CHANGES):
        change_one(data, choose)
        begun = time.perf_counter()
        as_jpeg(encoded(data, FRAME, cache))
        taken.append(time.perf_counter() - begun)
    reference = f"{milliseconds(encoding)} encoding alone"
    for name, share, aim in (("median", 50, 0.060), ("95th percentile", 95, 0.150)):
        value = float(np.percentile(taken, share))
        yield Row(
            f"change to picture, 960 × 540, {name}", milliseconds(value), reference,
            value / encoding, f"≤ {1000 * aim:.0f} ms", value <= aim,
        )  # fmt: skip


def encoded(data: dict[str, Any], frame: float, cache: Cache) -> np.ndarray:
    """A frame of a recipe at half size, as a person looks at it."""
    node = plan(read_recipe(data), frame, 0.5)
    return shown(evaluate(node, cache).pixels, View("grey"))


def change_one(data: dict[str, Any], choose: random.Random) -> None:
    """Another value for one still or moving number of one source or step."""
    nodes: list[tuple[Any, Mapping[str, type[Kind]]]]
    nodes = [(layer["source"], sources()) for layer in data["layers"]]
    nodes += [(step, steps()) for layer in data["layers"] for step in layer.get("steps", ())]
    numbered = [
        (node, [known for known in kinds[node["kind"]].settings if known.type == "number"])
        for node, kinds in nodes
    ]
    node, numbers = choose.choice([each for each in numbered if each[1]])
    known = choose.choice(numbers)
    low, high = known.usual or (float(known.least or 0), float(known.most or 0))
    node[known.name] = low + (high - low) * choose.random()


def count_nodes(node: Node) -> int:
    """How many nodes a picture has, those met twice counted twice."""
    return 1 + sum(count_nodes(before) for before in node.inputs)
