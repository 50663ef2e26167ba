"""Particles carried by swirls, drag, what draws them, and walls, beside theory and other solvers."""

import math
from dataclasses import dataclass
from typing import Any
from unittest import TestCase

import numpy as np
from scipy.integrate import solve_ivp
from scipy.ndimage import distance_transform_edt

from handful.engine.kernels.chance.curl import stirred
from handful.engine.kernels.chance.gusts import gust
from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.forms.carrying import (
    NOWHERE,
    Air,
    Distance,
    carry,
    distance_to,
)
from handful.engine.picture import Region, Tile

STILL = Air(
    gravity=(0.0, 0.0), wind=(0.0, 0.0), drag=0.0, drag_fast=0.0, stir=0.0, stir_size=100.0, turns=0.0,
    pull=0.0, whirl=0.0, reach=100.0, swallows=0.0, x=0.0, y=0.0, to_edge=False, along=0.0, floor=math.inf, bounce=0.5, slide=0.8,
)  # fmt: skip
NO_LINE = np.empty((0, 2))


@dataclass
class Thrown:
    """One particle, its way, and whether it is left."""

    places: np.ndarray
    speeds: np.ndarray
    left: bool = True

    def carried(
        self,
        seconds: float,
        steps: int,
        line: np.ndarray = NO_LINE,
        body: Distance = NOWHERE,
        walls: Distance = NOWHERE,
        **air: Any,
    ) -> "Thrown":
        spans = np.array([seconds / steps])
        for _ in range(steps):
            kept = carry(
                self.places, self.speeds, spans, STILL._replace(**air), line, body, walls, (3, 4)
            )
            self.left = self.left and bool(kept[0])
        return self


def one(x: float, y: float, vx: float, vy: float) -> Thrown:
    return Thrown(np.array([[x, y]], np.float64), np.array([[vx, vy]], np.float64))


def stirred_at(x: float, y: float, turns: float, k0: int, k1: int) -> tuple[float, float]:
    found = np.empty((2, 1))
    stirred(np.array([x]), np.array([y]), turns, k0, k1, *found)
    return float(found[0, 0]), float(found[1, 0])


class Swirls(TestCase):
    def test_nothing_gathers_or_parts(self) -> None:
        """The wind's divergence is nothing (Bridson, Houriham and Nordenstam 2007), while it turns."""
        chance, step = np.random.default_rng(1), 1e-5
        spins = []
        for x, y, z in chance.random((300, 3)) * 40:
            east, west = stirred_at(x + step, y, z, 5, 6), stirred_at(x - step, y, z, 5, 6)
            south, north = stirred_at(x, y + step, z, 5, 6), stirred_at(x, y - step, z, 5, 6)
            self.assertAlmostEqual(
                (east[0] - west[0] + south[1] - north[1]) / 2 / step, 0, delta=1e-5
            )
            spins.append((east[1] - west[1] - south[0] + north[0]) / 2 / step)
        self.assertGreater(np.std(spins), 2)

    def test_speed(self) -> None:
        """The root of the mean square is 1, alike across and down but for the four of Perlin's sixteen ways
        that are there twice, and none blows all in all."""
        winds = np.array(
            [
                stirred_at(p[0], p[1], p[2], 9, 9)
                for p in np.random.default_rng(2).random((20000, 3)) * 300
            ]
        )
        self.assertAlmostEqual(float(np.sqrt((winds**2).sum(axis=1).mean())), 1, delta=0.03)
        self.assertAlmostEqual(float(winds[:, 0].std() / winds[:, 1].std()), 1, delta=0.08)
        np.testing.assert_allclose(winds.mean(axis=0), 0, atol=0.02)

    def test_whoever_is_beside_it(self) -> None:
        """What blows at a place does not depend on the others that are asked for with it."""
        x, y = np.random.default_rng(3).random((2, 1000)) * 90 - 45
        found = np.empty((2, 1000))
        stirred(x, y, 0.7, 1, 2, *found)
        for n in (0, 255, 256, 700, 999):
            self.assertEqual(tuple(found[:, n]), stirred_at(x[n], y[n], 0.7, 1, 2))

    def test_nothing_jumps(self) -> None:
        """Not at a cell's sides, and not while it boils."""
        for place in (3.0, -2.0, 0.0):
            for a, b in (((place - 1e-7, 0.4, 0.2), (place + 1e-7, 0.4, 0.2)), ((0.3, 0.4, place - 1e-7), (0.3, 0.4, place + 1e-7))):  # fmt: skip
                np.testing.assert_allclose(stirred_at(*a, 1, 2), stirred_at(*b, 1, 2), atol=1e-5)

    def test_gusts(self) -> None:
        """They come and go about nothing, with a deviation near 1 (of three waves: sqrt(1.52 / 2))."""
        blown = np.array([gust(t, Key(1, 2)) for t in np.arange(0, 2000, 0.05)])
        self.assertAlmostEqual(float(blown.mean()), 0, delta=0.01)
        self.assertAlmostEqual(float(blown.std()), math.sqrt(1.52 / 2), delta=0.01)


