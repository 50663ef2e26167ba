"""Cloth: the same whatever was computed before, its look apart from its state."""

import os
from typing import Any
from unittest import TestCase, mock

import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.recipe import RecipeError
from handful.engine.render import PlanError, plan
from handful.engine.render.cache import Cache
from handful.engine.sources.cloth.cloth import Cloth
from tests.engine.counted import Counted
from tests.engine.recipes import small


def _path(name: str, *places: tuple[int, int], closed: bool = False) -> dict[str, Any]:
    return {"name": name, "closed": closed, "vertices": [{"at": at} for at in places]}


PATHS = [
    _path("rip", (150, 150), (170, 10)),
    _path("level", (60, 81), (260, 81)),
    _path("round", (130, 50), (190, 50), (190, 110), (130, 110), closed=True),
]


def recipe(*more: dict[str, Any], **settings: Any) -> Recipe:
    source = {
        "kind": "cloth", "at": [160, 20], "width": 150, "height": 120, "preroll": 0.4, "detail": 20,
        "steps_a_frame": 6, **settings,
    }  # fmt: skip
    return small({"id": "c", "name": "C", "source": source}, *more, paths=PATHS)


PRINT = {
    "id": "print", "name": "Print", "on": False,
    "source": {"kind": "noise", "comes_as": "cover", "brightness": 100, "colour": "#00ff00"},
    "limits": [{"kind": "rectangle", "centre": [80, 90], "width": 160, "height": 180, "feather": 0}],
}  # fmt: skip


class Memory(TestCase):
    def test_the_same_however_one_comes_to_it(self) -> None:
        """To the bit: at once, frame by frame, back and forth, and on one thread."""
        made = recipe(
            at={"moves": "rate", "start": [160, 20], "per_second": [60, 0]}, held="rings", folds=4
        )
        wanted = render_frame(made, 12)
        for way in ([12], range(1, 13), [20, 3, 12]):
            cache = Cache(1 << 28)
            for frame in way:
                render_frame(made, frame, 1.0, cache)
            np.testing.assert_array_equal(render_frame(made, 12, 1.0, cache), wanted)
        with mock.patch.dict(os.environ, HANDFUL_THREADS="1"):
            np.testing.assert_array_equal(render_frame(made, 12), wanted)
        late, after = render_frame(made, 12.8), render_frame(made, 13)
        self.assertLess(np.abs(late - after).mean(), 0.6 * np.abs(wanted - after).mean())

    def test_looks_find_the_state(self) -> None:
        """Whatever is of the look computes nothing again and changes the picture; all else does both."""
        cache = Cache(1 << 28)
        base: dict[str, Any] = {
            "eddies": 80,
            "gusts": 60,
            "wind": 6,
            "wet": 20,
            "weave": 20,
            "threads": 20,
            "torn_along": "rip",
            "torn": 60,
        }
        with Counted(Cloth) as first:
            before = render_frame(recipe(**base), 8, 1.0, cache)
        self.assertEqual(first.frames, 7 + 10)
        special: dict[str, Any] = {
            "colour": "#ff0000",
            "colour_behind": "#0000ff",
            "printed": "print",
            "light_at": [600, 90],
            "tempo": 0,
        }
        with Counted(Cloth) as again:
            for known in Cloth.settings:
                if not known.look or known.name == "colour_behind":
                    continue
                value = special.get(known.name)
                if value is None:
                    value = (
                        known.choices[1] if known.choices else known.usual[1] if known.usual else 88
                    )
                with self.subTest(look=known.name):
                    after = render_frame(recipe(PRINT, **base | {known.name: value}), 8, 1.0, cache)
                    self.assertFalse(np.array_equal(before, after))
            render_frame(recipe(**base), 8, 0.5, cache)
        self.assertEqual(again.frames, 0)
        for known in Cloth.settings:
            if known.look or known.name in ("floor", "ball_at", "ball_far", "apart"):
                continue
            value = {"at": [150, 30], "held": "its upper corners", "lies": "lying", "gathered": 20, "preroll": 1, "detail": 30, "folds": 4, "ball": 40, "pegs": [{"at": [150, 90]}], "torn_along": "level"}.get(known.name)  # fmt: skip
            if value is None:
                value = known.usual[1] if known.usual else 77
            beside: dict[str, dict[str, Any]] = {
                "folds": {"gathered": 20},
                "ball": {"ball_at": [160, 90]},
            }
            more = beside.get(known.name, {})
            with self.subTest(moves=known.name):
                after = render_frame(recipe(**base | more | {known.name: value}), 8, 0.5)
                plain = render_frame(recipe(**base | more), 8, 0.5)
                self.assertFalse(np.array_equal(after, plain))


