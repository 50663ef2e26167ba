"""Ripples and growth: the same whatever was computed before, and what each of their settings does."""

import os
from typing import Any
from unittest import TestCase, mock

import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.kinds import Stateful
from handful.engine.recipe import RecipeError
from handful.engine.render.cache import Cache
from handful.engine.sources.growth import Growth
from handful.engine.sources.molten import Molten
from handful.engine.sources.ripples import Ripples
from tests.engine.counted import Counted
from tests.engine.recipes import small

KINDS: dict[type[Stateful], dict[str, Any]] = {
    Ripples: {"width": 300, "height": 160, "at": [160, 90], "detail": 80, "speed": 200, "preroll": 0.3, "comes_as": "light",
              "drops": 8, "drop": 20, "light": 4},
    Molten: {"width": 320, "height": 180, "at": [160, 90], "start": [160, 90], "wide": 60, "detail": 64, "preroll": 0.3, "feed": 200,
             "runs": 900, "steep": 20, "stirs": 30, "eddies": 90, "pace": 0.4, "cools": 0.4, "plates": 30},
    Growth: {"width": 300, "height": 160, "at": [160, 90], "start": [160, 90], "detail": 60, "preroll": 0.3, "pace": 150},
}  # fmt: skip
CARD: dict[str, Any] = {
    "id": "card", "name": "Card", "on": False,
    "source": {"kind": "noise", "comes_as": "cover", "brightness": 100},
    "limits": [{"kind": "rectangle", "centre": [110, 90], "width": 60, "height": 70, "feather": 0}],
}  # fmt: skip
LINE: dict[str, Any] = {
    "name": "line",
    "vertices": [{"at": [60, 40]}, {"at": [260, 60]}],
    "closed": False,
}


def recipe(kind: type[Stateful], *more: dict[str, Any], **settings: Any) -> Recipe:
    source = {"kind": kind.name, **KINDS[kind], **settings}
    return small({"id": "w", "name": "W", "source": source}, *more, paths=[LINE])


class Memory(TestCase):
    def test_the_same_however_one_comes_to_it(self) -> None:
        """To the bit: at once, frame by frame, back and forth, and on one thread."""
        for kind in KINDS:
            made = recipe(kind)
            wanted = render_frame(made, 9)
            self.assertGreater(float(wanted.max()), 0.1)
            for way in ([9], range(1, 10), [12, 3, 9]):
                cache = Cache(1 << 28)
                for frame in way:
                    render_frame(made, frame, 1.0, cache)
                with self.subTest(kind=kind.name, way=str(way)):
                    np.testing.assert_array_equal(render_frame(made, 9, 1.0, cache), wanted)
            with mock.patch.dict(os.environ, HANDFUL_THREADS="1"):
                np.testing.assert_array_equal(render_frame(made, 9), wanted)

    def test_looks_find_the_state(self) -> None:
        """Whatever is of the look brings nothing on again and changes the picture; all else does both."""
        special: dict[str, Any] = {
            "at": [150, 80], "walls": "card", "by": "card", "of": "card", "within": "card", "colour": "#00ff00",
            "colour_thin": "#00ff00", "edges": "at its edges they come back", "preroll": 1, "detail": 90, "start": [100, 60], "lit_from": 40, "path": "line", "lasts": 0.5, "dull": "#00ff00", "falls": 200, "tempo": 0,
        }  # fmt: skip
        beside: dict[str, dict[str, Any]] = {
            "of": {"sown": "a layer", "pours": "from a layer"}, "seeds": {"sown": "many points"}, "path": {"pours": "along a path"}, "uneven": {"preroll": 3}, "pushes": {"by": "card"}, "edges": {"fades": 5, "drops": 40, "preroll": 2},
        }  # fmt: skip
        for kind in KINDS:
            for known in kind.settings:
                if known.name == "comes_as":  # what it makes is another kind of picture
                    continue
                value = special.get(known.name)
                if value is None:
                    value = (
                        known.choices[1] if known.choices else (known.usual or (0, known.most))[1]
                    )
                declared = {each.name for each in kind.settings}
                more = {k: v for k, v in beside.get(known.name, {}).items() if k in declared}
                cache = Cache(1 << 28)
                before = render_frame(recipe(kind, CARD, **more), 6, 1.0, cache)
                with self.subTest(kind=kind.name, setting=known.name), Counted(kind) as again:
                    after = render_frame(
                        recipe(kind, CARD, **more | {known.name: value}), 6, 1.0, cache
                    )
                    self.assertFalse(np.array_equal(before, after))
                self.assertEqual(again.frames == 0, known.look, known.name)

    def test_as_what_it_comes(self) -> None:
        """Light or a height is seen of the same state: nothing is brought on again for it."""
        for kind in KINDS:
            cache = Cache(1 << 28)
            light = render_frame(recipe(kind, comes_as="light"), 6, 1.0, cache)
            with self.subTest(kind=kind.name), Counted(kind) as again:
                height = render_frame(recipe(kind, comes_as="height"), 6, 1.0, cache)
            self.assertEqual(again.frames, 0)
            self.assertEqual((light.ndim, height.ndim), (3, 2))

    def test_half_size(self) -> None:
        """A smaller picture is the larger one made smaller, as light and as a height in px of the full size."""
        for kind in KINDS:
            for comes_as in ("light", "height"):
                made = recipe(kind, comes_as=comes_as)
                full, half = (render_frame(made, 8, scale) for scale in (1.0, 0.5))
                reduced = full.reshape(90, 2, 160, 2, -1).mean(axis=(1, 3)).reshape(half.shape)
                with self.subTest(kind=kind.name, comes_as=comes_as):
                    self.assertLess(float(np.abs(reduced - half).mean()), 0.03 * float(np.abs(reduced).mean()) + 1e-6)  # fmt: skip


