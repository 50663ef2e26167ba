"""A sheet beside what mechanics says: hanging chains, pendulums, springs, and what loses no motion."""

import math
from typing import Any
from unittest import TestCase

import numpy as np
from scipy.optimize import brentq
from scipy.spatial.distance import cdist

from handful.engine.kernels.forms.sheet import WHOLE, Sheet, facing, hang

G = 900.0
PLAIN = Sheet(
    across=10.0, down=10.0, stretch=0.0, shear=0.0, bend=1e9, loses=0.0, gravity=G, held=0.0, wind_x=0.0,
    wind_z=0.0, eddies=0.0, eddy=100.0, ball_x=0.0, ball_y=0.0, ball_z=0.0, ball=0.0, floor=math.inf,
    rubs=0.3, apart=0.0,
)  # fmt: skip


class Hung:
    def __init__(self, places: np.ndarray, pins: list[tuple[int, int]], **more: Any) -> None:
        self.places = np.array(places, np.float64, order="C")
        self.speeds = np.zeros(places.shape)
        self.free = np.ones(places.shape[:2])
        for place in pins:
            self.free[place] = 0
        self.sheet = PLAIN._replace(**{name: float(value) for name, value in more.items()})
        self.seconds = 0.0
        self.left = WHOLE

    def go(
        self, seconds: float, lasts: float = 0.002, moves: tuple[float, float] = (0, 0)
    ) -> "Hung":
        steps = round(seconds / lasts)
        driven = np.zeros_like(self.places)
        driven[..., :2] = moves
        hang(
            self.places, self.speeds, self.free, self.left, driven, self.sheet, self.seconds,
            lasts, steps, 1, 2,
        )  # fmt: skip
        self.seconds += seconds
        return self

    def energy(self) -> float:
        return float(0.5 * (self.speeds**2).sum() - self.sheet.gravity * self.places[..., 1].sum())


def line(count: int, across: tuple[float, float]) -> np.ndarray:
    """Points one after the other, `(1, N, 3)`."""
    steps = np.arange(count)
    return np.stack([steps * across[0], steps * across[1], np.zeros(count)], axis=1)[None]


def flat(rows: int, columns: int, apart: float = 10) -> np.ndarray:
    across, down = np.meshgrid(np.arange(columns) * apart, np.arange(rows) * apart)
    return np.stack([across, down, np.zeros(across.shape)], axis=2)


class Mechanics(TestCase):
    def test_a_chain_hangs_as_a_catenary(self) -> None:
        """Held at both ends 300 px apart, 400 px long: y = a cosh(x / a), where 2 a sinh(150 / a) is its
        length (Bernoulli, Huygens and Leibniz 1691)."""
        chain = Hung(line(41, (7.5, 0)), [(0, 0), (0, 40)], loses=3)
        chain.go(8)
        x, y = chain.places[0, :, 0] - 150, chain.places[0, :, 1]
        length = float(np.hypot(np.diff(x), np.diff(y)).sum())
        self.assertAlmostEqual(length, 400, delta=4)
        a = brentq(lambda a: 2 * a * math.sinh(150 / a) - length, 20, 2000)
        wanted = a * math.cosh(150 / a) - a * np.cosh(x / a)
        np.testing.assert_allclose(y, wanted, atol=2.0)

    def test_a_pendulum_keeps_time(self) -> None:
        """A point on a tie of 10 px: 2 pi sqrt(l / g), little turned."""
        swings = Hung(np.array([[[0, 0, 0], [1.0, math.sqrt(99), 0]]]), [(0, 0)])
        crossed, before = [], swings.places[0, 1, 0]
        for k in range(6000):
            swings.go(0.0005, 0.0005)
            now = swings.places[0, 1, 0]
            if before > 0 >= now:
                crossed.append(k * 0.0005)
            before = now
        periods = np.diff(crossed)
        self.assertGreater(len(periods), 2)
        np.testing.assert_allclose(periods, 2 * math.pi * math.sqrt(10 / G), rtol=0.02)

    def test_it_gives_as_springs_do(self) -> None:
        """Of n points hung below one another each tie gives by what hangs on it (Hooke)."""
        compliance = 2e-4
        strip = Hung(np.swapaxes(line(12, (0, 10)), 0, 1), [(0, 0)], stretch=compliance, loses=6)
        strip.go(5)
        longer = np.diff(strip.places[:, 0, 1]) - 10
        np.testing.assert_allclose(longer, compliance * G * np.arange(11, 0, -1), atol=0.05)

    def test_free_cloth_gains_no_energy(self) -> None:
        """Falling and crumpling without air, its energy never rises."""
        rolled = flat(12, 12)
        turn = rolled[..., 0] / 60
        rolled[..., 0], rolled[..., 2] = 60 * np.sin(turn), 60 * np.cos(turn)
        cloth = Hung(rolled, [(0, 0)])
        energies = [cloth.energy(), *(cloth.go(0.02).energy() for _ in range(60))]
        self.assertLess(max(energies), energies[0] + 1)
        chain = Hung(line(12, (10, 0)), [(0, 0)])
        self.assertLess(max(chain.go(0.02).energy() for _ in range(100)), 0)
        free = Hung(flat(8, 8), [])
        free.go(0.5)
        np.testing.assert_allclose(free.speeds[..., 1], G * 0.5, rtol=1e-6)
        np.testing.assert_allclose(np.diff(free.places[:, 0, 1]), 10, atol=1e-6)

    def test_it_does_not_stretch(self) -> None:
        """A stiff sheet of 48 x 48 hung by two corners is hardly longer than it is, but just at the corners."""
        cloth = Hung(flat(48, 48), [(0, 0), (0, 47)], bend=1e-5, loses=2)
        cloth.go(2)
        apart = np.linalg.norm(np.diff(cloth.places, axis=0), axis=2)
        self.assertLess(float(apart.mean()), 10.3)
        self.assertLess(float(np.percentile(apart, 99)), 11)