class Hangs(TestCase):
    def test_by_what_holds_it(self) -> None:
        """Held nowhere it is gone; by its upper edge it is there, by corners it sags between them."""
        calm = {"wind": 0, "blows": 0, "gusts": 0, "preroll": 2}
        fallen, edge, corners = (
            render_frame(recipe(**calm, held=held), 40)[..., 3]
            for held in ("nothing", "its upper edge", "its upper corners")
        )
        self.assertEqual(fallen.max(), 0)
        self.assertAlmostEqual(float(edge.sum()), 150 * 120, delta=800)
        self.assertGreater(edge[24, 160], 0.9)
        self.assertLess(corners[24, 160], 0.1)
        self.assertGreater(corners[24, 90], 0.9)

    def test_gathered_it_is_narrower_and_in_folds(self) -> None:
        calm = {"wind": 0, "blows": 0, "gusts": 0, "preroll": 2, "detail": 60}
        light = render_frame(recipe(**calm, gathered=40, folds=5), 10)
        wide = np.flatnonzero(light[40, :, 3] > 0.5)
        self.assertAlmostEqual(len(wide), 90, delta=14)
        row = light[60, wide[6] : wide[-6], 0]
        turns = int((np.diff(np.sign(np.diff(row))) != 0).sum())
        self.assertGreaterEqual(turns, 6)

    def test_passes(self) -> None:
        """Of a sheet that hangs flat: it faces the eye, and its coordinates go across and down it."""
        calm = {"wind": 0, "blows": 0, "gusts": 0, "preroll": 0, "lens": 50_000}
        normals = render_frame(recipe(**calm, shows="its normals"), 1)
        np.testing.assert_allclose(normals[80, 160, :3], (0.5, 0.5, 1), atol=0.03)
        where = render_frame(recipe(**calm, shows="its coordinates"), 1)
        np.testing.assert_allclose(where[80, 160, :2], (0.5, 0.5), atol=0.01)
        np.testing.assert_allclose(where[50, 100, :2], (0.1, 0.25), atol=0.01)

    def test_its_motion(self) -> None:
        """Let go, it falls by g t a second, t seconds on, of which a frame's part is told in px of the full-size canvas, at
        any size; where it is not there is none."""
        falls = recipe(
            held="nothing", wind=0, blows=0, gusts=0, preroll=0, tall=2, weight=20_000, lens=50_000,
            shows="its motion",
        )  # fmt: skip
        metre, seconds = 120 / 2, 5 / 25
        wanted = 9.81 * metre * seconds / 25
        for scale in (1.0, 0.5):
            motion = render_frame(falls, 6, scale)
            self.assertEqual(motion.shape[2], 2)
            row, column = round(80 * scale), round(160 * scale)
            self.assertAlmostEqual(float(motion[row, column, 1]), wanted, delta=0.06 * wanted)
            self.assertAlmostEqual(float(motion[row, column, 0]), 0, delta=0.05 * wanted)
            self.assertEqual(float(np.abs(motion[:, : round(40 * scale)]).max()), 0)

    def test_pegs(self) -> None:
        """What is pegged is at its place on each frame, wherever that goes, from the first on; all else of the past stays
        known while a peg goes on."""
        goes = {"moves": "rate", "start": [60, 150], "per_second": [100, -50]}
        pegs = [
            {"across": 0, "down": 100, "at": goes},
            {"across": 100, "down": 100, "at": [250, 160]},
        ]
        made = recipe(held="its upper corners", pegs=pegs, wind=4, lens=50_000)
        cache = Cache(1 << 28)
        for frame in (1, 2, 11):
            node = plan(made, frame)
            with Counted(Cloth) as counted:
                render_frame(made, frame, 1.0, cache)
            self.assertEqual(counted.frames, {1: 10, 2: 1, 11: 9}[frame])
            while node.inputs and node.frame is None:
                node = node.inputs[0]
            state: Any = cache.get(node.key, node.lasts)
            left = 60 + 100 * (frame - 1) / 25, 150 - 50 * (frame - 1) / 25
            np.testing.assert_allclose(state[0][-1, 0], (*left, 0), atol=1e-6)
            np.testing.assert_allclose(state[0][-1, -1], (250, 160, 0), atol=1e-6)
            self.assertLess(float(state[0][-1, :, 1].max()), 240)
        np.testing.assert_array_equal(render_frame(made, 11, 1.0, cache), render_frame(made, 11))

    def test_it_tears_along_a_path(self) -> None:
        """What a path cuts off falls out of the picture, what it goes round leaves a hole, and what is half torn hangs;
        with its passes."""

        calm: dict[str, Any] = {"wind": 0, "blows": 0, "gusts": 0, "preroll": 0, "lens": 50_000}

        def torn(frame: int, path: str, **more: Any) -> Any:
            return render_frame(recipe(**calm, torn_along=path, frayed=0, **more), frame)

        whole = torn(40, "level", torn=0)[..., 3]
        np.testing.assert_array_equal(whole, render_frame(recipe(**calm), 40)[..., 3])
        off = torn(40, "level", torn=100)[..., 3]
        self.assertEqual(float(off[90:].max()), 0)
        np.testing.assert_allclose(off[24:74, 90:230], 1, atol=1e-6)
        half = torn(40, "level", torn=50)[..., 3]
        self.assertGreater(float(half[100:135, 190:230].min()), 0.9)
        hole = torn(40, "round", torn=100)[..., 3]
        self.assertEqual(float(hole[56:104, 136:184].max()), 0)
        self.assertGreater(float(hole[56:104, 92:124].min()), 0.9)
        falls = torn(6, "level", torn=100, weight=20_000, shows="its motion")
        wanted = 9.81 * 60 * 5 / 25 / 25
        self.assertAlmostEqual(float(falls[120, 160, 1]), wanted, delta=0.06 * wanted)
        self.assertAlmostEqual(float(falls[50, 160, 1]), 0, delta=0.1 * wanted)
        where = torn(1, "level", torn=100, shows="its coordinates")
        np.testing.assert_allclose(where[120, 100, :2], (0.1, 0.833), atol=0.02)

    def test_a_print(self) -> None:
        """The left half of the canvas's picture is on the left half of the sheet."""
        calm = {
            "wind": 0,
            "blows": 0,
            "gusts": 0,
            "preroll": 0,
            "printed": "print",
            "creases": 0,
            "around": 100,
        }
        light = render_frame(recipe(PRINT, **calm), 1)
        self.assertLess(light[80, 110, 0], 0.05)
        self.assertGreater(light[80, 210, 0], 0.3)

    def test_rings_that_are_too_many(self) -> None:
        """More than there are points are told, with how many would do."""
        with self.assertRaises(RecipeError) as raised:
            recipe(held="rings", folds=30)
        [problem] = raised.exception.problems
        self.assertEqual((problem.path, problem.nearest), ("layers[0].source.folds", 19))
        recipe(held="rings", folds=19)

    def test_what_goes_before(self) -> None:
        """Minutes of steps before the first frame are told, with how long would do."""
        settings = {"detail": 160, "steps_a_frame": 100, "preroll": 30}
        with self.assertRaises(RecipeError) as raised:
            recipe(**settings)
        [problem] = raised.exception.problems
        self.assertEqual(problem.path, "layers[0].source.preroll")
        recipe(**settings | {"preroll": problem.nearest})

    def test_at_its_bounds(self) -> None:
        """At each end of each setting that moves it there is a picture of finite light."""
        for known in Cloth.settings:
            if known.look or known.type not in ("number", "whole"):
                continue
            for value in (known.least, known.most):
                more = {"preroll": 0.1} if known.name != "preroll" else {"steps_a_frame": 1}
                if known.name == "folds" and value is not None:
                    value = min(value, 19)
                if known.name == "detail":
                    more["folds"] = 3
                with self.subTest(setting=known.name, value=value):
                    light = render_frame(recipe(**more | {known.name: value}), 2, 0.25)
                    self.assertTrue(np.isfinite(light).all())


