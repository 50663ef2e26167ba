"""A sheet drawn: what is in front, light and shadow by closed forms, and no fringes."""

import math
from unittest import TestCase

import cv2
import numpy as np

from handful.engine.kernels.drawing.folds import (
    Lighting,
    Stuff,
    draw_colours,
    draw_folds,
    finer,
    normals_of,
    shades_of,
)
from handful.engine.picture import Region

REGION = Region(-10, 0, 190, 160)
WHITE = Stuff((1.0, 1.0, 1.0), (0.5, 0.25, 0.0), 0.0, 1.0, 1.0)
NO_PRINT = np.empty((0, 0, 4), np.float32)
FAR = Lighting((0.0, 0.0, 1e7), 0.0, 0.0, 0.0, 0.0, 10.0, 0.0, 0.0)


def sheet(
    rows: int = 9, columns: int = 11, apart: float = 10, left: float = 40, top: float = 30
) -> np.ndarray:
    across, down = np.meshgrid(np.arange(columns) * apart + left, np.arange(rows) * apart + top)
    return np.stack([across, down, np.zeros(across.shape)], axis=2).astype(np.float32)


def ones(places: np.ndarray) -> np.ndarray:
    return np.tile(np.array([1, 0, 1, 0], np.float32), (*places.shape[:2], 1))


class Drawn(TestCase):
    def test_covers_what_it_covers(self) -> None:
        """A rectangle at whole px to the px, one at halves by halves; an edge aslant as OpenCV's polygon
        reduced from eight times the size; light is never beyond cover."""
        places = sheet()
        found = draw_folds(places, ones(places), WHITE, NO_PRINT, 1.0, REGION).within(REGION)
        self.assertEqual(float(found[..., 3].sum()), 100 * 80)
        self.assertEqual(float(found[30:110, 50:150, 3].min()), 1)
        half = draw_folds(
            places + np.array([0.5, 0, 0], np.float32), ones(places), WHITE, NO_PRINT, 1.0, REGION
        ).within(REGION)
        np.testing.assert_allclose(half[60, [50, 150], 3], 0.5)
        turn = np.array(
            [[math.cos(0.4), -math.sin(0.4), 0], [math.sin(0.4), math.cos(0.4), 0], [0, 0, 1]],
            np.float32,
        )
        turned = (places - (90, 70, 0)) @ turn.T + (90, 70, 0)
        found = draw_folds(
            turned.astype(np.float32), ones(places), WHITE, NO_PRINT, 1.0, REGION
        ).within(REGION)
        large = np.zeros((160 * 8, 200 * 8), np.float32)
        corners = turned[[0, 0, -1, -1], [0, -1, -1, 0], :2] + (10, 0)
        cv2.fillPoly(large, [np.round(corners * 8 - 0.5).astype(np.int32)], 1.0)
        wanted = cv2.resize(large, (200, 160), interpolation=cv2.INTER_AREA)
        self.assertLess(float(np.abs(found[..., 3] - wanted).mean()), 0.003)
        self.assertLessEqual(float((found[..., 0] - found[..., 3]).max()), 1e-5)

    def test_the_nearer_hides(self) -> None:
        """Folded over, the nearer half is seen, from behind in the colour of the back."""
        places = sheet()
        over = places.copy()
        over[5:, :, 1] = 30 + 80 - places[5:, :, 1] + 30
        for near, colour in ((20, WHITE.back), (-20, WHITE.front)):
            over[5:, :, 2] = near
            found = draw_folds(over, ones(places), WHITE, NO_PRINT, 1.0, REGION).within(REGION)
            np.testing.assert_allclose(found[48, 100, :3], colour, atol=1e-5)

    def test_the_same_on_any_part(self) -> None:
        """Bands and regions show nothing: a part is that part of the whole, to the bit."""
        places = sheet() + np.array([0.3, 0.7, 0], np.float32)
        places[..., 2] = np.sin(places[..., 0] / 9) * 12
        shades = shades_of(places, FAR._replace(light=(0, -300, 200), shadow=0.7, creases=0.5))
        whole = draw_folds(places, shades, WHITE, NO_PRINT, 1.0, REGION).within(REGION)
        part = Region(61, 47, 130, 91)
        found = draw_folds(places, shades, WHITE, NO_PRINT, 1.0, part).within(part)
        np.testing.assert_array_equal(found, whole[47:91, 71:140])

    def test_a_print_lies_on_it(self) -> None:
        """On the front where it covers, as it lies across and down; not on the back."""
        places = sheet()
        printed = np.zeros((4, 10, 4), np.float32)
        printed[1, 2] = (0.2, 0.4, 0.6, 1)
        found = draw_folds(places, ones(places), WHITE, printed, 2.0, REGION).within(REGION)
        np.testing.assert_allclose(found[60, 75, :3], (0.4, 0.8, 1.2), atol=1e-5)
        np.testing.assert_allclose(found[60, 95, :3], 2, atol=1e-5)
        flipped = np.ascontiguousarray(places[:, ::-1])
        found = draw_folds(flipped, ones(places), WHITE, printed, 1.0, REGION).within(REGION)
        np.testing.assert_allclose(found[60, 100, :3], WHITE.back, atol=1e-5)

    def test_coordinates(self) -> None:
        """Colours at points are straight between them."""
        places = sheet()
        colours = (places / 100).astype(np.float32)
        found = draw_colours(places, colours, REGION).within(REGION)
        np.testing.assert_allclose(found[57, 80, :2], (0.705, 0.575), atol=1e-4)