class InAir(TestCase):
    def test_terminal_speed(self) -> None:
        """A flat sheet that falls broadside comes to the speed at which air holds it, sqrt(g / k)."""
        level = flat(6, 6)[..., [0, 2, 1]]
        cloth = Hung(level, [], held=0.004)
        cloth.go(5)
        np.testing.assert_allclose(cloth.speeds[..., 1], math.sqrt(G / 0.004), rtol=0.02)

    def test_it_goes_with_the_wind(self) -> None:
        """Wind along it hardly moves it, wind against it does."""
        along, against = (
            Hung(flat(6, 6), [], gravity=0, held=0.004, **wind).go(0.2)
            for wind in ({"wind_x": 300}, {"wind_z": 300})
        )
        self.assertGreater(against.speeds[..., 2].mean(), 5 * along.speeds[..., 0].mean())
        self.assertGreater(along.speeds[..., 0].mean(), 0)

    def test_a_flag_streams(self) -> None:
        """Held at the left and blown to the right it is out to the right, and moves up and down its length
        more the farther from the staff."""
        flag = Hung(
            flat(14, 22),
            [(r, 0) for r in range(14)],
            bend=1e-3,
            held=0.03,
            wind_x=2500,
            wind_z=200,
            eddies=0.4,
        )
        flag.go(1.5)
        heights = []
        for _ in range(50):
            heights.append(flag.go(0.04).places[:, :, 2].mean(axis=0))
        shakes = np.std(heights, axis=0)
        self.assertGreater(flag.places[:, -1, 0].mean(), 120)
        self.assertGreater(shakes[-1], 3 * shakes[4])


class Kept(TestCase):
    def test_out_of_a_ball_and_above_a_floor(self) -> None:
        level = flat(24, 24)[..., [0, 2, 1]] - (115, 0, 115)
        cloth = Hung(level, [], bend=1e-4, ball=50, ball_y=70, floor=125)
        for _ in range(30):
            cloth.go(0.04)
            far = np.linalg.norm(cloth.places - (0, 70, 0), axis=2)
            self.assertGreater(far.min(), 50 - 1e-3)
            self.assertLessEqual(cloth.places[..., 1].max(), 125)
        self.assertLess(cloth.places[..., 1].min(), 40)

    def test_out_of_itself(self) -> None:
        """A strip let down on a floor lies there in folds that stand off one another, as far as it is told (all pairs,
        by SciPy's distances); where it may pass, they lie in one another."""
        nearest = []
        for apart in (0, 7):
            standing = flat(40, 5)
            standing[..., 2] = 12 * np.sin(standing[..., 1] / 35)
            strip = Hung(standing, [], bend=3e-5, floor=400, loses=2, apart=apart)
            strip.go(1.6)
            flat_places = strip.places.reshape(-1, 3)
            rows, columns = np.divmod(np.arange(len(flat_places)), 5)
            beside = np.maximum(abs(rows[:, None] - rows), abs(columns[:, None] - columns)) <= 1
            nearest.append(float(cdist(flat_places, flat_places)[~beside].min()))
            self.assertLess(float(np.abs(strip.speeds).max()), 500)
        self.assertLess(nearest[0], 4)
        self.assertGreater(nearest[1], 0.8 * 7)

    def test_what_touches_keeps_its_motion(self) -> None:
        """Two halves of a strip that meet give one another what they lose (Newton's third law)."""
        bent = flat(12, 3)
        bent[6:, :, 1] = bent[5::-1, :, 1]
        bent[6:, :, 2] = 8
        strip = Hung(bent, [], gravity=0, bend=1e-2, apart=7)
        strip.speeds[6:, :, 2], strip.speeds[:6, :, 2] = -300, 300
        strip.go(0.1)
        np.testing.assert_allclose(strip.speeds.sum(axis=(0, 1)), 0, atol=1e-6)
        gap = strip.places[11, :, 2].mean() - strip.places[0, :, 2].mean()
        self.assertGreater(gap, 5)

    def test_what_is_held_goes_along(self) -> None:
        cloth = Hung(flat(6, 6), [(0, c) for c in range(6)], loses=4)
        cloth.go(0.5, moves=(200, -40))
        np.testing.assert_allclose(cloth.places[0, :, 0], np.arange(6) * 10 + 100)
        np.testing.assert_allclose(cloth.places[0, :, 1], -20)
        self.assertGreater(cloth.places[-1, :, 0].mean(), 60)

    def test_it_faces_the_eye(self) -> None:
        """Hanging flat; a sheet in one line, or of one point, faces it too."""
        self.assertEqual(facing(flat(3, 3).astype(float), 1, 1), (0, 0, 1))
        self.assertEqual(facing(np.zeros((2, 2, 3)), 0, 0), (0, 0, 1))
