"""Noise as a layer: what shows of it, what it makes, how it lies, and that it returns."""

import tempfile
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any, get_args
from unittest import TestCase

import numpy as np

from handful.engine import Recipe, read_recipe, render_frame
from handful.engine.files.about import About
from handful.engine.files.exr import read_exr, write_exr
from handful.engine.files.png import write_png
from handful.engine.files.writing import WriteError
from handful.engine.kernels.chance.patterns import Pattern
from handful.engine.recipe import RecipeError, changed_by
from handful.engine.recipe.changes.operations import AddStep, ReturnWithLoop
from handful.engine.render import Cache
from handful.engine.render.plan import plan
from tests.engine.recipes import bolt_layer, small

STILL = {"boil": 0.3}


def noise_layer(
    name: str = "noise", steps: list[Any] | None = None, **settings: Any
) -> dict[str, Any]:
    source = {"kind": "noise", "size": 60, "at": [160, 90], **STILL, **settings}
    return {"id": name, "name": name, "source": source, "steps": steps or []}


def recipe(**settings: Any) -> Recipe:
    return small(noise_layer(**settings))


class Shown(TestCase):
    def test_nothing_and_all(self) -> None:
        """At the ends of brightness, for every pattern, number of waves and contrast."""
        for pattern in get_args(Pattern):
            for contrast in (0, 40, 100, 1000, 5000):
                for soft, inverted in ((0, False), (100, True)):
                    shown = {
                        "inverted": inverted,
                        "pattern": pattern,
                        "contrast": contrast,
                        "soft": soft,
                        "waves": 3,
                    }
                    for brightness, level in ((-100, 0.0), (100, 1.0)):
                        made = recipe(**shown, brightness=brightness, comes_as="cover")
                        with self.subTest(**shown, brightness=brightness):
                            picture = render_frame(made, 1, 0.5)
                            np.testing.assert_allclose(picture, level, atol=1e-5)

    def test_more_brightness_never_shows_less(self) -> None:
        for contrast in (50, 600):
            pictures = [
                render_frame(recipe(contrast=contrast, brightness=at), 1)[..., 0]
                for at in (-80, -40, 0, 40, 80)
            ]
            for darker, brighter in pairwise(pictures):
                self.assertTrue(np.all(brighter >= darker))
                self.assertGreater(brighter.mean(), darker.mean())

    def test_inverted_is_the_rest(self) -> None:
        """And brightness is of what shows then: with as much less of it."""
        plain = render_frame(recipe(comes_as="cover", brightness=30), 1)[..., 3]
        rest = {"comes_as": "cover", "inverted": True, "brightness": -30}
        inverted = render_frame(recipe(**rest), 1)[..., 3]
        np.testing.assert_allclose(plain + inverted, 1, atol=1e-6)

    def test_light_and_cover(self) -> None:
        """Light covers nothing, however bright; what hides covers as far as it shows, in its colour."""
        light = render_frame(recipe(colour="#ff0000", light=3), 1)
        self.assertEqual(light[..., 3].max(), 0)
        self.assertGreater(light[..., 0].max(), 4)
        self.assertEqual(light[..., 1].max(), 0)
        cover = render_frame(recipe(colour="#ff0000", comes_as="cover"), 1)
        np.testing.assert_allclose(cover[..., 0], cover[..., 3], atol=1e-6)

    def test_the_pattern_is_kept(self) -> None:
        """Another brightness, contrast or colour computes levels again, and no pattern."""
        cache = Cache(200_000_000)
        render_frame(recipe(), 1, 1.0, cache)

        def misses(**settings: Any) -> list[str]:
            before = plan(recipe(**settings), 1)
            names, waiting = [], [before]
            while waiting:
                node = waiting.pop()
                if cache.get(node.key) is None:
                    names.append(node.key)
                    waiting.extend(node.inputs)
            return names

        usual = len(misses(size=61))
        for settings in (
            {"brightness": 20},
            {"contrast": 300},
            {"colour": "#123456"},
            {"light": 1},
        ):
            with self.subTest(**settings):
                self.assertEqual(len(misses(**settings)), usual - 1)