class Waves(TestCase):
    def test_what_moves_through_makes_waves(self) -> None:
        """A card that stands still makes none once it is there; one that goes makes them all the way."""
        going = CARD | {
            "limits": [
                CARD["limits"][0]
                | {"centre": {"moves": "rate", "start": [40, 90], "per_second": [150, 0]}}
            ]
        }
        quiet = {"drops": 0, "by": "card", "fades": 0.8, "preroll": 8}
        still, moved = (
            np.abs(render_frame(recipe(Ripples, card, comes_as="height", **quiet), 30)).max()
            for card in (CARD, going)
        )
        self.assertLess(still, 0.1)
        self.assertGreater(moved, 2)

    def test_behind_a_wall_it_is_quiet(self) -> None:
        wall = CARD | {"limits": [CARD["limits"][0] | {"width": 20, "height": 400}]}
        settings = {"drops": 0, "comes_as": "height", "by": "push", "pushes": 30, "fades": 3}
        push = CARD | {
            "id": "push",
            "limits": [
                CARD["limits"][0]
                | {
                    "centre": {"moves": "rate", "start": [250, 90], "per_second": [0, 60]},
                    "width": 20,
                    "height": 20,
                }
            ],
        }
        free, kept = (
            np.abs(
                render_frame(recipe(Ripples, wall, push, walls=walls, **settings), 40)[:, 20:90]
            ).max()
            for walls in ("", "card")
        )
        self.assertGreater(free, 0.1)
        self.assertLess(kept, 0.02 * free)


class Grows(TestCase):
    def test_it_spreads(self) -> None:
        """More of it each while, from its point outwards; within a card nothing outside it."""
        made = recipe(Growth, preroll=0, pace=300)
        areas = [int((render_frame(made, frame)[..., 0] > 0.2).sum()) for frame in (3, 20, 45)]
        self.assertLess(areas[0], areas[1])
        self.assertLess(areas[1], areas[2])
        inside = render_frame(recipe(Growth, CARD, within="card", start=[110, 90], preroll=6), 3)[
            ..., 0
        ]
        self.assertGreater(float(inside[60:120, 85:135].max()), 0.3)
        self.assertLess(float(inside[:, 170:].max()), 0.05)

    def test_what_goes_before(self) -> None:
        """Minutes of steps before the first frame are told, with how long would do."""
        much: dict[type[Stateful], dict[str, Any]] = {
            Growth: {"detail": 600, "pace": 500, "preroll": 60}, Ripples: {"detail": 700, "speed": 20_000, "preroll": 30},
        }  # fmt: skip
        for kind, settings in much.items():
            with self.subTest(kind=kind.name), self.assertRaises(RecipeError) as raised:
                recipe(kind, **settings)
            [problem] = raised.exception.problems
            self.assertEqual(problem.path, "layers[0].source.preroll")
            recipe(kind, **settings | {"preroll": problem.nearest})

    def test_bounds(self) -> None:
        """Too many cells are told, with how many would do; at each end of each setting light is finite."""
        for kind in KINDS:
            with self.assertRaises(RecipeError) as raised:
                recipe(kind, width=1000, height=1000, detail=kind.settings[[k.name for k in kind.settings].index("detail")].most)  # fmt: skip
            [problem] = raised.exception.problems
            self.assertEqual(problem.path, "layers[0].source.detail")
            recipe(kind, width=1000, height=1000, detail=problem.nearest)
            for known in kind.settings:
                if known.type not in ("number", "whole") or known.name in ("detail", "preroll"):
                    continue
                for value in (known.least, known.most):
                    settings = {"preroll": 0.1, "detail": 40, known.name: value}
                    with self.subTest(kind=kind.name, setting=known.name, value=value):
                        self.assertTrue(
                            np.isfinite(render_frame(recipe(kind, **settings), 3, 0.5)).all()
                        )
