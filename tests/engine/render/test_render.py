"""Planning, the cache, and what must hold for every kind there is."""

import os
import subprocess
import sys
from collections.abc import Iterator
from importlib.metadata import version
from typing import Any
from unittest import TestCase, mock

import cv2
import numpy as np

from handful.engine import Cache, Recipe, read_recipe, render_frame
from handful.engine.colour.transfer import encode_srgb
from handful.engine.everything import everything
from handful.engine.kinds import sources
from handful.engine.recipe.made import bends
from handful.engine.render import PlanError, Stopped, evaluate, plan
from handful.engine.render.edition import edition
from handful.engine.render.view import View, as_jpeg, shown, warnings_of
from tests.engine.recipes import GRADED, bolt_layer, demo_data, small

GLOW = {"kind": "glow", "id": "glow"}


class Frames(TestCase):
    def test_size_follows_scale(self) -> None:
        """Definition: the canvas times the scale, rounded up."""
        recipe = small(bolt_layer())
        self.assertEqual(render_frame(recipe, 1).shape, (180, 320, 4))
        self.assertEqual(render_frame(recipe, 1, 1 / 3).shape, (60, 107, 4))

    def test_refusals(self) -> None:
        """A frame or scale that is not there is named."""
        recipe = small(bolt_layer())
        for arguments, says in (
            ((51, 1.0), "frame 51 is not within 1 to 50"),
            ((1, 9.0), "scale 9"),
            ((1, float("nan")), "scale"),
        ):
            with self.assertRaisesRegex(PlanError, says):
                plan(recipe, *arguments)
        with self.assertRaisesRegex(PlanError, "no layer 'x'"):
            plan(recipe, 1, 1.0, "x")

    def test_layers_show_within_their_frames(self) -> None:
        """A layer is there from its first to its last frame and not beside them."""
        recipe = small(bolt_layer() | {"first": 10, "last": 12})
        self.assertEqual(
            [bool(render_frame(recipe, frame, 0.5).any()) for frame in (9, 10, 12, 13)],
            [False, True, True, False],
        )

    def test_off_and_transparent(self) -> None:
        """What is off or at no opacity is not in the picture; a step that is off does nothing."""
        self.assertFalse(render_frame(small(bolt_layer() | {"on": False}), 1).any())
        self.assertFalse(render_frame(small(bolt_layer() | {"opacity": 0}), 1).any())
        without = render_frame(small(bolt_layer()), 1)
        switched = render_frame(small(bolt_layer(steps=[GLOW | {"on": False}])), 1)
        np.testing.assert_array_equal(switched, without)


class Overscan(TestCase):
    def test_light_from_beyond_the_edge(self) -> None:
        """A strike just outside the canvas glows into it, as on a larger canvas."""
        outside = bolt_layer(steps=[GLOW], start=[-12, 20], end=[-12, 160], branches=0, width=6)
        shifted = bolt_layer(steps=[GLOW], start=[148, 20], end=[148, 160], branches=0, width=6)
        near, far = render_frame(small(outside), 1), render_frame(small(shifted), 1)
        self.assertGreater(float(near[:, :20].max()), 0.01)
        np.testing.assert_allclose(near[:, :150], far[:, 160:310], atol=2e-4)

    def test_never_cut_off(self) -> None:
        """Around a small bolt a wide glow comes down to nothing without a step anywhere."""
        glow = GLOW | {"lobes": [{"radius": 4}, {"radius": 40, "gain": 3}]}
        recipe = small(bolt_layer(steps=[glow], start=[150, 80], end=[170, 100], branches=0))
        light = render_frame(recipe, 1)[..., 2]
        rows = light[90, :120]
        self.assertTrue((np.diff(rows) >= -1e-7).all())
        self.assertLess(float(np.abs(np.diff(light[20], n=2)).max()), 2e-4)


