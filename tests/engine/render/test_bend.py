"""What bends all that is behind it: the layers below, and the plate by the offsets that are delivered."""

from __future__ import annotations

import math
import tempfile
from fractions import Fraction
from pathlib import Path
from typing import Any
from unittest import TestCase

import cv2
import numpy as np
import OpenEXR
from scipy.ndimage import gaussian_filter

from handful.engine import Recipe, read_recipe, render_frame
from handful.engine.files import FORMATS, About, WriteError
from handful.engine.mix import Seen, bent_plate, beyond, folds
from handful.engine.recipe import RecipeError
from handful.engine.render import PlanError, plan_bend, render_bend
from handful.engine.sources.bend import turned_by
from tests.engine.recipes import GRADED

WIDE, HIGH = 320, 180
AS_IT_IS = Seen(0.0, 3, 0.0, "mirror")
LINES = {
    "id": "lines",
    "name": "Lines",
    "source": {"kind": "noise", "comes_as": "cover", "size": 30, "waves": 2},
}


def ring(name: str, **more: Any) -> dict[str, Any]:
    source = {
        "kind": "ring", "at": [160, 90], "grows": "at a speed", "speed": 400, "front": 20, "tail": 20,
        "comes_as": "offsets", "amount": 12, "rough": 0, "patchy": 0,
    }  # fmt: skip
    return {"id": name, "name": name, "on": False, "source": source | more}


def bend(by: str, name: str = "bend", **more: Any) -> dict[str, Any]:
    own = (
        "strength", "most", "spread", "edge", "colours", "blur", "bends", "index", "thickness",
    )  # fmt: skip
    settings = {key: more.pop(key) for key in own if key in more}
    return {"id": name, "name": "Bend", "source": {"kind": "bend", "by": by, **settings}, **more}


def recipe_of(*layers: dict[str, Any], **more: Any) -> Recipe:
    canvas = {"width": WIDE, "height": HIGH, "rate": 25, "first": 1001, "last": 1020}
    return read_recipe(
        {
            "version": 3,
            "name": "Bent",
            "canvas": canvas,
            "cover": "as drawn",
            "layers": [*layers],
            **more,
        }
    )


def pushed(recipe: Recipe, frame: int = 1006, scale: float = 1.0) -> np.ndarray:
    found = render_bend(recipe, frame, scale)
    assert found is not None
    return found.offsets


def remapped(picture: np.ndarray, offsets: np.ndarray, scale: float = 1.0) -> np.ndarray:
    """OpenCV's remap: what is seen at a px is what was at the px less the offsets."""
    height, width = picture.shape[:2]
    x, y = np.meshgrid(np.arange(width, dtype=np.float32), np.arange(height, dtype=np.float32))
    return cv2.remap(
        picture, x - offsets[..., 0] * scale, y - offsets[..., 1] * scale, cv2.INTER_CUBIC,
        borderMode=cv2.BORDER_REFLECT,
    )  # fmt: skip


def decibels(one: np.ndarray, other: np.ndarray, most: float = 1.0) -> float:
    return float(-10 * np.log10(max(1e-12, float((((one - other) / most) ** 2).mean()))))


