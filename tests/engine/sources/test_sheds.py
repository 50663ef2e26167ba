"""What particles shed on their way and burst into at their end."""

import math
from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.kernels.chance.hash import key_for
from handful.engine.recipe import RecipeError
from handful.engine.sources.particles.births import MOST_ALIVE, Lot, uncoloured
from handful.engine.sources.particles.particles import Particles
from handful.engine.sources.particles.sheds import SHED
from tests.engine.recipes import as_it_comes, small

KEY = key_for(3, "sheds")


def recipe(**settings: Any) -> Recipe:
    """One thing at once, that goes straight to the right, of spots that only tell where they are."""
    source = {
        "kind": "particles", "at": [40, 60], "rate": 0, "burst": 1, "speed": 100, "uneven": 0, "cone": 0, "direction": 0,
        "gravity": [0, 0], "drag": 0, "life": 1, "life_uneven": 0, "size": 6, "size_end": 100, "size_uneven": 0, "light": 0,
        "colour": "#ffffff", "colour_end": "#ffffff", "light_uneven": 0, "comes": 0, "goes": 0, "streak": 0,
        "shed_size": 100, "shed_speed": 0, "shed_keeps": 0, **settings,
    }  # fmt: skip
    return small({"id": "p", "name": "P", "source": source, "steps": [], "blend": "add"})


def light(made: Recipe, frame: float) -> np.ndarray:
    return render_frame(made, frame)[..., 0]


def spots(made: Recipe, frame: float) -> float:
    """How many there are, by their light."""
    one = light(recipe(sheds=0), 5).sum()
    return float(light(made, frame).sum() / one)


class Trail(TestCase):
    def test_as_many_as_it_is_old(self) -> None:
        """n a second while it lives, each for as long as they live; then they go one after the other."""
        for frame, count in (
            (1, 1),
            (6, 1 + 0.2 * 20),
            (16, 1 + 0.4 * 20),
            (24, 1 + 0.4 * 20),
            (31, 0.2 * 20),
        ):
            self.assertAlmostEqual(spots(recipe(sheds=20, shed_life=0.4), frame), count, delta=1.05)
        self.assertEqual(spots(recipe(sheds=20, shed_life=0.4), 38), 0)

    def test_where_it_was(self) -> None:
        """What keeps nothing of its speed lies still on the way, and where it was born."""
        found = light(recipe(sheds=30, shed_life=0.8), 15)
        columns = np.flatnonzero(found.max(axis=0) > 0.05)
        rows = np.flatnonzero(found.max(axis=1) > 0.05)
        self.assertAlmostEqual(int(columns.min()), 40, delta=6)
        self.assertAlmostEqual(int(columns.max()), 40 + 100 * 14 / 25, delta=4)
        self.assertLess(int(np.ptp(rows)), 8)
        again = light(recipe(sheds=30, shed_life=0.8), 17)
        np.testing.assert_allclose(again[:, 50:80], found[:, 50:80], atol=0.05)

    def test_as_far_off_as_what_sheds_it(self) -> None:
        """Between where that was born and where it is seen, however deep in either way."""
        for more in ({"deep": 90}, {"depth": 4000, "lens": 1500}):
            for stepped in ({}, {"gusts": 1e-6}):
                for seed in range(3):
                    alone, shed = (
                        np.flatnonzero(
                            light(recipe(sheds=sheds, shed_life=0.8, seed=seed, **more, **stepped), 15).max(axis=0) > 1e-3
                        )
                        for sheds in (0, 30)
                    )  # fmt: skip
                    begins = np.flatnonzero(light(recipe(seed=seed, **more), 2).max(axis=0) > 1e-3)
                    with self.subTest(seed=seed, **more, **stepped):
                        self.assertAlmostEqual(int(shed.max()), int(alone.max()), delta=1)
                        self.assertAlmostEqual(int(shed.min()), int(begins.min()), delta=8)

    def test_it_takes_speed_along(self) -> None:
        """All of it: what is shed stays with it."""
        together = light(recipe(sheds=20, shed_keeps=100, shed_life=0.8), 15)
        columns = np.flatnonzero(together.max(axis=0) > 0.01)
        self.assertLess(int(np.ptp(columns)), 8)

    def test_stepped_as_in_closed_form(self) -> None:
        """Where the air does nothing but is gone through step by step, the same is shed in the same places."""
        for more in (
            {"sheds": 25, "shed_life": 0.5},
            {"bursts_into": 12, "shed_life": 0.5, "life": 0.4},
        ):
            settings = {**more, "shed_speed": 40, "shed_keeps": 50, "gravity": [0, 60], "size": 9}
            closed = light(recipe(**settings), 16)
            stepped = light(recipe(**settings, pull=1e-9, reach=20_000), 16)
            self.assertGreater(float(closed.sum()), 100)
            self.assertLess(float(np.abs(closed - stepped).mean()), 0.12 * float(closed.mean()))