class EveryKind(TestCase):
    def _alone(self) -> Iterator[tuple[str, Recipe]]:
        """Every kind as it comes, on its own; what it names is a still bolt with a glow."""
        made_of, done_to = everything()
        limits = next(layer for layer in made_of.layers if layer.id == "all")
        done_to = done_to.model_copy(update={"layers": [*done_to.layers, limits]})
        for known, layer in [(each, layer) for each in (made_of, done_to) for layer in each.layers]:
            if layer.id in ("other", "member") or (
                known is done_to and layer.id.startswith("other")
            ):
                continue
            if known is done_to and layer is limits:
                continue
            inside = {each.id for each in known.layers if each.within == layer.id}
            shown = {layer.id, *(["all"] if bends(layer) else [])} | inside
            kept = {"other", "other height", "other offsets", "all"} | shown
            layers = [each for each in known.layers if each.id in kept]
            layers = [
                each.model_copy(
                    update={"on": each.id in shown, "blend": "add", "blends_in": "light"}
                )
                for each in layers
            ]
            yield layer.id, known.model_copy(update={"layers": layers})

    def test_half_size_matches_full_size_reduced(self) -> None:
        """OpenCV's area average of the full picture; 40 dB PSNR over what an 8-bit display shows.

        Cover is as drawn: cover from light is made from the px of each size. It is looked at on the first of
        some frames on which there is something to compare.
        """
        for name, made in self._alone():
            recipe = made.model_copy(update={"cover": "as drawn"})
            with self.subTest(kind=name):
                frame, full = next(
                    (frame, picture)
                    for frame in (1003, 1002, 1008)
                    if (picture := render_frame(recipe, frame, media=GRADED)).max() > 0.05
                )
                half = render_frame(recipe, frame, 0.5, media=GRADED)
                wanted = cv2.resize(full, half.shape[1::-1], interpolation=cv2.INTER_AREA)
                error = np.clip(half, 0, 1) - np.clip(wanted, 0, 1)
                if half.shape[2:] != (
                    4,
                ):  # px, of which a display shows so many from black to white
                    error = (half - wanted) / 128
                psnr = -10 * np.log10(max(1e-12, float((error**2).mean())))
                self.assertGreater(psnr, 40)

    def test_finite(self) -> None:
        """No picture holds NaN or infinity, and cover is from 0 to 1."""
        for recipe in everything():
            picture = render_frame(recipe, 1001, 0.25)
            self.assertTrue(np.isfinite(picture).all())
            self.assertTrue(((picture[..., 3] >= 0) & (picture[..., 3] <= 1)).all())

    def test_same_bits_in_any_order(self) -> None:
        """A frame is the same to the bit whatever was computed before it, cached or not."""
        for recipe in everything():
            cache = Cache(1 << 28)
            for frame in (1009, 1002, 1005):
                render_frame(recipe, frame, 0.25, cache)
            np.testing.assert_array_equal(
                render_frame(recipe, 1005, 0.25, cache), render_frame(recipe, 1005, 0.25)
            )

    def test_same_bits_on_one_thread_and_two(self) -> None:
        """The digest of a frame in two fresh processes that differ in their threads."""
        script = (
            "import hashlib; from handful.engine.everything import everything;"
            "from handful.engine import render_frame;"
            "print([hashlib.sha256(render_frame(recipe, 1003, 0.3).tobytes()).hexdigest() for recipe in everything()])"
        )
        digests = {
            subprocess.run(
                [sys.executable, "-c", script], env={**os.environ, "HANDFUL_THREADS": threads},
                capture_output=True, text=True, check=True,
            ).stdout
            for threads in ("1", "2")
        }  # fmt: skip
        self.assertEqual(len(digests), 1)


