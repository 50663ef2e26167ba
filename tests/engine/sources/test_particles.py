"""Particles: the same ones at any moment and in any number, born evenly where they should be."""

import os
import tracemalloc
from collections.abc import Callable
from typing import Any
from unittest import TestCase, mock

import numpy as np
from scipy.stats import chisquare, kstest

from handful.engine import Recipe, read_recipe, render_frame
from handful.engine.colour.heat import heat_of, heat_table
from handful.engine.colour.temperature import colour_of
from handful.engine.kernels.chance.hash import Key
from handful.engine.recipe import RecipeError
from handful.engine.sources.particles import flock
from handful.engine.sources.particles.births import Lot, births_on, uncoloured
from handful.engine.sources.particles.particles import Particles
from handful.engine.sources.particles.sights import Flying, Seen
from handful.engine.values import Point
from tests.engine.recipes import as_it_comes, small

CALM = {
    "gravity": [0, 0], "drag": 0, "life": 3, "life_uneven": 0, "comes": 0, "goes": 0, "light_uneven": 0,
    "size_uneven": 0, "size_end": 100, "uneven": 0,
}  # fmt: skip


def recipe(**settings: Any) -> Recipe:
    source = {"kind": "particles", "at": [160, 90], "speed": 60, "rate": 80, **settings}
    return small({"id": "p", "name": "P", "source": source, "steps": []})


KEY = Key(12, 34)
COUNT = 4000


def thrown(
    count: int = COUNT, moved: float = 0.0, **settings: Any
) -> tuple[Particles, Lot, np.ndarray]:
    """So many, born in one frame in which their middle moves by so much across, and how it was then."""
    made = as_it_comes(Particles, width=200.0, height=100.0, **settings)
    rows = births_on(
        [(Point(x, 0), 200.0, 100.0, 0.0, 30.0, made.cone, made.speed) for x in (0, moved)], 25.0
    )
    frames = np.array([1.0, 2.0])
    which, _, born, then = made.born_between(KEY, np.array([0.0, count]), frames, rows, 1_000_000)
    return made, made.thrown(KEY, which, born, then), then


class Sameness(TestCase):
    def test_a_frame_is_the_same_however_it_is_come_to(self) -> None:
        """Alone, after others, backwards, on one thread, in part: to the bit."""
        emitter = {
            "moves": "formula",
            "value": [160, 90],
            "formula": ["still + 90*sin(3*t)", "still"],
        }
        made = recipe(
            at=emitter, preroll=1, floor=150, lands="bounce on a floor", twinkle=50, flutter=9
        )
        alone = render_frame(made, 30)
        frames = [render_frame(made, frame) for frame in (29, 31, 30)]
        np.testing.assert_array_equal(frames[-1], alone)
        with mock.patch.dict(os.environ, HANDFUL_THREADS="1"):
            np.testing.assert_array_equal(render_frame(made, 30), alone)
        self.assertGreater(np.abs(frames[0] - alone).max(), 0.1)

    def test_others_change_no_one(self) -> None:
        """Twice as many a second are other numbers at other times, but a burst and a higher count later
        leave all that were there where they were."""
        steady = recipe(**CALM)
        rising = recipe(
            **CALM | {"rate": {"moves": "keys", "keys": [{"frame": 20, "value": 80, "ease": "hold"}, {"frame": 21, "value": 900}]}}
        )  # fmt: skip
        np.testing.assert_array_equal(render_frame(steady, 15), render_frame(rising, 15))
        plain, more = render_frame(steady, 10), render_frame(recipe(**CALM, burst=50), 10)
        self.assertTrue(np.all(more >= plain - 1e-5))
        self.assertGreater(more.sum(), 1.5 * plain.sum())

    def test_a_shutter_does_not_change_who_is_there(self) -> None:
        """Drawn out or not, there is as much light (within what is born and gone in the while)."""
        still = recipe(**CALM, streak=0, preroll=2, speed=30)
        drawn = recipe(**CALM, streak=180, preroll=2, speed=30)
        lights = [float(render_frame(made, 20).sum()) for made in (still, drawn)]
        self.assertAlmostEqual(lights[1] / lights[0], 1, delta=0.04)


class Births(TestCase):
    def test_times_are_even(self) -> None:
        """Within a frame as between frames: no clump on whole frames (Kolmogorov and Smirnov)."""
        _, lot, _ = thrown()
        self.assertAlmostEqual(len(lot.which), COUNT, delta=1)
        self.assertGreater(kstest(lot.born - 1, "uniform").pvalue, 0.01)

    def test_a_fast_emitter_leaves_no_gaps(self) -> None:
        _, _, then = thrown(moved=500.0)
        self.assertGreater(kstest(then[:, 0] / 500, "uniform").pvalue, 0.01)
        np.testing.assert_allclose(then[:, -2], 500 * 25)

    def test_places_are_even(self) -> None:
        """By area or by length: chi-square over cells of equal size at 1 %."""
        shapes: dict[str, Callable[..., np.ndarray]] = {
            "on a line": lambda x, y: x / 200 + 0.5,
            "in a box": lambda x, y: x / 200 + 0.5,
            "in an ellipse": lambda x, y: (x / 100) ** 2 + (y / 50) ** 2,
            "on a ring": lambda x, y: np.arctan2(y / 50, x / 100) / (2 * np.pi) + 0.5,
        }
        for born, share in shapes.items():
            _, lot, _ = thrown(8000, born=born)
            found = share(*lot.starts.T)
            with self.subTest(born=born):
                self.assertGreaterEqual(found.min(), -1e-9)
                self.assertLessEqual(found.max(), 1 + 1e-9)
                counts, _ = np.histogram(found, 20, (0, 1))
                self.assertGreater(chisquare(counts).pvalue, 0.01)

    def test_ways(self) -> None:
        """Within the cone about the direction, all round evenly, and outwards from the middle."""
        _, lot, _ = thrown(cone=60.0, speed=100.0, uneven=50.0)
        angles = np.degrees(np.arctan2(lot.speeds[:, 1], lot.speeds[:, 0]))
        self.assertGreaterEqual(angles.min(), 0)
        self.assertLessEqual(angles.max(), 60)
        self.assertAlmostEqual(float(angles.mean()), 30, delta=1)
        fast = np.hypot(*lot.speeds.T)
        self.assertGreater(kstest((fast - 50) / 50, "uniform").pvalue, 0.01)
        _, lot, _ = thrown(cone=360.0, speed=100.0)
        angles = np.arctan2(lot.speeds[:, 1], lot.speeds[:, 0]) / (2 * np.pi) + 0.5
        self.assertGreater(kstest(angles, "uniform").pvalue, 0.01)