class Lit(TestCase):
    def test_by_the_cosine(self) -> None:
        """Lambert's law, in front and, as much as shines through, behind."""
        for degrees in (0, 30, 60, 75):
            turn = math.radians(degrees)
            way = (math.sin(turn) * 1e7, 0.0, math.cos(turn) * 1e7)
            shades = shades_of(sheet(), FAR._replace(light=way, through=0.3))
            np.testing.assert_allclose(shades[..., 0], math.cos(turn), atol=1e-4)
            np.testing.assert_allclose(shades[..., 2], 0.3 * math.cos(turn), atol=1e-4)

    def test_normals(self) -> None:
        """Of a cylinder they go out from its axis."""
        angles = np.linspace(-1, 1, 41)
        places = np.empty((9, 41, 3), np.float32)
        places[..., 0], places[..., 2] = 50 * np.sin(angles), 50 * np.cos(angles)
        places[..., 1] = np.arange(9)[:, None] * 5
        normals = normals_of(places)[:, 1:-1]
        np.testing.assert_allclose(
            normals[..., 0], np.tile(np.sin(angles[1:-1]), (9, 1)), atol=2e-3
        )
        np.testing.assert_allclose(
            normals[..., 2], np.tile(np.cos(angles[1:-1]), (9, 1)), atol=2e-3
        )

    def test_a_shadow_on_itself(self) -> None:
        """A flap before a sheet keeps the light off what is behind it, and off nothing else."""
        places = sheet(rows=41, columns=21, apart=4, left=40, top=10)
        places[20:, :, 1] = 10 + 4 * 20 - 0.5 * (places[20:, :, 1] - 90)
        places[20:, :, 2] = 40
        light = (80.0, 60.0, 4000.0)
        plain, dark = (
            shades_of(places, FAR._replace(light=light, shadow=by))[..., ::2].max(axis=2)
            for by in (0, 1)
        )
        kept = dark / np.maximum(plain, 1e-6)
        self.assertLess(float(kept[12:17, 5:16].max()), 0.15)
        self.assertGreater(float(kept[2:6, 5:16].min()), 0.95)
        self.assertGreater(float(kept[26:36, 5:16].min()), 0.95)

    def test_gloss_and_sheen(self) -> None:
        """Blinn, "Models of light reflection for computer synthesized pictures", SIGGRAPH 1977: the cosine between a
        normal and the middle between light and eye, to a power. Sheen by what it is said to be: the fourth power of one less
        the cosine to the eye, three tenths of it where no light falls. On a sheet that leans."""
        lean, turn = math.radians(35), math.radians(50)
        places = sheet(apart=4)
        places[..., 2] = -math.tan(lean) * places[..., 0]
        way = np.array([math.sin(turn), 0.0, math.cos(turn)])
        how = FAR._replace(light=tuple(way * 1e7), gloss=0.8, narrow=12.0)
        normal = np.array([math.sin(lean), 0.0, math.cos(lean)])
        half = way + np.array([0.0, 0.0, 1.0])
        half /= np.linalg.norm(half)
        np.testing.assert_allclose(
            shades_of(places, how)[..., 1], 0.8 * (normal @ half) ** 12, rtol=1e-3
        )
        sheen = shades_of(places, how._replace(gloss=0.0, sheen=0.5))
        wanted = 0.5 * (1 - math.cos(lean)) ** 4 * (0.3 + 0.7 * float(normal @ way))
        np.testing.assert_allclose(sheen[..., 1], wanted, rtol=1e-3)
        self.assertEqual(float(shades_of(places, how)[..., 3].max()), 0, "none of it behind")

    def test_as_dark_as_a_fold_is_deep(self) -> None:
        """Below the mean of what is about it (OpenCV's), in parts of how wide that mean is."""
        places = sheet(rows=61, columns=61, apart=3)
        places[..., 2] = 2 * np.cos(places[..., 0] / 10)
        wide = 61 / 26
        mean = cv2.GaussianBlur(places, (0, 0), wide, borderType=cv2.BORDER_REFLECT)
        down, across = np.gradient(places, axis=0), np.gradient(places, axis=1)
        normals = np.cross(across, down)
        normals /= np.linalg.norm(normals, axis=2)[..., None]
        steps = np.linalg.norm(np.diff(places[0], axis=0), axis=1).mean()
        deep = ((mean - places) * normals).sum(axis=2) / (0.9 * wide * steps)
        shades = shades_of(places, FAR._replace(around=1.0, creases=1.0))
        self.assertLess(float(np.abs(deep).max()), 1, "nowhere as dark as it can be")
        np.testing.assert_allclose(shades[..., 0], 1 - np.maximum(0, deep), atol=1e-4)
        np.testing.assert_allclose(shades[..., 2], 1 - np.maximum(0, -deep), atol=1e-4)

    def test_deep_in_a_fold(self) -> None:
        """Valleys are darker than ridges, on the back the other way round."""
        places = sheet(rows=61, columns=61, apart=3)
        places[..., 2] = 8 * np.cos(places[..., 0] / 10)
        shades = shades_of(places, FAR._replace(around=1.0, creases=1.0))
        ridge, valley = (np.abs(places[30, 10:-10, 2] - side * 8) < 0.5 for side in (1, -1))
        front, back = shades[30, 10:-10, 0], shades[30, 10:-10, 2]
        self.assertLess(front[valley].mean(), 0.8 * front[ridge].mean())
        self.assertLess(back[ridge].mean(), 0.8 * back[valley].mean())


class Finer(TestCase):
    def test_smooth_through_its_points(self) -> None:
        """It keeps them, and cubics between (the scheme's order), and nearly a circle."""
        x = np.linspace(0, 1, 9, dtype=np.float32)
        places = np.stack([*np.meshgrid(x, x), np.zeros((9, 9), np.float32)], axis=2)
        places[..., 2] = places[..., 0] ** 3
        found = finer(places)
        self.assertEqual(found.shape, (17, 17, 3))
        np.testing.assert_array_equal(found[::2, ::2], places)
        np.testing.assert_allclose(found[:, 3:-3, 2], found[:, 3:-3, 0] ** 3, atol=1e-5)