class Flight(TestCase):
    def test_what_falls_fast(self) -> None:
        """Against drag by the square of speed: on its way as an ODE solver has it, and at last at the speed
        at which drag holds the weight, sqrt(g / c)."""
        g, c = 900.0, 0.004

        def change(_: float, now: np.ndarray) -> list[float]:
            speed = math.hypot(now[2], now[3])
            return [now[2], now[3], -c * speed * now[2], g - c * speed * now[3]]

        theirs = solve_ivp(change, (0, 0.6), [0, 0, 700, -500], rtol=1e-9, atol=1e-9).y[:, -1]
        ours = one(0, 0, 700, -500).carried(0.6, 60, gravity=(0.0, g), drag_fast=c)
        np.testing.assert_allclose(ours.places[0], theirs[:2], atol=1.5)
        np.testing.assert_allclose(ours.speeds[0], theirs[2:], atol=3)
        last = one(0, 0, 0, 0).carried(6, 150, gravity=(0.0, g), drag_fast=c)
        self.assertAlmostEqual(float(last.speeds[0, 1]), math.sqrt(g / c), delta=0.5)

    def test_steps_agree_with_closed_forms(self) -> None:
        """Gravity, wind and drag are the same however many steps there are, on a floor too."""
        even: dict[str, Any] = {
            "gravity": (0.0, 900.0),
            "wind": (60.0, 0.0),
            "drag": 0.7,
            "floor": 100.0,
        }
        for bounce in (0.5, 0.0):
            whole = one(0, 0, 200, -300).carried(2.2, 1, **even, bounce=bounce)
            cut = one(0, 0, 200, -300).carried(2.2, 37, **even, bounce=bounce)
            np.testing.assert_allclose(cut.places, whole.places, atol=0.6)

    def test_what_draws(self) -> None:
        """Round a point as an ODE solver has it: 2 s / (1 + s²) of the pull, s in parts of its reach."""

        def change(_: float, now: np.ndarray) -> list[float]:
            far = math.hypot(now[0] - 50, now[1])
            strong = 800 * 2 * (far / 120) / (1 + (far / 120) ** 2) / far
            return [now[2], now[3], -strong * (now[0] - 50), -strong * now[1]]

        theirs = solve_ivp(change, (0, 1.0), [200, 0, 0, 150], rtol=1e-9, atol=1e-9).y[:, -1]
        ours = one(200, 0, 0, 150).carried(1.0, 800, pull=800.0, reach=120.0, x=50.0)
        np.testing.assert_allclose(ours.places[0], theirs[:2], atol=1)

    def test_what_whirls(self) -> None:
        """Air goes clockwise on the screen, fastest at its reach, where held dust soon goes with it; a
        line does it across, whichever way is nearest."""
        held = one(0, -120, 0, 0).carried(0.05, 50, drag=80.0, whirl=300.0, reach=120.0)
        np.testing.assert_allclose(np.hypot(*held.speeds[0]), 300, rtol=0.03)
        self.assertGreater(held.speeds[0, 0], 290)
        line = np.array([[-500.0, 0.0], [500.0, 0.0]])
        by_line = one(-490, -120, 0, 0).carried(
            0.05, 50, line=line, drag=80.0, whirl=300.0, reach=120.0
        )
        self.assertGreater(by_line.speeds[0, 0], 290)
        self.assertAlmostEqual(float(by_line.places[0, 1]), -120, delta=0.5)

    def test_what_swallows(self) -> None:
        near, far = one(5, 0, 0, 0), one(12, 0, 0, 0)
        self.assertFalse(near.carried(0.04, 1, swallows=10.0).left)
        self.assertTrue(far.carried(0.04, 1, swallows=10.0).left)