class Kinds(TestCase):
    def test_heights_and_offsets_are_pictures_of_their_own(self) -> None:
        """One channel and two, signed, in px of the full-size canvas at every scale."""
        for comes_as, shape in (("height", ()), ("offsets", (2,))):
            made = recipe(comes_as=comes_as, amount=30)
            for scale in (1.0, 0.5):
                picture = render_frame(made, 1, scale)
                self.assertEqual(picture.shape[2:], shape)
                self.assertAlmostEqual(float(picture.std()), 9, delta=2.5)
                self.assertLess(picture.min(), -10)
        two = render_frame(recipe(comes_as="offsets"), 1)
        self.assertLess(abs(np.corrcoef(two[..., 0].ravel(), two[..., 1].ravel())[0, 1]), 0.3)

    def test_they_are_added_up(self) -> None:
        """Whatever their blends: times their opacity, on every frame of a group or the whole."""
        one = noise_layer("one", comes_as="height")
        two = noise_layer("two", comes_as="height", seed=2) | {"opacity": 50, "blend": "multiply"}
        whole = render_frame(small(one, two), 1)
        apart = [render_frame(small(each | {"opacity": 100}), 1) for each in (one, two)]
        np.testing.assert_allclose(whole, apart[0] + 0.5 * apart[1], atol=1e-4)
        group = {"id": "group", "name": "Group", "source": {"kind": "group"}, "steps": []}
        grouped = small(group, one | {"within": "group"}, two | {"within": "group"})
        np.testing.assert_allclose(render_frame(grouped, 1), whole, atol=1e-4)

    def test_beside_light_they_are_not_seen(self) -> None:
        bolt = bolt_layer()
        np.testing.assert_array_equal(
            render_frame(small(bolt, noise_layer(comes_as="offsets")), 1),
            render_frame(small(bolt), 1),
        )

    def test_limits_shutters_copies_and_holds(self) -> None:
        """What is done to layers as such works on them too."""
        limit = {"kind": "rectangle", "centre": [80, 90], "width": 100, "height": 100, "feather": 0}
        height = noise_layer(comes_as="height") | {"limits": [limit]}
        limited = render_frame(small(height), 1)
        self.assertEqual(np.abs(limited[:, 200:]).max(), 0)
        self.assertGreater(np.abs(limited[60:120, 60:100]).max(), 1)
        moving = {"boil": {"moves": "rate", "start": 0, "per_second": 9}}
        hold = {"kind": "hold", "id": "hold"}
        blurred = noise_layer("noise", [hold], comes_as="offsets", **moving) | {
            "shutter": {"angle": 360}
        }
        copy = {
            "id": "copy",
            "name": "Copy",
            "source": {"kind": "copy", "of": "noise"},
            "steps": [],
        }
        picture = render_frame(small(blurred, copy), 3)
        self.assertEqual(picture.shape[2:], (2,))
        self.assertGreater(picture.std(), 3)

    def test_what_is_not_taken(self) -> None:
        """A step on light, a setting that wants offsets, and a finish, with where and what to do."""
        blur = {"kind": "blur", "id": "blur"}
        height = noise_layer("height", comes_as="height")
        cases = [
            ([noise_layer("height", [blur], comes_as="height")], "layers[0].steps[0]"),
            ([bolt_layer(steps=[{"kind": "warp", "id": "w", "by": "height"}]), height], "layers[0].steps[0].by"),
            ([bolt_layer(steps=[{"kind": "flow", "id": "f", "by": "height"}]), height], "layers[0].steps[0].by"),
        ]  # fmt: skip
        for layers, path in cases:
            with self.assertRaises(RecipeError) as caught:
                small(*layers)
            self.assertEqual([problem.path for problem in caught.exception.problems], [path])
            self.assertRegex(str(caught.exception), "takes (light|a layer that makes)")
        with self.assertRaises(RecipeError) as caught:
            small(height, finish=[blur])
        self.assertEqual(caught.exception.problems[0].path, "finish[0]")

    def test_a_new_step_looks_at_what_it_takes(self) -> None:
        layers = [bolt_layer(), bolt_layer("other"), noise_layer("push", comes_as="offsets")]
        data = {"version": 3, "name": "Steps", "layers": layers}
        step = AddStep(does="add a step", layer="bolt", kind="warp")
        made = changed_by(data, step).recipe["layers"][0]["steps"][0]
        self.assertEqual(made["by"], "push")
        step = AddStep(does="add a step", layer="bolt", kind="flow")
        self.assertEqual(changed_by(data, step).recipe["layers"][0]["steps"][0]["by"], "other")

    def test_files(self) -> None:
        """EXR holds them as they are; a PNG says that it cannot."""
        with tempfile.TemporaryDirectory() as folder:
            for comes_as in ("height", "offsets"):
                picture = render_frame(recipe(comes_as=comes_as), 1)
                path = Path(folder) / f"{comes_as}.exr"
                write_exr(
                    path,
                    picture,
                    About(frame=1, rate=Fraction(25), drops=False, overscan=0),
                    "float",
                )
                np.testing.assert_array_equal(read_exr(path), picture)
                with self.assertRaisesRegex(WriteError, "EXR"):
                    write_png(Path(folder) / "no.png", picture)


