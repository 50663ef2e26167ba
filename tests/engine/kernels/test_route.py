"""Ways over uneven ground against closed forms, and bolts that keep to them."""

import math
from unittest import TestCase

import numpy as np

from handful.engine import Recipe, read_recipe, render_frame
from handful.engine.kernels.forms.edges import nearest_edge, way_past
from handful.engine.kernels.forms.route import route, travel_times
from handful.engine.picture import Matte


def _disc(size: int, radius: float) -> Matte:
    y, x = np.mgrid[:size, :size] + 0.5
    away = np.hypot(x - size / 2, y - size / 2)
    return np.clip(radius - away + 0.5, 0, 1).astype(np.float32)


def _length(way: np.ndarray) -> float:
    return float(np.hypot(*np.diff(way, axis=0).T).sum())


class Times(TestCase):
    def test_even_ground_is_distance(self) -> None:
        """Closed form: on even ground the time is the distance; Zhao's scheme is first order."""
        times = travel_times(np.ones((60, 80)), 20, 30)
        y, x = np.mgrid[:60, :80]
        away = np.hypot(x - 20, y - 30)
        far = away > 10
        self.assertLess(float(np.abs(times[far] / away[far] - 1).max()), 0.13)
        self.assertAlmostEqual(times[30, 70], 50, places=9)

    def test_refraction(self) -> None:
        """Snell's law: sines of the angles on both sides of a border go as the speeds."""
        slowness = np.ones((200, 200))
        slowness[100:] = 1.6
        way = route(slowness, np.array([30.0, 20.0]), np.array([170.0, 180.0]))
        above, below = way[way[:, 1] < 95], way[way[:, 1] > 105]
        sines = []
        for part in (above, below):
            dx, dy = part[-1] - part[0]
            sines.append(abs(dx) / math.hypot(dx, dy))
        self.assertAlmostEqual(sines[0] / sines[1], 1.6, delta=0.16)

    def test_straight_on_even_ground(self) -> None:
        way = route(np.ones((90, 90)), np.array([10.0, 15.0]), np.array([75.0, 60.0]))
        self.assertAlmostEqual(_length(way) / math.hypot(65, 45), 1.0, delta=0.02)


class Mattes(TestCase):
    def test_goes_round(self) -> None:
        """Closed form: the shortest way past a disc is two tangents and an arc."""
        matte = _disc(400, 90)
        ends = np.array([20.0, 200.0]), np.array([380.0, 200.0])
        way = way_past(matte, *ends, 10.0, False)
        away = np.hypot(way[:, 0] - 200, way[:, 1] - 200)
        self.assertGreater(float(away.min()), 90)
        tangent = math.sqrt(180**2 - 90**2)
        arc = 90 * (math.pi - 2 * math.acos(90 / 180))
        self.assertLess(_length(way), 1.12 * (2 * tangent + arc))
        np.testing.assert_array_equal(way[[0, -1]], ends)

    def test_clings(self) -> None:
        """The same ends along the disc's edge: its middle part lies within the distance of it."""
        way = way_past(
            _disc(400, 90), np.array([110.0, 200.0]), np.array([290.0, 200.0]), 16.0, True
        )
        away = np.hypot(way[:, 0] - 200, way[:, 1] - 200)
        self.assertLess(float(np.abs(away - 90).max()), 16)

    def test_nearest_edge(self) -> None:
        """Closed form: the nearest place of a circle is on the line through its middle."""
        x, y = nearest_edge(_disc(400, 90), 350.0, 290.0) or (0, 0)
        away = math.hypot(150, 90)
        self.assertAlmostEqual(x, 200 + 90 * 150 / away, delta=1)
        self.assertAlmostEqual(y, 200 + 90 * 90 / away, delta=1)
        self.assertIsNone(nearest_edge(np.zeros((9, 9), np.float32), 3, 3))


class InARecipe(TestCase):
    def _recipe(self, **bolt: object) -> Recipe:
        ball = {
            "id": "ball", "name": "Ball", "on": False,
            "source": {"kind": "beam", "start": [159.9, 90], "end": [160.1, 90], "width": 80,
                       "far_width": 80, "feather": 0, "sheath_light": -12, "rough": 0, "uneven": 0},
        }  # fmt: skip
        source = {
            "kind": "bolt", "start": [20, 90], "end": [300, 90], "wander": 2, "branches": 0,
            "boil": 0, "matte": "ball", "reaches": "ball", "width": 2,
        } | bolt  # fmt: skip
        canvas = {"width": 320, "height": 180, "first": 1, "last": 5}
        layers = [ball, {"id": "bolt", "name": "Bolt", "source": source}]
        return read_recipe({"version": 3, "name": "Ball", "canvas": canvas, "layers": layers})

    def test_keeps_away(self) -> None:
        """Its brightest px stay out of the ball, through which a straight one goes."""
        y, x = np.mgrid[:180, :320] + 0.5
        inside = np.hypot(x - 160, y - 90) < 36
        straight = render_frame(self._recipe(), 1)[..., 0]
        around = render_frame(self._recipe(keeps="away from", distance=8), 1)[..., 0]
        self.assertGreater(float(straight[inside].max()), 1)
        self.assertLess(float(around[inside].max()), 0.1)

    def test_reaches_the_edge(self) -> None:
        """An end that reaches stops at the matte's edge, at any size of the picture."""
        for scale in (1.0, 0.5):
            recipe = self._recipe(far_end="reaching", end=[150, 90])
            picture = render_frame(recipe, 1, scale)[..., 0]
            columns = np.nonzero(picture.max(axis=0) > 1)[0] / scale
            self.assertLess(float(columns.min()), 24)
            self.assertAlmostEqual(float(columns.max()), 120, delta=4)