class Keys(TestCase):
    def _still(self) -> dict[str, Any]:
        data = demo_data()
        for layer in data["layers"]:
            if layer["source"]["kind"] == "bolt":
                layer["source"] |= {"core_light": 3, "edge_light": -1, "strokes": 0}
            elif "light" in layer["source"]:
                layer["source"]["light"] = 3
            layer["source"] |= {"boil": 0} if layer["source"]["kind"] != "flare" else {}
            layer["opacity"] = 80
            layer["steps"] = [step for step in layer["steps"] if step["kind"] != "flicker"]
            del layer["life"]
        for point in data["points"]:
            point["at"] = point["at"]["start"]
        return data

    def test_what_does_not_move_is_computed_once(self) -> None:
        """A still recipe has one key for all frames on which the same layers show."""
        recipe = read_recipe(self._still())
        self.assertEqual(plan(recipe, 1012).key, plan(recipe, 1040).key)
        self.assertNotEqual(plan(recipe, 1012).key, plan(recipe, 1001).key)

    def test_a_change_keeps_other_layers(self) -> None:
        """Changing one layer computes that layer and the mix again, and nothing else."""
        cache = Cache(1 << 28)
        data = self._still()
        evaluate(plan(read_recipe(data), 1012, 0.25), cache)
        before = cache.misses
        data["layers"][1]["steps"][0]["lobes"][1]["radius"] = 91
        evaluate(plan(read_recipe(data), 1012, 0.25), cache)
        self.assertEqual(cache.misses - before, 3)

    def test_every_setting_counts(self) -> None:
        """No setting of a bolt is left out of its key, nor the recipe's seed or the layer's id."""
        named = {"sways": [{"name": "other"}], "paths": [{"name": "other"}]}

        def key(layer: dict[str, Any], **more: int) -> str:
            return plan(small(layer, bolt_layer("matte"), **named, **more), 1).key

        struck: dict[str, Any] = {"strokes": 3, "clock": 0.1}
        keys = {key(bolt_layer(**struck))}
        for setting in sources()["bolt"].settings:
            other: object = {
                "point": [77, 88], "colour": "#123456", "choice": setting.choices[-1:] and
                setting.choices[-1], "layer": "matte", "named": "other",
            }.get(setting.type)  # fmt: skip
            if other is None:
                other = setting.least if setting.least != setting.default else setting.most
            keys.add(key(bolt_layer(**struck | {setting.name: other})))
        keys.add(key(bolt_layer(**struck), seed=1))
        keys.add(key(bolt_layer("other", **struck)))
        self.assertEqual(len(keys), 3 + len(sources()["bolt"].settings))

    def test_what_cannot_matter_is_set_aside(self) -> None:
        """A bolt that burns without strokes is not drawn again as their clock runs on."""
        still: dict[str, Any] = {"boil": 0, "strokes": 0}
        self.assertEqual(
            plan(small(bolt_layer(**still)), 1).key, plan(small(bolt_layer(**still)), 9).key
        )

    def test_budget(self) -> None:
        """The cache never holds more bytes than it may, and a hopeless tile is not kept."""
        cache = Cache(2_000_000)
        for frame in range(1, 12):
            render_frame(small(bolt_layer(steps=[GLOW])), frame, 1.0, cache)
            self.assertLessEqual(cache.held, cache.budget)
        self.assertGreater(cache.held, 0)

    def test_stopping(self) -> None:
        """Work that is not wanted any more stops between two nodes."""
        asked = iter([False, True])
        with self.assertRaises(Stopped):
            evaluate(plan(small(bolt_layer(steps=[GLOW])), 1), Cache(0), lambda: next(asked))


class Views(TestCase):
    def test_backgrounds_and_channels(self) -> None:
        """Closed form: light + (1 - cover) x background, encoded by IEC 61966-2-1, in 8 bits."""
        picture = np.zeros((8, 8, 4), np.float32)
        picture[...] = (0.5, 0.25, 0, 0.5)
        plate = np.full((8, 8, 3), 255, np.uint8)
        for view, behind, wanted in (
            (View("black"), None, (188, 137, 0)),
            (View("plate"), plate, (255, 225, 188)),
            (View("grey"), None, (201.7, 158.0, 85.0)),
            (View("black", "cover"), None, (188, 188, 188)),
            (View("grey", "light"), None, (188, 137, 0)),
            (View("black", "green"), None, (137, 137, 137)),
            (View("black", "picture", 1.0), None, (255, 188, 0)),
        ):
            with self.subTest(view=view):
                mean = shown(picture, view, behind).reshape(-1, 3).mean(0)
                np.testing.assert_allclose(mean, wanted, atol=0.8)

    def test_offsets_as_colour(self) -> None:
        """No offset is grey; opposite ones are complementary: their mean is grey again."""
        picture = np.zeros((1, 3, 4), np.float32)
        picture[0, 1, :2], picture[0, 2, :2] = (0.3, -0.4), (-0.3, 0.4)
        still, one, other = shown(picture, View(channel="offsets"))[0].astype(int)
        np.testing.assert_array_equal(still, 127)
        self.assertGreater(int(np.ptp(one)), 60)
        np.testing.assert_allclose((one + other) / 2, 127.5, atol=1)

    def test_clipping_is_striped(self) -> None:
        """Light above white at the exposure looked at, and no other, is striped."""
        picture = np.full((16, 16, 4), 0.5, np.float32)
        picture[4:8] = 3
        calm, striped = (shown(picture, View(clipping=on)) for on in (False, True))
        changed = (calm != striped).any(axis=(1, 2))
        np.testing.assert_array_equal(np.flatnonzero(changed), range(4, 8))
        darker = View(exposure=-2, clipping=True)
        np.testing.assert_array_equal(shown(picture, darker), shown(picture, View(exposure=-2)))

    def test_warnings(self) -> None:
        """Counted by hand: a quarter of the px at 3, less than 2 stops above white, at the left."""
        picture = np.zeros((16, 16, 4), np.float32)
        picture[4:12, :8] = 3
        edges, clipped, above, beyond, *_ = warnings_of(picture, 0)
        self.assertEqual((edges, beyond), (("left",), ()))
        self.assertEqual(clipped, 0.25)
        self.assertEqual(above, 2.0)
        self.assertEqual(warnings_of(picture, -above).clipped, 0)
        picture[8, 2] = 5000  # one of 64 does not count
        self.assertEqual(warnings_of(picture, 0).above, 2.0)

    def test_faint_light_has_no_steps(self) -> None:
        """Ordered noise: the mean over a block follows light between two 8-bit levels."""
        picture = np.full((8, 8, 4), 0.00146, np.float32)
        levels = shown(picture, View("black", "light"))
        self.assertEqual(len(np.unique(levels)), 2)
        self.assertAlmostEqual(float(levels.mean()), 0.00146 * 12.92 * 255, delta=0.05)

    def test_levels_are_true(self) -> None:
        """IEC 61966-2-1: the mean over a block of ordered noise is the exact level within a tenth."""
        for light in (0.0005, 0.002, 0.004, 0.02, 0.18, 0.5, 0.97):
            levels = shown(np.full((8, 8, 4), light, np.float32), View("black", "light"))
            exact = float(encode_srgb(np.array(light))) * 255
            self.assertAlmostEqual(float(levels.mean()), exact, delta=0.1)

    def test_jpeg(self) -> None:
        """OpenCV reads what was encoded, within what JPEG loses."""
        levels = np.tile(np.arange(0, 256, 4, dtype=np.uint8)[:, None, None], (1, 64, 3))
        read = cv2.imdecode(np.frombuffer(as_jpeg(levels), np.uint8), cv2.IMREAD_COLOR)
        assert read is not None
        self.assertLessEqual(int(np.abs(read.astype(int) - levels).max()), 6)