class TooMany(TestCase):
    def test_more_than_can_be_alive(self) -> None:
        """It is told with what would do; at that rate it is read. What moves is held when it is drawn."""
        layer: dict[str, Any] = {
            "id": "p",
            "name": "P",
            "source": {"kind": "particles", "rate": 400_000, "life": 5},
        }
        document = {"version": 3, "name": "Many", "layers": [layer]}
        with self.assertRaises(RecipeError) as raised:
            read_recipe(document)
        [problem] = raised.exception.problems
        self.assertEqual((problem.path, problem.nearest), ("layers[0].source.rate", 200_000))
        self.assertIn("more than 1,000,000 would be alive", problem.says)
        layer["source"] |= {"rate": problem.nearest}
        read_recipe(document)

    def test_memory_where_life_moves(self) -> None:
        """What moves is not known beforehand: bursts upon bursts, and ribbons of all, take no more memory than those
        that may be alive, here 5,000 of some 100 numbers each, in closed form as in steps."""
        moves = {"moves": "keys", "keys": [{"frame": 1, "value": 60}, {"frame": 9, "value": 90}]}
        settings = {"burst": 20_000, "burst_every": 0.02, "life": moves, "rate": moves, "size": 2}
        for more in ({}, {"gusts": 1}, {"ribbon": 4}, {"ribbon": 4, "gusts": 1}):
            with self.subTest(**more), mock.patch.object(flock, "MOST_ALIVE", 5000):
                tracemalloc.start()
                render_frame(recipe(**settings, **more), 50, 0.1)
                _, peak = tracemalloc.get_traced_memory()
                tracemalloc.stop()
                self.assertLess(peak, 25e6)


class Lives(TestCase):
    def test_as_many_as_the_rate_says(self) -> None:
        """Rate times life are alive once it is steady (Little 1961), and the preroll is steady at once."""
        settings = CALM | {
            "life": 1,
            "size": 4,
            "speed": 0,
            "born": "in a box",
            "width": 300,
            "height": 160,
        }
        one = render_frame(recipe(**settings | {"rate": 0, "burst": 1}), 2)[..., 0].sum()
        for frame, preroll in ((40, 0), (2, 2)):
            picture = render_frame(recipe(**settings, rate=200, preroll=preroll, streak=0), frame)
            self.assertAlmostEqual(float(picture[..., 0].sum() / one), 200, delta=6)

    def test_light_at_every_scale(self) -> None:
        """As much of it in a smaller picture, for the smallest too."""
        for size in (0.5, 3.0, 20.0):
            made = recipe(**CALM, size=size, preroll=1)
            whole = float(render_frame(made, 20)[..., 1].sum())
            half = float(render_frame(made, 20, 0.5)[..., 1].sum()) * 4
            with self.subTest(size=size):
                self.assertAlmostEqual(half / whole, 1, delta=0.03)

    def test_none(self) -> None:
        """Where none are born nothing is drawn, on the first frame and the last."""
        for frame in (1, 50):
            self.assertEqual(np.abs(render_frame(recipe(rate=0), frame)).max(), 0)


class Heat(TestCase):
    def test_colours_of_a_black_body(self) -> None:
        """Where chromaticities are published they are those of the temperature; luminance is 1 at the
        reference, and at 1500 K what Wien's law says, exp(c2 / λ (1/2000 - 1/1500))."""
        table = heat_table(2000.0)
        light = heat_of(np.array([2000.0, 1500.0, 1000.0]), table)
        luminance = light @ np.array([0.2126, 0.7152, 0.0722], np.float32)
        self.assertAlmostEqual(float(luminance[0]), 1, places=4)
        self.assertAlmostEqual(
            float(np.log(luminance[1])), 14388 / 0.555 * (1 / 2000 - 1 / 1500), delta=0.01
        )
        hot = light[0] / light[0].max()
        np.testing.assert_allclose(hot, colour_of(2000.0), atol=1e-4)
        self.assertLess(light[2, 1] / light[2, 0], light[1, 1] / light[1, 0])

    def test_cooling(self) -> None:
        """By radiation, dT/dt ∝ -T⁴, a body has half its temperature after the time that is set."""
        made = as_it_comes(Particles, glows="by its heat, not in", kelvin=2000.0, cools=0.7)
        ages, unseen = np.array([0.0, 0.7]), Seen(*[np.zeros(2)] * 7)
        flying = Flying(np.arange(2), ages, np.array([0.0, 0.5]), unseen, ages, uncoloured(2), ages)
        now = made.coloured(Key(1, 2), flying)
        table = heat_table(2000.0)
        np.testing.assert_allclose(now, heat_of(np.array([2000.0, 1000.0]), table), rtol=1e-5)