class Walls(TestCase):
    REGION = Region(-20, 10, 100, 90)

    def box(self, scale: float = 0.5) -> Distance:
        """A body from 20 to 120 across and from 80 down to 140, in px of the full size."""
        picture = np.zeros((self.REGION.height, self.REGION.width, 4), np.float32)
        picture[40 - 10 : 70 - 10, 10 + 20 : 60 + 20, 3] = 1
        return distance_to(Tile(picture, self.REGION), scale)

    def test_distances(self) -> None:
        """As another library has them, half a px less to the px's own side; below 0 within."""
        chance = np.random.default_rng(4)
        picture = np.zeros((60, 80, 4), np.float32)
        picture[..., 3] = np.kron(chance.random((6, 8)) > 0.6, np.ones((10, 10)))
        found = distance_to(Tile(picture, Region(0, 0, 80, 60)), 1.0)
        solid = np.pad(picture[..., 3] > 0.5, 1)
        theirs = np.where(solid, 0.5 - distance_transform_edt(solid), distance_transform_edt(~solid) - 0.5)  # fmt: skip
        np.testing.assert_allclose(found.far, theirs, atol=1e-4)

    def test_a_drop_bounces_to_its_share(self) -> None:
        """From a wall it comes back with e of its speed, and so to e² of the height (textbook mechanics)."""
        e, g, drop = 0.6, 900.0, 70.0
        falls = math.sqrt(2 * drop / g)
        rises = e * math.sqrt(2 * g * drop) / g
        steps = 600
        high = one(70, 80 - drop, 0, 0).carried(
            falls + rises, steps, walls=self.box(), gravity=(0.0, g), bounce=e
        )
        self.assertAlmostEqual(float(80 - high.places[0, 1]), e * e * drop, delta=1.5)

    def test_none_gets_through(self) -> None:
        """However fast, from every side, in a single step; what goes past goes on as it was."""
        walls = self.box()
        for angle in np.radians(np.arange(0, 360, 7)):
            start = np.array([70 + 300 * math.cos(angle), 110 + 300 * math.sin(angle)])
            way = -6000 * np.array([math.cos(angle), math.sin(angle)])
            hit = one(*start, *way).carried(0.06, 1, walls=walls, bounce=1.0, slide=1.0)
            x, y = hit.places[0]
            outside = min(20 - x, x - 120, key=abs), min(80 - y, y - 140, key=abs)
            self.assertGreater(max(outside), -1.0)
            self.assertAlmostEqual(float(np.hypot(*hit.speeds[0])), 6000, delta=1)
        past = one(-200, 60, 6000, 0).carried(0.06, 1, walls=walls)
        np.testing.assert_allclose(past.places[0], [160, 60])
        np.testing.assert_allclose(past.speeds[0], [6000, 0])

    def test_it_slides(self) -> None:
        """Along a wall it keeps its share of speed at each touch, and lies on it."""
        lies = one(30, 70, 100, 0).carried(
            0.4, 40, walls=self.box(), gravity=(0.0, 900.0), bounce=0.0
        )
        self.assertAlmostEqual(float(lies.places[0, 1]), 80, delta=1)
        self.assertLess(abs(lies.speeds[0, 0]), 5)

    def test_born_within_it_comes_out(self) -> None:
        self.assertGreaterEqual(
            80.1, one(70, 83, 0, 0).carried(0.04, 1, walls=self.box()).places[0, 1]
        )


def ring(radius: float) -> Distance:
    """How far places are from the edge of a disc about (0, 0), as a picture would tell."""
    side = np.arange(-300, 301.0)
    far = np.hypot(side[None, :], side[:, None]) - radius
    return Distance(far.astype(np.float32), -300.0, -300.0, 1.0)


class Edges(TestCase):
    def test_along_a_line(self) -> None:
        """Air along a line goes as the line does, half as fast at the reach, and drag 100 takes a thing along."""
        line = np.array([[-1000.0, 0.0], [1000.0, 0.0]])
        for far, speed in ((0.0, 80.0), (100.0, 40.0), (-200.0, 16.0)):
            thrown = one(0, far, 0, 0).carried(1.0, 10, line, drag=100.0, along=80.0)
            np.testing.assert_allclose(thrown.speeds[0], [speed, 0], atol=1e-6)
            back = one(0, far, 0, 0).carried(1.0, 10, line[::-1].copy(), drag=100.0, along=80.0)
            np.testing.assert_allclose(back.speeds[0], [-speed, 0], atol=1e-6)

    def test_round_a_body(self) -> None:
        """Along the edge of a disc a thing goes round it clockwise, as fast inside as outside of it."""
        for far in (110.0, 90.0):
            thrown = one(far, 0, 0, 0).carried(
                0.02, 1, body=ring(100.0), drag=1000.0, along=60.0, reach=10.0, to_edge=True
            )
            self.assertAlmostEqual(float(thrown.speeds[0, 1]), 30, delta=1)
            self.assertAlmostEqual(float(thrown.speeds[0, 0]), 0, delta=1)

    def test_drawn_to_the_edge(self) -> None:
        """To an edge a thing is drawn from both sides; to a body only from outside."""
        for to_edge, inside in ((True, 1), (False, 0)):
            for far, way in ((140.0, -1), (60.0, inside)):
                thrown = one(far, 0, 0, 0).carried(
                    0.05, 1, body=ring(100.0), pull=500.0, to_edge=to_edge
                )
                self.assertEqual(np.sign(round(float(thrown.speeds[0, 0]), 3)), way)


