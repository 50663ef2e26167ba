"""What bends all that is behind it: the layers below, and the plate by the offsets that are delivered."""

from __future__ import annotations

import tempfile
from fractions import Fraction
from pathlib import Path
from typing import Any
from unittest import TestCase

import cv2
import numpy as np
import OpenEXR

from handful.engine import Recipe, read_recipe, render_frame
from handful.engine.files import FORMATS, About, WriteError
from handful.engine.mix import bent_plate
from handful.engine.recipe import RecipeError
from handful.engine.render import PlanError, plan_bend, render_bend

WIDE, HIGH = 320, 180
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
    settings = {key: more.pop(key) for key in ("strength", "most", "spread", "edge") if key in more}
    return {"id": name, "name": "Bend", "source": {"kind": "bend", "by": by, **settings}, **more}


def recipe_of(*layers: dict[str, Any], **more: Any) -> Recipe:
    canvas = {"width": WIDE, "height": HIGH, "rate": 25, "first": 1001, "last": 1020}
    return read_recipe(
        {
            "version": 2,
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
    return found


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
        found = bent_plate(levels, offsets, "mirror", 0.5)
        self.assertGreater(decibels(found.astype(float), wanted.astype(float), 255), 45)

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
        """An EXR holds both; a PNG says that it cannot."""
        recipe = recipe_of(LINES, ring("ring"), bend("ring"))
        picture, offsets = render_frame(recipe, 1006), pushed(recipe)
        with tempfile.TemporaryDirectory() as name:
            path = Path(name) / "bent.1006.exr"
            FORMATS["exr-float"].write(path, picture, About(1006, Fraction(25)), offsets)
            with OpenEXR.File(str(path)) as file:
                channels = file.channels()
                np.testing.assert_array_equal(channels["offsets.X"].pixels, offsets[..., 0])
                np.testing.assert_array_equal(channels["offsets.Y"].pixels, offsets[..., 1])
                np.testing.assert_array_equal(channels["RGBA"].pixels, picture)
            with self.assertRaisesRegex(WriteError, "write an EXR"):
                FORMATS["png"].write(
                    Path(name) / "bent.png", picture, About(1006, Fraction(25)), offsets
                )