class Pushing(TestCase):
    def test_displace_by_offsets_and_heights(self) -> None:
        """Wide offsets move a picture by as many px as they say, at every scale, the other way if the
        amount is below 0; and nothing goes farther than the amount."""
        wide = noise_layer(
            "push", comes_as="offsets", size=20000, waves=1, amount=16, at=[9000, 4000]
        )
        by = render_frame(small(wide), 1)[90, 160]
        self.assertGreater(np.hypot(*by), 4)
        plain = bolt_layer(boil=0)

        def middle(picture: np.ndarray) -> np.ndarray:
            light = picture[..., 1]
            y, x = np.mgrid[: light.shape[0], : light.shape[1]]
            return np.array([(light * x).sum(), (light * y).sum()]) / light.sum()

        for scale in (1.0, 0.5):
            for amount, way in ((200, 1), (-200, -1)):
                step = {"kind": "displace", "id": "d", "by": "push", "amount": amount}
                layers = (bolt_layer(steps=[step], boil=0), wide | {"on": False})
                moved = render_frame(small(*layers), 1, scale)
                still = render_frame(small(plain), 1, scale)
                np.testing.assert_allclose(
                    middle(moved) - middle(still), way * by * scale, atol=0.8
                )
        rough = noise_layer("push", comes_as="offsets", amount=4000)
        short = {"kind": "displace", "id": "d", "by": "push", "amount": 6}
        pushed = render_frame(small(bolt_layer(steps=[short], boil=0), rough), 1)
        still = render_frame(small(plain), 1)
        ys, xs = np.nonzero(still[..., 3] > 0.02)
        moved_y, moved_x = np.nonzero(pushed[..., 3] > 0.02)
        self.assertLessEqual(abs(int(moved_x.min()) - int(xs.min())), 7)
        self.assertLessEqual(abs(int(moved_y.max()) - int(ys.max())), 7)
        self.assertGreater(np.abs(pushed - still).max(), 0.1)


class Laid(TestCase):
    def test_along_a_straight_path_it_is_flat(self) -> None:
        path = {"name": "line", "closed": False, "vertices": [{"at": [0, 90]}, {"at": [320, 90]}]}
        along = small(noise_layer(path="line"), paths=[path])
        flat = recipe(at=[0, 90])
        np.testing.assert_allclose(render_frame(along, 1), render_frame(flat, 1), atol=1e-3)

    def test_the_sky_is_empty(self) -> None:
        ground = recipe(laid="on the ground", at=[160, 60], near=80, brightness=100)
        picture = render_frame(ground, 1)[..., 0]
        self.assertEqual(picture[:60].max(), 0)
        self.assertGreater(picture[75:].min(), 0.99)
        # 4 px below it, half of the tenth of 80 px in which it comes up; at half size in the same place.
        self.assertAlmostEqual(
            float(picture[63:65, 160].mean() / picture[100, 160]), 0.5, delta=0.05
        )
        half = render_frame(ground, 1, 0.5)[..., 0]
        self.assertAlmostEqual(float(half[31:33, 80].mean() / half[50, 80]), 0.5, delta=0.06)
        ceiling = recipe(laid="on the ground", at=[160, 60], near=-80, brightness=100)
        self.assertEqual(render_frame(ceiling, 1)[60:, :, 0].max(), 0)


class Returning(TestCase):
    def test_with_the_loop(self) -> None:
        """One change, and the frame after the last is the first, to the bit, without a dissolve."""
        boil = {"moves": "rate", "start": 0, "per_second": 0.9}
        data: dict[str, Any] = {
            "version": 3, "name": "Loop", "loop": 10,
            "canvas": {"width": 320, "height": 180, "rate": 25, "first": 1, "last": 50},
            "layers": [noise_layer(boil=boil)],
        }  # fmt: skip
        made = changed_by(data, ReturnWithLoop(does="return with the loop", layer="noise"))
        source = made.recipe["layers"][0]["source"]
        self.assertEqual(source["returns"], 2)
        self.assertEqual(source["boil"], {"moves": "rate", "start": 0, "per_second": 1.0})
        longer = made.recipe | {"canvas": data["canvas"] | {"last": 51}, "loop": 0}
        again = read_recipe(longer)
        np.testing.assert_array_equal(render_frame(again, 51), render_frame(again, 1))
        self.assertGreater(np.abs(render_frame(again, 26) - render_frame(again, 1)).max(), 0.05)
        loop = read_recipe(made.recipe)
        np.testing.assert_array_equal(render_frame(loop, 45), render_frame(again, 45))

    def test_backwards_too(self) -> None:
        layer = noise_layer(boil={"moves": "rate", "start": 2, "per_second": -0.1})
        data = {"version": 3, "name": "Loop", "layers": [layer]}
        made = changed_by(data, ReturnWithLoop(does="return with the loop", layer="noise"))
        source = made.recipe["layers"][0]["source"]
        self.assertEqual(source["returns"], 1)
        self.assertAlmostEqual(source["boil"]["per_second"], -1 / 3)