class Below(TestCase):
    def test_by_opencv(self) -> None:
        """The layers below come out as OpenCV's remap bends them by the delivered offsets: within 45 dB."""
        recipe = recipe_of(LINES, ring("ring"), bend("ring"))
        plain = render_frame(recipe_of(LINES), 1006)
        offsets = pushed(recipe)
        self.assertGreater(float(np.abs(offsets).max()), 5)
        found = render_frame(recipe, 1006)
        self.assertGreater(decibels(found, remapped(plain, offsets)), 45)
        self.assertLess(decibels(found, plain), 30)

    def test_only_what_is_below(self) -> None:
        """A layer above it stays as it is, and so does what is in another group."""
        above = recipe_of(ring("ring"), bend("ring"), LINES)
        np.testing.assert_array_equal(
            render_frame(above, 1006), render_frame(recipe_of(LINES), 1006)
        )
        group = {"id": "group", "name": "Group", "source": {"kind": "group"}}
        inside = recipe_of(LINES, group, ring("ring"), bend("ring", within="group"))
        np.testing.assert_allclose(
            render_frame(inside, 1006), render_frame(recipe_of(LINES), 1006), atol=1e-6
        )
        self.assertEqual(
            float(np.abs(pushed(inside)).max()) if render_bend(inside, 1006) is not None else 0, 0
        )

    def test_strength_opacity_and_limits(self) -> None:
        """Twice the strength at half the opacity is the same; where it is kept out nothing is bent."""
        full = pushed(recipe_of(ring("ring"), bend("ring")))
        half = pushed(recipe_of(ring("ring"), bend("ring", strength=200, opacity=50)))
        np.testing.assert_allclose(half, full, atol=1e-4)
        left = {"kind": "rectangle", "centre": [80, 90], "width": 160, "height": 400, "feather": 0}
        kept = pushed(recipe_of(ring("ring"), bend("ring", limits=[left])))
        np.testing.assert_allclose(kept[:, :150], full[:, :150], atol=1e-5)
        self.assertEqual(float(np.abs(kept[:, 170:]).max()), 0)
        self.assertLessEqual(
            float(
                np.hypot(
                    *np.moveaxis(pushed(recipe_of(ring("ring"), bend("ring", most=3))), 2, 0)
                ).max()
            ),
            3.001,
        )

    def test_a_height_bends_down_its_slope(self) -> None:
        """By 100 px for a slope of 1 in 1: a ring 12 px high, from its own picture by NumPy's gradient."""
        by = ring("ring", comes_as="height")
        recipe = recipe_of(by, bend("ring", most=2000))
        height = render_frame(recipe_of(by), 1006, layer="ring")
        down, across = np.gradient(height, axis=0), np.gradient(height, axis=1)
        inner = pushed(recipe)[2:-2, 2:-2]
        np.testing.assert_allclose(inner[..., 0], 100 * across[2:-2, 2:-2], atol=1e-3)
        np.testing.assert_allclose(inner[..., 1], 100 * down[2:-2, 2:-2], atol=1e-3)

    def test_colours_apart(self) -> None:
        """With a spread, green is bent as without, blue farther than red."""
        plain = render_frame(recipe_of(LINES, ring("ring"), bend("ring")), 1006)
        apart = render_frame(recipe_of(LINES, ring("ring"), bend("ring", spread=40)), 1006)
        np.testing.assert_allclose(apart[..., 1], plain[..., 1], atol=1e-5)
        unbent = render_frame(recipe_of(LINES), 1006)
        offsets = pushed(recipe_of(ring("ring"), bend("ring")))
        for channel, share in ((0, 0.8), (2, 1.2)):
            wanted = remapped(unbent, offsets, share)[..., channel]
            self.assertGreater(decibels(apart[..., channel], wanted), 42)

    def test_many_colours(self) -> None:
        """Nine colours leave the light of each channel what it is on an even picture, and smear an edge where
        three make three edges: no px steps as far."""
        apart = [
            render_frame(
                recipe_of(
                    LINES, ring("ring"), bend("ring", spread=50, strength=300, colours=colours)
                ),
                1006,
            )[..., 0]
            for colours in (3, 9)
        ]
        self.assertAlmostEqual(float(apart[1].mean() / apart[0].mean()), 1, delta=0.02)
        self.assertGreater(float(np.abs(apart[0] - apart[1]).max()), 0.02)

    def test_through_a_clear_surface(self) -> None:
        """Snell's law: a ray that goes down onto water of a slope a is turned by a − asin(sin a / n); handbook:
        from 30° in air to 22.1° in water. A height's rays land that far off on what lies below."""
        self.assertAlmostEqual(
            turned_by(math.tan(math.radians(30)), 1.333),
            math.tan(math.radians(30 - 22.03)),
            places=3,
        )
        self.assertEqual(turned_by(0.7, 1.0), 0)
        by = ring("ring", comes_as="height", amount=60)
        clear: dict[str, Any] = {"bends": "as a clear surface", "most": 2000, "thickness": 400}
        height = render_frame(recipe_of(by), 1006, layer="ring")
        down, across = np.gradient(height, axis=0), np.gradient(height, axis=1)
        steep = np.arctan(np.hypot(across, down))
        wanted = 400 * np.tan(steep - np.arcsin(np.sin(steep) / 1.5))
        found = pushed(recipe_of(by, bend("ring", index=1.5, **clear)))[2:-2, 2:-2]
        np.testing.assert_allclose(
            np.hypot(*np.moveaxis(found, 2, 0)), wanted[2:-2, 2:-2], atol=2e-3, rtol=1e-3
        )
        np.testing.assert_allclose(
            found[..., 0] * down[2:-2, 2:-2], found[..., 1] * across[2:-2, 2:-2], atol=1e-3
        )

    def test_blurred_as_it_is_bent(self) -> None:
        """Layers below are blurred where they are bent, sharp where they are not."""
        layers = (LINES, ring("ring"))
        sharp = render_frame(recipe_of(*layers, bend("ring")), 1006)
        soft = render_frame(recipe_of(*layers, bend("ring", blur=60)), 1006)
        bends = np.hypot(*np.moveaxis(pushed(recipe_of(*layers, bend("ring"))), 2, 0))
        np.testing.assert_allclose(soft[bends == 0], sharp[bends == 0], atol=2e-3)

        def roughness(picture: np.ndarray) -> float:
            return float(np.abs(np.diff(picture[..., 3], axis=1))[bends[:, 1:] > 6].mean())

        self.assertLess(roughness(soft), 0.8 * roughness(sharp))

    def test_half_size(self) -> None:
        """Offsets stay px of the full size at any scale."""
        recipe = recipe_of(LINES, ring("ring"), bend("ring"))
        full, half = pushed(recipe), pushed(recipe, scale=0.5)
        reduced = cv2.resize(full, half.shape[1::-1], interpolation=cv2.INTER_AREA)
        self.assertGreater(decibels(half, reduced, 128), 40)
        one, two = render_frame(recipe, 1006), render_frame(recipe, 1006, 0.5)
        wanted = cv2.resize(one, two.shape[1::-1], interpolation=cv2.INTER_AREA)
        self.assertGreater(decibels(two, wanted), 40)

    def test_a_limit_takes_only_light(self) -> None:
        """Of a layer, of its steps and of the finish alike: offsets are no matte, and that is told."""
        mist = {"id": "mist", "name": "Mist", "source": {"kind": "noise"}}
        matte = {"kind": "matte", "layer": "bend"}
        blur = {"kind": "blur", "id": "blur", "limits": [matte]}
        cases: list[tuple[dict[str, Any], list[Any]]] = [
            ({"limits": [matte]}, []), ({"steps": [blur]}, []), ({}, [blur]),
        ]  # fmt: skip
        for more, finish in cases:
            with self.assertRaisesRegex(
                RecipeError, "takes a layer that makes light; 'bend' makes"
            ):
                recipe_of(ring("ring"), bend("ring"), mist | more, finish=finish)

    def test_it_takes_only_shapes(self) -> None:
        with self.assertRaisesRegex(RecipeError, "takes a layer that makes a height or offsets"):
            recipe_of(LINES, bend("lines"))