class Lives(TestCase):
    def _light(self, frame: int, **layer: object) -> float:
        return float(render_frame(small(bolt_layer(boil=0) | layer), frame, 0.5).sum())

    def test_life_drives_opacity(self) -> None:
        """Half way up a straight rise there is half the light; beyond the span there is none."""
        life = {"rise": 4, "fall": 10}
        full = self._light(20, life=life, first=10, last=40)
        self.assertAlmostEqual(self._light(12, life=life, first=10, last=40) / full, 0.5, places=4)
        self.assertAlmostEqual(self._light(35, life=life, first=10, last=40) / full, 0.5, places=4)
        self.assertEqual(self._light(10, life=life, first=10, last=40), 0)
        self.assertEqual(self._light(41, life=life, first=10, last=40), 0)

    def test_unless_told_otherwise(self) -> None:
        """A life that drives nothing leaves opacity alone; a setting may follow it all the same."""
        idle = {"rise": 20, "drives": "nothing"}
        self.assertEqual(self._light(2, life=idle), self._light(2))
        width = {"moves": "life", "start": 0.5, "end": 8}
        source = bolt_layer(boil=0, width=width)["source"]
        thin, thick = (self._light(frame, life=idle, source=source) for frame in (2, 30))
        self.assertGreater(thick, 3 * thin)

    def test_overshoot_stays_within_bounds(self) -> None:
        """An ease that overshoots never makes a layer cover more than all or less than nothing."""
        life = {"rise": 10, "ease": [0.3, 3.0, 0.7, -2.0]}
        for frame in range(1, 12):
            picture = render_frame(
                small(bolt_layer() | {"life": life, "blend": "normal"}), frame, 0.5
            )
            self.assertTrue(((picture >= 0) & (picture[..., 3:] <= 1)).all())


class Edition(TestCase):
    def test_it_goes_by_what_it_computes_with(self) -> None:
        """Another version of numba, NumPy or OpenCV is another edition, and so is another compiler."""
        known = edition.__wrapped__()
        self.assertEqual(edition.__wrapped__(), known)
        for changed in ("numba", "numpy", "opencv-python-headless", "llvmlite"):

            def version_of(name: str, changed: str = changed) -> str:
                return "0.0.0" if name == changed else version(name)

            with mock.patch("handful.engine.render.edition.version", version_of):
                self.assertNotEqual(edition.__wrapped__(), known)
