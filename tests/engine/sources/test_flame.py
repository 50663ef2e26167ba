"""The quick flame: any frame at once, and what each of its words does."""

import math
import os
from itertools import pairwise
from typing import Any
from unittest import TestCase, mock

import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.colour.heat import heat_table
from handful.engine.kernels.drawing.tongues import Heat, Rising, glowing, rise
from handful.engine.picture import Region, Tile
from handful.engine.render.cache import Cache
from handful.engine.sources import flame
from tests.engine.recipes import small

STRAIGHT = Rising(tall=200.0, way=-math.pi / 2, stirs=0.0, wide=50.0, narrows=0.0, middle=0.0, leans=0.0)  # fmt: skip


def recipe(*more: dict[str, Any], **settings: Any) -> Recipe:
    source = {
        "kind": "flame", "at": [160, 160], "width": 60, "height": 8, "tall": 110, "lift": 150, "size": 24, "wave": 50,
        "stir": 30, "number": 300, **settings,
    }  # fmt: skip
    return small({"id": "f", "name": "F", "source": source, "steps": [], "blend": "add"}, *more)


def light(made: Recipe, frame: float = 10) -> np.ndarray:
    return render_frame(made, frame)[..., :3].sum(axis=2)


def risen(
    how: Rising, age: float, x: float = 40.0, y: float = 0.0, born: float = 0.0
) -> tuple[float, float]:
    """Where one thing is at an age, of a life of 2 s, where all rises by 100 px a second."""
    places = np.empty((1, 2))
    rise(np.array([[x, y]]), np.array([age / 2]), np.array([100 * born]), 0.0, how, 1, 2, places)
    return float(places[0, 0]), float(places[0, 1])


class Rises(TestCase):
    def test_to_its_height(self) -> None:
        """From where it began, faster the higher, to as high as it gets, whichever way that is."""
        self.assertEqual(risen(STRAIGHT, 0), (40, 0))
        (x, y), (_, half) = risen(STRAIGHT, 2), risen(STRAIGHT, 1)
        self.assertAlmostEqual(x, 40)
        self.assertAlmostEqual(y, -200)
        self.assertAlmostEqual(half, -200 * 0.5 * 0.86)
        x, y = risen(STRAIGHT._replace(way=0.0), 2)
        self.assertAlmostEqual(x, 240)
        self.assertAlmostEqual(y, 0)

    def test_drawn_in_and_leaning(self) -> None:
        self.assertAlmostEqual(risen(STRAIGHT._replace(narrows=0.5), 2)[0], 20)
        self.assertAlmostEqual(risen(STRAIGHT._replace(leans=-30.0), 2)[0] - 40, -30)
        self.assertAlmostEqual(risen(STRAIGHT._replace(leans=-30.0), 1)[0] - 40, -7.5)

    def test_what_stirs_it_rises_with_it(self) -> None:
        """One that is born later but as much higher up keeps beside one that rises to there: they are stirred as
        one; one that is born elsewhere is not."""
        how = STRAIGHT._replace(stirs=80.0)
        first = risen(how, 1.0)[0]
        beside = risen(how, 1.0, y=-20.0, born=0.2)[0]
        other = risen(how, 1.0, y=0.0, born=0.2)[0]
        self.assertAlmostEqual(first, beside, delta=1e-6)
        self.assertGreater(abs(first - other), 0.5)
        self.assertAlmostEqual(risen(how, 0.0)[0], 40)