class Sticks(TestCase):
    def stuck(
        self, thrown: Thrown, seconds: float, *walls: Distance, clings: bool = True, **air: Any
    ) -> Thrown:
        for wall in walls or (NOWHERE,):
            carry(
                thrown.places, thrown.speeds, np.array([seconds]), STILL._replace(**air), NO_LINE, NOWHERE,
                wall, (3, 4), clings=np.array([clings]),
            )  # fmt: skip
        return thrown

    def test_to_a_floor(self) -> None:
        """Where a fall from h ends, after sqrt(2 h / g), it stays however it is pulled and blown; others go on."""
        falls: dict[str, Any] = {"gravity": (0.0, 800.0), "floor": 100.0}
        once = self.stuck(one(10, 0, 30, 0), 1.0, **falls)
        for thrown in (once, self.stuck(once, 0.3, wind=(900.0, 0.0), drag=5.0, **falls)):
            np.testing.assert_allclose(thrown.places[0], [25, 100], atol=1e-6)
            np.testing.assert_array_equal(thrown.speeds[0], 0)
        plain = self.stuck(one(10, 0, 30, 0), 1.0, clings=False, **falls)
        self.assertGreater(plain.places[0, 0], 30)

    def test_to_a_wall(self) -> None:
        """Where it meets a disc it stays as it is pulled off; once that is gone it falls."""
        thrown = self.stuck(one(150, 0, -100, 0), 1.0, ring(100.0))
        np.testing.assert_allclose(thrown.places[0], [100, 0], atol=0.05)
        self.stuck(thrown, 0.2, ring(100.0), gravity=(300.0, 300.0))
        np.testing.assert_allclose(thrown.places[0], [100, 0], atol=0.05)
        self.stuck(thrown, 0.2, ring(50.0), gravity=(0.0, 300.0))
        np.testing.assert_allclose(thrown.places[0], [100, 6], atol=0.05)

    def test_goes_with_a_wall(self) -> None:
        """A wall that comes on or draws back a little has it still on its edge."""
        thrown = self.stuck(
            one(150, 0, -100, 0), 1.0, ring(100.0), ring(101.0), ring(100.0), ring(99.0)
        )
        np.testing.assert_allclose(thrown.places[0], [99, 0], atol=0.1)


class Bounces(TestCase):
    def told(
        self, thrown: Thrown, seconds: float, walls: Distance = NOWHERE, **air: Any
    ) -> np.ndarray:
        hits = np.full((1, 7), -1.0)
        carry(
            thrown.places, thrown.speeds, np.array([seconds]), STILL._replace(**air), NO_LINE, NOWHERE,
            walls, (3, 4), hits=hits,
        )  # fmt: skip
        return hits[0]

    def test_off_a_floor(self) -> None:
        """When, where and how fast in closed form: a fall from h takes sqrt(2 h / g)."""
        hit = self.told(one(10, 0, 30, 0), 1.0, gravity=(0.0, 800.0), floor=100.0)
        np.testing.assert_allclose(hit, [0.5, 25, 100, 24, -200, 0, -1], atol=1e-6)

    def test_not_where_nothing_is_met(self) -> None:
        for thrown, floor in ((one(0, 0, 0, 0), 900.0), (one(0, 100, 40, 0), 100.0)):
            self.assertEqual(self.told(thrown, 0.4, gravity=(0.0, 800.0), floor=floor)[0], -1)
        self.assertEqual(self.told(one(200, 0, 10, 0), 1.0, ring(100.0))[0], -1)

    def test_what_lies_on_a_wall_does_not_bounce(self) -> None:
        """Pulled against it and coming back with hardly any speed."""
        hit = self.told(one(100.001, 0, 0, 0), 0.02, ring(100.0), gravity=(-500.0, 0.0))
        self.assertEqual(hit[0], -1)

    def test_off_a_wall(self) -> None:
        """It comes from the right at 100 px/s and meets the disc half way."""
        hit = self.told(one(150, 0, -100, 0), 1.0, ring(100.0))
        np.testing.assert_allclose(hit[:3], [0.5, 100, 0], atol=0.01)
        np.testing.assert_allclose(hit[3:5], [50, 0], atol=1)
        np.testing.assert_allclose(hit[5:], [1, 0], atol=0.01)
