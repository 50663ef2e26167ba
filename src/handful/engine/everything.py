"""Recipes with everything in them, to have every kernel compiled and loaded."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import cycle
from typing import Any

import numpy as np
from numpy.typing import NDArray

from handful.engine.kinds import Kind, limits, sources, steps
from handful.engine.named import NAMED
from handful.engine.recipe import VERSION, Layer, Recipe, read_recipe
from handful.engine.render import Cache, evaluate, plan
from handful.engine.render.view import View, as_jpeg, shown, warnings_of


def warm_up(should_stop: Callable[[], bool] = lambda: False) -> None:
    """Load every kernel from the on-disk cache, or compile it into that, so that nobody waits for it. Asked between two
    kernels or so, `should_stop` may let others go first."""
    for recipe in everything():
        picture = _seen(recipe, should_stop)
    for view in (View(clipping=True), View(channel="offsets")):
        as_jpeg(shown(picture, view))
    warnings_of(picture, 0)


def compile_some(turn: int, turns: int, told: Callable[[int, int], None]) -> None:
    """Compile a share of all kernels into the on-disk cache, by the layers of `everything`; `told` hears after each of
    them how many are done of how many. Several processes, each with a turn of its own, compile them all."""
    alone = [
        recipe.model_copy(update={"layers": [*_unseen(recipe, layer), layer]})
        for recipe in everything()
        for layer in recipe.layers
        if layer.on
    ][turn::turns]
    for done, recipe in enumerate(alone, 1):
        _seen(recipe)
        told(done, len(alone) + 1)
    if turn == 0:
        warm_up()
    told(len(alone) + 1, len(alone) + 1)


def _unseen(recipe: Recipe, layer: Layer) -> list[Layer]:
    """All other layers, which are there to be named; what belongs to the layer is seen with it."""
    return [
        each if each.within == layer.id else each.model_copy(update={"on": False})
        for each in recipe.layers
        if each is not layer
    ]


def _seen(recipe: Recipe, should_stop: Callable[[], bool] = lambda: False) -> NDArray[np.float32]:
    return evaluate(plan(recipe, recipe.canvas.first, 0.5), Cache(0), should_stop).pixels


def everything() -> tuple[Recipe, Recipe]:
    """Small recipes with every source and limit, and with every step, mixed in each way that has its own
    loop."""
    source: dict[str, Any] = {
        "kind": "bolt", "start": [200, 60], "end": [760, 480], "boil": 0, "finest": 16, "branches": 2,
        "width": 14, "thinning": 90, "core_light": 0.5,
    }  # fmt: skip
    soft = {"kind": "blur", "id": "soft", "deviation": 3}
    bolt = {"source": source, "steps": [soft]}
    chain = [_filled(kind) | {"id": name} for name, kind in steps().items()]
    made_of: list[dict[str, Any]] = [
        {"id": "all", "name": "All limits", **bolt, "limits": [_filled(kind) for kind in limits().values()]},
        *({"id": f"source {i}", "name": "Source", "source": each} for i, each in enumerate(_all_sources())),
    ]  # fmt: skip
    group = next(layer["id"] for layer in made_of if layer["source"]["kind"] == "group")
    made_of.append({"id": "member", "name": "Member", **bolt, "within": group})
    done_to = [
        {"id": f"step {step['kind']}", "name": step["kind"], **bolt, "steps": [soft, step]}
        for step in chain
    ]
    return _recipe(made_of, bolt), _recipe(done_to, bolt)


def _recipe(layers: list[dict[str, Any]], bolt: dict[str, Any]) -> Recipe:
    """Layers, with what they name before them."""
    named: list[dict[str, Any]] = [
        {"id": "other", "name": "Other", "on": False, **bolt},
        *({"id": f"other {kind}", "name": kind, "on": False, "source": {"kind": "noise", "comes_as": kind}} for kind in ("height", "offsets")),
    ]  # fmt: skip
    ways = (
        ("normal", "light"),
        ("add", "light"),
        ("screen", "light"),
        ("multiply", "seen"),
        ("atop", "light"),
    )
    for layer, (blend, space) in zip(layers, cycle(ways), strict=False):
        layer["blend"], layer["blends_in"] = blend, space
    canvas = {"width": 960, "height": 540}
    placed = {
        "version": VERSION,
        "name": "Other",
        "canvas": canvas,
        "layers": [{"id": "a", "name": "A", **bolt}],
    }
    return read_recipe(
        {"version": VERSION, "name": "Everything", "canvas": canvas, "cover": "from light"}
        | {what: [{"name": "other"}] for what in NAMED}
        | {"layers": named + layers}
        | {"elements": [{"name": "other", "recipe": placed}]}
    )


def _all_sources() -> Iterator[dict[str, Any]]:
    """Every source as it comes, and as often again as each of its choices has been once."""
    for kind in sources().values():
        choices = {known.name: known.choices for known in kind.settings if known.choices}
        for turn in range(max((len(each) for each in choices.values()), default=1)):
            chosen = {name: each[turn % len(each)] for name, each in choices.items()}
            yield _filled(kind) | (chosen if turn else {})


def _filled(kind: type[Kind]) -> dict[str, Any]:
    """A kind with its defaults, where what it names is called "other", and by what it makes if that is
    no light."""
    named = {
        setting.name: "other" if "light" in setting.takes else f"other {setting.takes[0]}"
        for setting in kind.settings
        if setting.type in ("layer", "named", "element")
    }
    return {"kind": kind.name, **named, **getattr(kind, "briefly", {})}