class Plate(TestCase):
    def test_two_one_after_the_other(self) -> None:
        """A plate bent by both at once is one bent by the lower and then by the upper: 40 dB."""
        lower, upper = ring("low", at=[130, 90]), ring("high", at=[190, 90])
        both = pushed(recipe_of(lower, upper, bend("low", "b1"), bend("high", "b2")))
        plate = render_frame(recipe_of(LINES), 1006)[..., :3].copy()
        first = remapped(plate, pushed(recipe_of(lower, bend("low"))))
        wanted = remapped(first, pushed(recipe_of(upper, bend("high"))))
        self.assertGreater(decibels(remapped(plate, both), wanted), 40)

    def test_as_the_bench_shows_it(self) -> None:
        """The display plate, bent by the offsets at a scale, is OpenCV's: 45 dB."""
        levels = (
            (render_frame(recipe_of(LINES), 1006, 0.5)[..., :3] * 200).clip(0, 255).astype(np.uint8)
        )
        offsets = pushed(recipe_of(ring("ring"), bend("ring")), scale=0.5)
        wanted = remapped(levels, offsets, 0.5)
        found = bent_plate(levels.astype(np.float32), offsets, None, AS_IT_IS, 0.5)
        self.assertGreater(decibels(found.clip(0, 255), wanted.astype(float), 255), 45)

    def test_colours_apart(self) -> None:
        """The plate's blue is bent farther than its red, as that of layers is."""
        plate = render_frame(recipe_of(LINES), 1006)[..., :3].copy()
        offsets = pushed(recipe_of(ring("ring"), bend("ring")))
        found = bent_plate(plate, offsets, None, AS_IT_IS._replace(spread=0.4), 1.0)
        for channel, share in ((0, 0.8), (1, 1.0), (2, 1.2)):
            wanted = remapped(plate, offsets, share)[..., channel]
            self.assertGreater(decibels(found[..., channel], wanted), 60)

    def test_blurred_as_far_as_it_is_bent(self) -> None:
        """Where the deviation is even it is SciPy's normal blur, between the steps too; nothing where it is
        nothing, and the deviations of two layers add up by their squares."""
        plate = render_frame(recipe_of(LINES), 1006)[..., :3].copy()
        none = np.zeros((HIGH, WIDE, 2), np.float32)
        for deviation in (3.0, 6.0):
            blur = np.full((HIGH, WIDE), deviation, np.float32)
            blur[:4, :4] = 9.0
            found = bent_plate(plate, none, blur, AS_IT_IS, 1.0)[30:-30, 30:-30]
            wanted = gaussian_filter(plate, (deviation, deviation, 0), mode="nearest")[
                30:-30, 30:-30
            ]
            self.assertGreater(decibels(found, wanted), 42)
        layers = (ring("low", at=[130, 90]), ring("high"), bend("low", "b1", blur=30))
        one = render_bend(recipe_of(*layers), 1006)
        both = render_bend(recipe_of(*layers, bend("high", "b2", blur=40, strength=200)), 1006)
        assert (
            one is not None and one.blur is not None and both is not None and both.blur is not None
        )
        lengths = [
            np.hypot(*np.moveaxis(pushed(recipe_of(*layers[:2], of)), 2, 0))
            for of in (bend("low"), bend("high", strength=200))
        ]
        np.testing.assert_allclose(one.blur, 0.3 * lengths[0], atol=1e-4)
        np.testing.assert_allclose(
            both.blur, np.hypot(0.3 * lengths[0], 0.4 * lengths[1]), atol=1e-3
        )

    def test_beyond_the_edge(self) -> None:
        """The sides at which what is not on the plate would show are told, and no others."""
        offsets = np.zeros((HIGH, WIDE, 2), np.float32)
        self.assertEqual(beyond(offsets, 1.0), ())
        offsets[90, 2] = (5, 0)
        offsets[2, 160] = (0, 1.5)
        offsets[100, 160] = (-300, -300)
        self.assertEqual(beyond(offsets, 1.0), ("left", "right", "bottom"))
        offsets[100, 160] = (-30, 30)
        self.assertEqual(beyond(offsets, 1.0), ("left",))
        self.assertEqual(beyond(offsets, 0.25), ())

    def test_where_it_folds(self) -> None:
        """A wave a sin(2 π x / l) folds where its slope is beyond 1, from a = l / 2 π on; the share and the place in
        closed form, at every scale."""
        x = np.arange(WIDE) + 0.5
        for strong, share in ((0.95, 0.0), (2.0, 1 / 3), (10.0, math.acos(0.1) / math.pi)):
            offsets = np.zeros((HIGH, WIDE, 2), np.float32)
            offsets[..., 0] = strong * 80 / (2 * math.pi) * np.sin(2 * math.pi * x / 80)
            for scale in (1.0, 0.5):
                part = offsets[:: round(1 / scale), :: round(1 / scale)]
                self.assertAlmostEqual(folds(part, scale)[0], share, delta=0.02)
            self.assertEqual(folds(np.zeros_like(offsets), 1.0), (0.0, (0.0, 0.0)))
        one = np.zeros((HIGH, WIDE, 2), np.float32)
        one[90:110, 200] = (7, 0)
        share, place = folds(one, 1.0)
        self.assertAlmostEqual(share, 20 / ((HIGH - 1) * (WIDE - 1)), delta=1e-4)
        np.testing.assert_allclose(place, (200, 100), atol=2)
        turned = np.zeros((HIGH, WIDE, 2), np.float32)
        turned[..., 1] = 3 * np.arange(HIGH)[:, None]
        self.assertEqual(folds(turned, 1.0)[0], 1.0)

    def test_in_a_loop(self) -> None:
        """What runs by a rate bends the plate on the last frame nearly as on the first: no seam is left."""
        air = {
            "id": "air", "name": "Air", "on": False,
            "source": {
                "kind": "noise", "comes_as": "offsets", "size": 60, "amount": 12,
                "boil": {"moves": "rate", "start": 0, "per_second": 3},
            },
        }  # fmt: skip
        first, last, unturned = (
            pushed(recipe_of(air, bend("air"), loop=loop), frame)
            for loop, frame in ((8, 1001), (8, 1020), (0, 1020))
        )
        self.assertLess(
            float(np.abs(last - first).mean()), 0.5 * float(np.abs(unturned - first).mean())
        )

    def test_every_frame_delivers_the_same(self) -> None:
        """Before a layer that bends begins, offsets and blur are there and nothing; the plate is as it is."""
        recipe = recipe_of(ring("ring"), bend("ring", blur=20, first=1005))
        before = render_bend(recipe, 1002, media=GRADED, with_plate=True)
        assert before is not None and before.blur is not None and before.plate is not None
        self.assertEqual((float(np.abs(before.offsets).max()), float(before.blur.max())), (0, 0))
        self.assertEqual(before.offsets.shape, (HIGH, WIDE, 2))
        untouched = render_bend(
            recipe_of(ring("ring"), bend("ring", first=1005)), 1001, media=GRADED, with_plate=True
        )
        assert untouched is not None and untouched.plate is not None and untouched.blur is None
        np.testing.assert_array_equal(before.plate, untouched.plate)
        after = render_bend(recipe, 1012)
        assert after is not None and after.blur is not None
        self.assertGreater(float(after.blur.max()), 0.5)

    def test_none(self) -> None:
        """A recipe that bends nothing delivers no offsets; a frame it does not have is refused."""
        self.assertIsNone(render_bend(recipe_of(LINES), 1006))
        self.assertIsNone(render_bend(recipe_of(ring("ring"), bend("ring", on=False)), 1006))
        with self.assertRaises(PlanError):
            plan_bend(recipe_of(ring("ring"), bend("ring")), 5000)

    def test_alone_it_is_light(self) -> None:
        """A shot that only bends is a clear picture, and its offsets."""
        picture = render_frame(recipe_of(ring("ring"), bend("ring")), 1006)
        self.assertEqual((picture.shape, float(picture.max())), ((HIGH, WIDE, 4), 0))

    def test_delivered(self) -> None:
        """An EXR holds all of it, and the bent plate where that is wanted; a PNG says that it cannot."""
        recipe = recipe_of(LINES, ring("ring"), bend("ring", blur=20))
        picture = render_frame(recipe, 1006)
        bent = render_bend(recipe, 1006, media=GRADED, with_plate=True)
        assert bent is not None and bent.plate is not None
        offsets = bent.offsets
        levels = GRADED.read(WIDE, HIGH).astype(np.float32)
        light = np.where(
            levels <= 10, levels / 255 / 12.92, ((levels / 255 + 0.055) / 1.055) ** 2.4
        )
        still = np.abs(offsets).max(axis=2) == 0
        np.testing.assert_allclose(bent.plate[still], light[still], atol=1e-3)
        self.assertGreater(decibels(bent.plate, remapped(light.astype(np.float32), offsets)), 45)
        with tempfile.TemporaryDirectory() as name:
            path = Path(name) / "bent.1006.exr"
            FORMATS["exr-float"].write(path, picture, About(1006, Fraction(25)), bent)
            with OpenEXR.File(str(path)) as file:
                channels = file.channels()
                np.testing.assert_array_equal(channels["offsets.X"].pixels, offsets[..., 0])
                np.testing.assert_array_equal(channels["offsets.Y"].pixels, offsets[..., 1])
                np.testing.assert_array_equal(channels["RGBA"].pixels, picture)
                np.testing.assert_array_equal(channels["offsets.blur"].pixels, bent.blur)
                np.testing.assert_array_equal(channels["plate"].pixels, bent.plate)
            for without in (None, bent._replace(plate=None)):
                with self.assertRaisesRegex(WriteError, "no bent plate"):
                    FORMATS["exr-plate"].write(path, picture, About(1006, Fraction(25)), without)
            with self.assertRaisesRegex(WriteError, "write an EXR"):
                FORMATS["png"].write(
                    Path(name) / "bent.png", picture, About(1006, Fraction(25)), bent
                )
