"""What a play-through costs with and without the cache."""

from __future__ import annotations

import time
from collections.abc import Iterator

from bench.rows import Row
from handful.engine import Cache, Recipe, read_recipe, render_frame

BUDGET = 1 << 30
FRAMES = range(1001, 1026)


def cache() -> Iterator[Row]:
    """25 frames of a recipe with still and moving layers at 960 x 540, twice over."""
    recipe = _recipe()
    render_frame(recipe, 1001, 0.5)
    without = _played(recipe, None)
    held = Cache(BUDGET)
    first, second = _played(recipe, held), _played(recipe, held)
    count = len(FRAMES)
    for name, taken, aim in (("first play", first, 1.0), ("again", second, 0.2)):
        yield Row(
            f"{count} frames, {name}", f"{1000 * taken / count:.1f} ms a frame",
            f"{1000 * without / count:.1f} ms without", taken / without, f"< {aim:g}", taken < aim * without,
        )  # fmt: skip
    share = held.held / held.budget
    yield Row(
        "memory held", f"{held.held / 1e6:.0f} MB", f"{held.budget / 1e6:.0f} MB allowed",
        share, "≤ 1", share <= 1,
    )  # fmt: skip


def _played(recipe: Recipe, held: Cache | None) -> float:
    begun = time.perf_counter()
    for frame in FRAMES:
        render_frame(recipe, frame, 0.5, held)
    return time.perf_counter() - begun


def _recipe() -> Recipe:
    """Two still layers with glow and warp, one that moves, and a finish on all of them."""
    glow = {"kind": "glow", "id": "glow"}
    warp = {"kind": "warp", "id": "warp", "boil": 0, "turbulence": 50}
    still = {"kind": "bolt", "boil": 0, "branches": 12}
    layers = [
        {"id": "a", "name": "Still", "source": still, "steps": [glow, warp]},
        {"id": "b", "name": "Still too", "source": still | {"seed": 4}, "steps": [glow], "blend": "add"},
        {"id": "c", "name": "Moving", "source": {"kind": "bolt"}, "steps": [glow], "blend": "add"},
    ]  # fmt: skip
    return read_recipe(
        {"version": 3, "name": "Still and moving", "layers": layers}
        | {"finish": [{"kind": "vignette", "id": "v"}, {"kind": "grain", "id": "g"}]}
    )