class Looks(TestCase):
    def test_glows_by_how_much_there_is(self) -> None:
        """Of a lot it is as hot as the middle, of a little as the edges, and of nothing nothing: light is the
        table's, which follows Wien's law."""
        table = heat_table(2000.0)
        pixels = np.zeros((1, 4, 4), np.float32)
        pixels[0, :, 0] = (0, 0.5, 30, 30)
        pixels[0, 3, 1] = 1
        heat = Heat(dense=1.0, edge=50.0, middle=140.0, blue=0.5)
        picture = glowing(Tile(pixels, Region(0, 0, 4, 1)), table, heat).pixels[0]
        self.assertEqual(float(picture[0].sum()), 0)
        np.testing.assert_allclose(picture[2, :3], table[140], rtol=1e-3)
        hot = 1 - math.exp(-0.5)
        place = 50 + 90 * hot
        wanted = table[int(place)] + (table[int(place) + 1] - table[int(place)]) * (place % 1)
        np.testing.assert_allclose(picture[1, :3], (1 - math.exp(-0.75)) * wanted, rtol=1e-3)
        np.testing.assert_allclose(picture[3, :3] - picture[2, :3], [0.06, 0.16, 0.5], atol=1e-3)

    def test_looks_draw_no_tongues_again(self) -> None:
        cache = Cache(1 << 28)
        before = render_frame(recipe(), 10, 1.0, cache)
        for name, value in {
            "edge": 900,
            "kelvin": 2600,
            "dense": 40,
            "light": 3,
            "blue": 90,
        }.items():
            with self.subTest(setting=name), mock.patch.object(flame, "draw_spots") as drawn:
                after = render_frame(recipe(**{name: value}), 10, 1.0, cache)
                self.assertFalse(np.array_equal(before, after))
                drawn.assert_not_called()

    def test_as_much_however_many(self) -> None:
        """A few large ones and many small ones are as dense, on the mean of some frames."""
        sums = []
        for number, size in ((150, 34), (600, 17)):
            made = recipe(number=number, size=size, gusts=0, uneven=0, stir=0, dense=5)
            sums.append(np.mean([light(made, frame).sum() for frame in range(5, 30, 5)]))
        self.assertAlmostEqual(sums[0] / sums[1], 1, delta=0.25)


class Burns(TestCase):
    def test_any_frame_at_once(self) -> None:
        """To the bit whatever was drawn before, and on one thread; it has burnt before it begins."""
        made, cache = recipe(), Cache(1 << 28)
        wanted = render_frame(made, 17)
        for frame in (3, 40, 17):
            found = render_frame(made, frame, 1.0, cache)
        np.testing.assert_array_equal(found, wanted)
        with mock.patch.dict(os.environ, HANDFUL_THREADS="1"):
            np.testing.assert_array_equal(render_frame(made, 17), wanted)
        first = light(made, 1)
        self.assertGreater(float(first[60:110].max()), 0.2)

    def test_within_its_height(self) -> None:
        """From its foot up, and no farther than it rises and is wide."""
        found = light(recipe(stir=0, smear=0))
        rows = np.flatnonzero(found.max(axis=1) > 1e-3)
        self.assertGreater(int(rows.min()), 160 - 110 - 24)
        self.assertLess(int(rows.max()), 160 + 4 + 24)

    def test_fed_less(self) -> None:
        """Those that are left are where they were; none is nothing."""
        self.assertEqual(float(light(recipe(feed=0)).max()), 0)
        some, all_of = (light(recipe(feed=feed, dense=10)) for feed in (40, 100))
        self.assertTrue((some <= all_of + 1e-5).all())
        self.assertLess(float(some.sum()), 0.6 * float(all_of.sum()))

    def test_it_grows_as_it_goes(self) -> None:
        """Where its height and lift move, things go on as they are: from frame to frame no more changes than where
        they are what they are by then."""

        def change(**settings: Any) -> float:
            made = recipe(number=2000, size=20, gusts=0, dense=40, **settings)
            shown = [light(made, frame) for frame in (20, 21, 22)]
            differ = [np.abs(b - a).sum() for a, b in pairwise(shown)]
            return float(np.mean(differ) / shown[0].sum())

        for name, first, a_second in (("tall", 70, 40), ("lift", 110, 50)):
            moving = {"moves": "rate", "start": first, "per_second": a_second}
            still = change(**{name: first + a_second * 20 / 25})
            self.assertLess(change(**{name: moving}), 1.1 * still)

    def test_left_behind_by_what_moves(self) -> None:
        """Of a matte that goes to the right the tips are left of the foot; of none there is nothing."""
        card: dict[str, Any] = {
            "id": "card", "name": "Card", "on": False, "source": {"kind": "noise", "comes_as": "cover", "brightness": 100, "boil": 0},
            "limits": [{"kind": "rectangle", "centre": {"moves": "rate", "start": [40, 150], "per_second": [180, 0]}, "width": 40, "height": 16, "feather": 0}],
        }  # fmt: skip
        for born in ("in a layer", "on the edge of a layer"):
            found = light(recipe(card, born=born, of="card", stir=0, size=16, gusts=0), 18)
            columns = np.arange(320) + 0.5
            foot, tip = found[150:162].sum(axis=0), found[80:110].sum(axis=0)
            at = 40 + 180 * 17 / 25
            self.assertAlmostEqual(float((foot * columns).sum() / foot.sum()), at, delta=32)
            self.assertLess(float((tip * columns).sum() / tip.sum()), at - 45)
            self.assertEqual(float(light(recipe(born=born, of=""), 18).max()), 0)
