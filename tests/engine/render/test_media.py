"""The plate as a layer: the light of a display picture, where it lies, and what it is named by."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any
from unittest import TestCase

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine import Cache, Recipe, read_recipe, render_frame
from handful.engine.files import PlateFiles
from handful.engine.render import NO_MEDIA, plan

WIDE, HIGH = 64, 36


class Painted:
    """A plate whose level is its frame, with a white px at its corner."""

    def __init__(self, frame: int) -> None:
        self.frame = frame
        self.mark = f"painted {frame}"

    def read(self, width: int, height: int) -> NDArray[np.uint8]:
        levels = np.full((height, width, 3), self.frame % 256, np.uint8)
        levels[0, 0] = 255
        return levels


class Paints:
    def plate(self, frame: int) -> Painted:
        return Painted(frame)


def recipe_of(*layers: dict[str, Any], **more: Any) -> Recipe:
    canvas = {"width": WIDE, "height": HIGH, "rate": 25, "first": 100, "last": 120}
    named = [{"id": f"l{i}", "name": "Layer", **layer} for i, layer in enumerate(layers)]
    return read_recipe({"version": 3, "name": "Plated", "canvas": canvas, "layers": named, **more})


def plate(*steps: dict[str, Any], **settings: Any) -> dict[str, Any]:
    chain = [{"id": f"s{i}", **step} for i, step in enumerate(steps)]
    return {"source": {"kind": "plate", **settings}, "steps": chain}


class Plates(TestCase):
    def test_its_light(self) -> None:
        """A level is decoded as IEC 61966-2-1 says: 118 of 255 is 0.1812 of the light."""
        picture = render_frame(recipe_of(plate()), 118, media=Paints())
        np.testing.assert_allclose(picture[5, 5], [0.18116, 0.18116, 0.18116, 1], atol=2e-5)
        self.assertEqual(picture[0, 0].tolist(), [1, 1, 1, 1])

    def test_none(self) -> None:
        """Where there is no plate there is nothing, and no error."""
        self.assertEqual(render_frame(recipe_of(plate()), 110).max(), 0)

    def test_its_frame(self) -> None:
        """It goes with the shot, so many frames ahead; a copy that is ahead takes it along."""
        layers = plate(ahead=7), {"source": {"kind": "copy", "of": "l0", "ahead": 3}}
        ahead = render_frame(recipe_of(*layers), 104, layer="l0", media=Paints())
        copied = render_frame(recipe_of(*layers), 104, layer="l1", media=Paints())
        still = render_frame(recipe_of(plate()), 111, media=Paints())
        self.assertTrue(np.array_equal(ahead, still))
        self.assertGreater(copied[5, 5, 0], ahead[5, 5, 0])

    def test_beyond_its_edges(self) -> None:
        """Moved to the right by 8 px its left edge shows what the setting says; the white px is at
        the corner of the plate, and mirrored beside itself."""
        moved = {"kind": "place", "move": [8, 0], "pivot": [0, 0]}
        rows = {
            edge: render_frame(recipe_of(plate(moved, edge=edge)), 118, media=Paints())[0, :12]
            for edge in ("clear", "hold", "wrap", "mirror")
        }
        self.assertEqual(rows["clear"][:8].max(), 0)
        white = {edge: np.flatnonzero(row[:, 0] > 0.9).tolist() for edge, row in rows.items()}
        self.assertEqual(white["clear"], [8])
        self.assertEqual(white["hold"], list(range(9)))
        self.assertEqual(white["wrap"], [8])
        self.assertEqual(white["mirror"], [7, 8])
        self.assertEqual(rows["wrap"][:, 3].min(), 1)

    def test_overscan(self) -> None:
        """The plate lies on the canvas; beyond it is what its edge says."""
        canvas = {"width": WIDE, "height": HIGH, "first": 100, "last": 120, "overscan": 4}
        picture = render_frame(recipe_of(plate(edge="clear"), canvas=canvas), 118, media=Paints())
        self.assertEqual(picture.shape[:2], (HIGH + 8, WIDE + 8))
        self.assertEqual(picture[4, 4].tolist(), [1, 1, 1, 1])
        self.assertEqual(picture[:4].max(), 0)

    def test_it_is_named_by_its_picture(self) -> None:
        """A file that changes is another picture; a layer without it stays what it was."""

        class Repainted(Paints):
            def plate(self, frame: int) -> Painted:
                found = super().plate(frame)
                found.mark += " again"
                return found

        both = recipe_of(plate(), {"source": {"kind": "flash"}})
        keys = {
            layer: {
                plan(both, 110, 1, layer, each).key for each in (Paints(), Repainted(), NO_MEDIA)
            }
            for layer in ("l0", "l1")
        }
        self.assertEqual((len(keys["l0"]), len(keys["l1"])), (3, 1))

    def test_in_an_element(self) -> None:
        """An element that holds the plate holds that of the shot it is placed in."""
        inner = recipe_of(plate()).model_dump(mode="json", exclude_unset=True)
        outer = recipe_of(
            {"source": {"kind": "element", "of": "inner", "at": [32, 18], "pivot": [32, 18]}},
            elements=[{"name": "inner", "recipe": inner}],
        )
        picture = render_frame(outer, 110, media=Paints())
        self.assertGreater(picture[HIGH // 2, WIDE // 2, 0], 0.1)

    def test_files(self) -> None:
        """Before its first file a plate holds that, after its last that one; one that is gone is
        nothing, and one that is written anew is another."""
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            for frame, level in ((1005, 40), (1006, 120)):
                cv2.imwrite(
                    str(folder / f"pier.{frame}.jpg"), np.full((HIGH, WIDE, 3), level, np.uint8)
                )
            files = PlateFiles.around(folder / "pier.1006.jpg")
            self.assertEqual((files.first, files.last), (1005, 1006))
            for frame, level in ((1, 40), (1005, 40), (1006, 120), (2000, 120)):
                read = files.plate(frame).read(WIDE, HIGH)
                assert read is not None
                self.assertAlmostEqual(float(read.mean()), level, delta=1)
            mark = files.plate(1005).mark
            (folder / "pier.1005.jpg").unlink()
            self.assertIsNone(files.plate(1005).read(WIDE, HIGH))
            self.assertNotEqual(files.plate(1005).mark, mark)
            picture = render_frame(recipe_of(plate()), 100, 1, Cache(0), media=files)
            self.assertEqual(picture.max(), 0)
            for wrong in (folder / "pier.jpg", folder / "gone.1001.jpg"):
                with self.assertRaisesRegex(ValueError, "no still of a plate"):
                    PlateFiles.around(wrong)