class Unsteady(TestCase):
    def test_what_comes_apart_is_told(self) -> None:
        """A state with a number that cannot be ends the frame with what, when and what helps, and none before it; it
        is never kept."""
        whole = Cloth.advance

        def breaks(self: Cloth, state: Any, at: Any, stretch: Any, *others: Any) -> Any:
            found: Any = whole(self, state, at, stretch, *others)
            if stretch.since >= 0.2:
                found.places[2, 2, 1] = wrong
            return found

        for wrong in (np.nan, np.inf, -1e12):
            cache = Cache(1 << 26)
            with self.subTest(wrong=wrong), mock.patch.object(Cloth, "advance", breaks):
                render_frame(recipe(preroll=0), 5, 0.5, cache)
                for _ in range(2):
                    with self.assertRaisesRegex(
                        PlanError, r"cloth comes apart .* 0\.20 s .* more steps a frame"
                    ):
                        render_frame(recipe(preroll=0), 9, 0.5, cache)

    def test_the_hardest_that_can_be_set(self) -> None:
        """Every setting of its motion at its ends, few steps and storms: it is told, or what is shown is sound."""
        hard = {
            "steps_a_frame": 1,
            "wind": 60,
            "blows": -60,
            "gusts": 300,
            "eddies": 300,
            "preroll": 0,
        }
        for more in (
            {}, {"stretch": 0, "weight": 10}, {"stretch": 100, "weight": 20_000}, {"bend": 0, "calms": 0},
            {"tall": 0.02}, {"tall": 500}, {"ball": 90, "ball_at": [160, 90]}, {"held": "nothing", "floor": 100},
        ):  # fmt: skip
            with self.subTest(**{name: str(value) for name, value in more.items()}):
                try:
                    picture = render_frame(recipe(**(hard | more)), 8, 0.5)
                except PlanError as error:
                    self.assertIn("comes apart", str(error))
                else:
                    self.assertTrue(np.isfinite(picture).all())
