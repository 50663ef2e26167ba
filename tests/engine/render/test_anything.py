"""Recipes made at random from the declarations: read or refused, and always a picture."""

import time
from collections.abc import Mapping
from typing import Any
from unittest import TestCase

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as some

from handful.engine import Cache, RecipeError, read_recipe
from handful.engine.kinds import Kind, Setting, limits, sources, steps
from handful.engine.mix import COVER_RULES, blends
from handful.engine.named import NAMED
from handful.engine.recipe.made import Made
from handful.engine.render import Stopped, evaluate, plan

IDS = ("a", "b", "c")
FRAMES = (1, 12)


def _numbers(setting: Setting) -> Any:
    low, high = float(setting.least or 0), float(setting.most or 0)
    usual = setting.usual or (low, high)
    return some.one_of(
        some.floats(*usual), some.floats(low, high), some.sampled_from([low, high, setting.default])
    ).map(lambda value: value if isinstance(value, dict) else min(high, max(low, value)))


def _moving(still: Any, change: Any) -> Any:
    """A still value, or one that moves in a way that every sort knows."""
    rate = some.builds(lambda s, p: {"moves": "rate", "start": s, "per_second": p}, still, change)
    jitter = some.builds(
        lambda v, a: {"moves": "jitter", "value": v, "amount": a, "per_second": 7}, still, change
    )
    formula = some.builds(
        lambda v, text: {"moves": "formula", "value": v, "formula": text},
        still,
        some.sampled_from(["still / (f - 5)", "1e300 * still ^ 9", "noise(t) * still", "log(-n)"]),
    )
    keys = some.builds(
        lambda a, b: {
            "moves": "keys",
            "keys": [{"frame": 2, "value": a}, {"frame": 9, "value": b}],
        },
        still,
        still,
    )
    return some.one_of(still, still, rate, jitter, formula, keys)


_CHANGE = some.floats(-1e6, 1e6) | some.floats(-5, 5)
_COORDINATE = some.floats(-200, 300) | some.sampled_from([0.0, 1e5])
_HEX = some.integers(0, 0xFFFFFF).map(lambda value: f"#{value:06x}")


def _values(setting: Setting) -> Any:
    match setting.type:
        case "number":
            plain = _numbers(setting).filter(lambda value: not isinstance(value, dict))
            return _moving(plain, _CHANGE)
        case "whole":
            high = min(int(setting.most or 0), 8 + int(setting.least or 0))
            return some.integers(int(setting.least or 0), high)
        case "point":
            place = some.tuples(_COORDINATE, _COORDINATE).map(list)
            follow = some.just({"moves": "follow", "point": "p", "smoothing": 3})
            return _moving(place, some.tuples(_CHANGE, _CHANGE).map(list)) | follow
        case "colour":
            return _moving(_HEX, some.tuples(_CHANGE, _CHANGE, _CHANGE).map(list))
        case "choice":
            return some.sampled_from(setting.choices)
        case "switch":
            return some.booleans()
        case "pieces":
            assert setting.of is not None
            least, most = int(setting.least or 0), int(setting.most or 0)
            return some.lists(_node(setting.of), min_size=least, max_size=min(most, least + 3))
        case "layer":
            return some.sampled_from(["", *IDS])
        case "named":
            return some.sampled_from(["", "n"])
        case "words":
            return some.text(
                some.characters(min_codepoint=32, max_codepoint=126), min_size=1, max_size=12
            )
        case "text":
            return some.sampled_from(["", "start", "end"])
    return some.just({})


def _node(declared: type[Kind], **more: Any) -> Any:
    """A kind with some of its settings at random; the rest as they come."""
    known = {setting.name: _values(setting) for setting in declared.settings}
    return some.fixed_dictionaries({}, optional=known).map(lambda written: written | more)


def _any_of(kinds: Mapping[str, type[Kind]]) -> Any:
    return some.one_of([_node(each, kind=name) for name, each in kinds.items()])


_AT_HOME: dict[str, dict[str, Any]] = {
    "bolt": {"start": [4, 6], "end": [44, 28]},
    "fire": {"at": [24, 30], "detail": 32},
}