class Bursts(TestCase):
    def test_at_its_end(self) -> None:
        """Nothing before; then as many, round about where it was, for as long as they live."""
        made = recipe(bursts_into=10, shed_life=0.4, shed_speed=120, life=0.6)
        self.assertAlmostEqual(spots(made, 14), 1, delta=0.1)
        after = light(made, 20)
        self.assertAlmostEqual(spots(made, 20), 10, delta=0.5)
        across = float((after.sum(axis=0) * (np.arange(320) + 0.5)).sum() / after.sum())
        self.assertAlmostEqual(across, 40 + 100 * 0.6, delta=6)
        self.assertEqual(spots(made, 27), 0)

    def test_scattered_evenly_over_a_disc(self) -> None:
        """In any direction, as many within half the speed as a quarter of all (chi-square at 0.1 percent)."""
        made = as_it_comes(Particles, shed_speed=100.0, shed_keeps=0.0)
        which = SHED + np.arange(20_000, dtype=np.int64)
        found = made.scattered(KEY, which, np.zeros((20_000, 2)))
        fast, way = np.hypot(*found.T), np.arctan2(found[:, 1], found[:, 0])
        cells = np.histogram2d(fast**2, way, bins=(4, 8), range=((0, 1e4), (-math.pi, math.pi)))[0]
        self.assertLess(float(((cells - 625) ** 2 / 625).sum()), 62)

    def test_gone_at_a_floor(self) -> None:
        """It falls for sqrt(2 h / g) and is gone; what it bursts into is thrown back up."""
        made = as_it_comes(
            Particles, lands="are gone at a floor", floor=300.0, drag=0.0, bounce=40.0, slide=50.0
        )
        lot = Lot(
            np.arange(3),
            np.zeros(3),
            np.array([[0, 100], [0, 250], [0, 400]], float),
            np.zeros((3, 2)),
            np.zeros((3, 2)),
            uncoloured(3),
        )
        ends = made.ends(lot, np.full(3, 5.0))
        wanted = [math.sqrt(2 * 200 / 900), math.sqrt(2 * 50 / 900), 5.0]
        np.testing.assert_allclose(ends, wanted, atol=1e-6)
        back = made.thrown_back(np.array([[10.0, 80.0]]))
        np.testing.assert_allclose(back, [[5.0, -32.0]])
        for more in ({}, {"pull": 1e-9, "reach": 20_000}):
            rain = recipe(burst=60, gravity=[0, 400], cone=60, direction=90, speed=60, uneven=50, life=2, lands="are gone at a floor", floor=120, **more)  # fmt: skip
            self.assertGreater(spots(rain, 5), 30)
            self.assertLess(spots(rain, 24), 1)
            self.assertLess(float(light(rain, 12)[126:].max()), 0.01)

    def test_lands_nowhere_else(self) -> None:
        self.assertGreater(spots(recipe(burst=60, gravity=[0, 100], lands="land nowhere", floor=70), 20), 50)  # fmt: skip