_SOON: dict[str, dict[str, Any]] = {
    "cloth": {"preroll": 0.2, "steps_a_frame": 3, "detail": 12},
    "growth": {"preroll": 0.2, "detail": 40},
    "particles": {"preroll": 0.2, "rate": 400},
    "ripples": {"preroll": 0.2, "detail": 40},
}
"""What is gone through step by step is so that it takes no minutes, whatever else is set."""


def _at_home(source: dict[str, Any]) -> dict[str, Any]:
    """A bolt crosses the small canvas, and a fire on it is coarse, unless they were set otherwise."""
    return _AT_HOME.get(source["kind"], {}) | source | _SOON.get(source["kind"], {})


_limits = some.lists(_any_of(limits()), max_size=2)
_steps = some.lists(
    some.builds(lambda step, where: step | {"limits": where}, _any_of(steps()), _limits), max_size=4
).map(lambda chain: [step | {"id": str(i)} for i, step in enumerate(chain)])
_layer = some.fixed_dictionaries(
    {"source": _any_of(sources()).map(_at_home), "steps": _steps, "limits": _limits},
    optional={
        "blend": some.sampled_from(blends()),
        "blends_in": some.sampled_from(["light", "seen"]),
        "opacity": _moving(some.floats(0, 100), _CHANGE),
        "shutter": some.just({"angle": 180, "samples": 3}),
        "on": some.booleans(),
        "life": some.just({"rise": 3, "settle": 2, "level": 40, "fall": 5}),
    },
)


def _named(layers: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Layers with their ids; where the first is a group, the others belong to it."""
    is_group = layers[0]["source"]["kind"] == "group"
    within = [{}, *[{"within": "a"} if is_group else {}] * 2]
    return [
        layer | {"id": i, "name": i} | more
        for i, layer, more in zip(IDS, layers, within, strict=False)
    ]


_recipes = some.builds(
    lambda layers, finish, named, cover, seed: {
        "version": 3, "name": "Any", "canvas": {"width": 48, "height": 32, "first": 1, "last": 12},
        "seed": seed, "cover": cover, "finish": finish,
        "points": [{"name": "p", "at": [20, 10]}], **{what: [each] for what, each in named.items()},
        "layers": _named(layers),
    },
    some.lists(_layer, min_size=2, max_size=3),
    _steps,
    some.fixed_dictionaries({what: _node(kind, name="n") for what, kind in NAMED.items()}),
    some.sampled_from(COVER_RULES),
    some.integers(0, 99),
)  # fmt: skip


LONGEST_SECONDS = 5
"""A recipe may want hours, as those of a long past do: who waits for it is told, and may stop it."""


class Anything(TestCase):
    @settings(
        max_examples=150, deadline=None,
        suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
    )  # fmt: skip
    @given(_recipes, some.sampled_from([1, 5, 12]), some.sampled_from([0.25, 1.0]))
    def _a_picture_or_problems(self, written: dict[str, Any], frame: int, scale: float) -> None:
        """No other error escapes; no picture holds NaN, infinity, or a cover beyond 0 to 1."""
        try:
            recipe = read_recipe(written)
        except RecipeError as error:
            self.assertTrue(all(problem.says for problem in error.problems))
            return
        end = time.monotonic() + LONGEST_SECONDS
        try:
            tile = evaluate(
                plan(recipe, frame, scale), Cache(1 << 26), lambda: time.monotonic() > end
            )
        except Stopped:
            return
        picture = tile.pixels
        self.made += 1
        self.assertTrue(np.isfinite(picture).all())
        if Made(recipe).result() != "light":  # heights and offsets are signed, and cover nothing
            return
        self.assertGreaterEqual(float(picture.min()), 0)
        self.assertLessEqual(float(picture[..., 3].max()), 1 + 1e-5)

    def test_a_picture_or_problems(self) -> None:
        """Of the recipes made at random enough become pictures for it to mean something."""
        self.made = 0
        for _ in range(4):
            self._a_picture_or_problems()
            if self.made > 40:
                break
        self.assertGreater(self.made, 40)