class Limits(TestCase):
    def test_too_many(self) -> None:
        """What is shed counts, and the message says so."""
        with self.assertRaises(RecipeError) as raised:
            recipe(rate=20_000, life=10, sheds=100, shed_life=1)
        self.assertIn("and what they shed", str(raised.exception))

    def test_too_many_at_once(self) -> None:
        """Of a burst too, and of all bursts that are there at once; the nearest that is told is taken."""
        for more in (
            {"bursts_into": 1000},
            {"sheds": 1000, "shed_life": 60},
            {"burst_every": 0.02, "life": 120},
        ):
            settings: dict[str, Any] = {"burst": 100_000, "life": 2, **more}
            with self.assertRaises(RecipeError) as raised:
                recipe(**settings)
            [problem] = raised.exception.problems
            self.assertEqual(problem.path, "layers[0].source.burst")
            recipe(**settings | {"burst": problem.nearest})

    def test_no_more_than_there_may_be(self) -> None:
        """What moves is not known beforehand: of more, those of the latest are shed."""
        made = as_it_comes(Particles, sheds=1000.0, shed_life=60.0, bursts_into=1000)
        parents = np.arange(3000, dtype=np.int64)
        of, left, ages = made.left_behind(KEY, parents, np.zeros(3000), np.full(3000, 2.0))
        self.assertLessEqual(len(left), MOST_ALIVE)
        self.assertGreater(len(left), MOST_ALIVE - 2001)
        self.assertEqual((int(of.max()), len(ages)), (2999, len(left)))
        of, burst = made.burst_of(parents)
        self.assertEqual((len(burst), int(of.min()), int(of.max())), (MOST_ALIVE, 2000, 2999))

    def test_no_oftener_than_may_be(self) -> None:
        made = as_it_comes(Particles, burst=1, burst_every=1e-9)
        self.assertEqual(len(made.bursts_between(0.0, 1.0)), 50)

    def test_numbers_never_meet(self) -> None:
        """What different ones shed, and burst into, has numbers of its own."""
        made = as_it_comes(Particles, sheds=50.0, bursts_into=30)
        parents = np.array([0, 1, 2, 5000, (1 << 40) + 3], np.int64)
        _, left, _ = made.left_behind(KEY, parents, np.zeros(5), np.full(5, 2.0))
        _, burst = made.burst_of(parents)
        every = np.concatenate([parents, left, burst])
        self.assertEqual(len(np.unique(every)), len(every))
        self.assertTrue((left >= SHED).all() and (burst >= SHED).all())


class Again(TestCase):
    def test_bursts_that_come_again(self) -> None:
        """So many each time, wherever between frames that is; no two are alike; in closed form as in steps."""
        settings = {"burst": 8, "burst_every": 0.3, "life": 0.2, "cone": 360, "speed": 300}
        for more in ({}, {"pull": 1e-9, "reach": 20_000}):
            made = recipe(**settings, **more)
            counts = [round(spots(made, frame)) for frame in range(2, 24)]
            wanted = [8 if (frame - 1) / 25 % 0.3 < 0.2 - 1e-9 else 0 for frame in range(2, 24)]
            near = [abs(found - right) <= 1 for found, right in zip(counts, wanted, strict=True)]
            # One frame may fall just beside where they go.
            self.assertGreaterEqual(sum(near), len(near) - 2, (counts, wanted))
        first, second = light(recipe(**settings), 4), light(recipe(**settings), 4 + 15)
        self.assertFalse(np.allclose(first, second, atol=0.05))

    def test_once(self) -> None:
        made = as_it_comes(Particles, burst=5, burst_every=0.0)
        self.assertEqual(made.bursts_between(-1.0, 9.0), [(0, 0.0)])
        self.assertEqual(made.bursts_between(0.04, 9.0), [])
        self.assertEqual(as_it_comes(Particles, burst=0, burst_every=1.0).bursts_between(0, 9), [])


class Wraps(TestCase):
    def test_comes_in_at_the_other_side(self) -> None:
        """What flies out at the right comes in at the left, as far on as the canvas and itself are wide; without
        it is gone."""
        far = {"at": [300, 60], "speed": 100, "life": 2}
        self.assertEqual(float(light(recipe(**far), 26).max()), 0)
        again = light(recipe(**far, wraps=True), 26)
        column = float((again.sum(axis=0) * (np.arange(320) + 0.5)).sum() / again.sum())
        self.assertAlmostEqual(column, 300 + 100 - (320 + 2 * 6), delta=1)
        up = light(recipe(at=[160, 10], direction=-90, speed=100, life=2, wraps=True), 16)
        row = float((up.sum(axis=1) * (np.arange(180) + 0.5)).sum() / up.sum())
        self.assertAlmostEqual(row, 10 - 60 + 180 + 2 * 6, delta=1)

    def test_as_many_stay(self) -> None:
        """Of many that are blown away all stay, in sight but for those in the margin."""
        lots = {"burst": 200, "cone": 360, "speed": 200, "life": 2, "uneven": 50}
        seen = 200 * 320 * 180 / (332 * 192)
        self.assertAlmostEqual(spots(recipe(**lots, wraps=True), 40), seen, delta=12)
        self.assertLess(spots(recipe(**lots), 40), 120)
