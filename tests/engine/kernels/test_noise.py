"""Gradient noise: its bounds, its statistics, and that it belongs to the canvas."""

import os
from typing import Any
from unittest import TestCase, mock

import numpy as np

from handful.engine.kernels import compiled
from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.noise import MOST_PUSH, field_on, hashed, noise_pair, octaves

KEY = Key(123, 456)


def _field(left: int = 0, top: int = 0, **more: object) -> np.ndarray:
    known: dict[str, Any] = {
        "width": 300,
        "height": 200,
        "cell": 40.0,
        "count": 3,
        "gain": 0.5,
        "shift": (0, 0),
    }
    return field_on(left, top, **(known | {"phase": 0.3, "key": KEY} | more))


class Words(TestCase):
    def test_hash(self) -> None:
        """Jarzynski and Olano 2020, the C code of pcg3d in 32 bits, for some places."""

        def wanted(x: int, y: int, z: int) -> tuple[int, int]:
            v = [(part * 1664525 + 1013904223) % 2**32 for part in (x, y, z)]
            for turn in range(2):
                v[0] = (v[0] + v[1] * v[2]) % 2**32
                v[1] = (v[1] + v[2] * v[0]) % 2**32
                v[2] = (v[2] + v[0] * v[1]) % 2**32
                if turn == 0:
                    v = [part ^ part >> 16 for part in v]
            return v[0], v[1]

        for place in ((0, 0, 0), (1, 2, 3), (70000, 5, 9), (2**32 - 1, 4, 2**31)):
            got = hashed(*place, 0, 0)
            self.assertEqual(tuple(int(word) for word in got), wanted(*place))


class Noise(TestCase):
    def test_nothing_on_the_lattice(self) -> None:
        """Definition of gradient noise: 0 at every lattice place."""
        for x, y, z in ((0.0, 0.0, 0.0), (3.0, -7.0, 2.0), (-100.0, 41.0, -5.0)):
            self.assertEqual(noise_pair(x, y, z, *KEY), (0.0, 0.0))

    def test_bounds_and_mean(self) -> None:
        """Within its bound, around 0, and both noises independent of one another."""
        places = np.random.default_rng(1).uniform(-1000, 1000, (20000, 3))
        values = np.array([noise_pair(x, y, z, *KEY) for x, y, z in places])
        self.assertLessEqual(float(np.abs(values).max()), MOST_PUSH)
        np.testing.assert_allclose(values.mean(0), 0, atol=0.01)
        self.assertLess(abs(float(np.corrcoef(values.T)[0, 1])), 0.03)

    def test_smooth(self) -> None:
        """No jump across cells: a thousandth of a cell moves it by a hundredth at most."""
        along = np.linspace(-3, 3, 6001)
        values = np.array([noise_pair(x, 0.4, 0.7, *KEY)[0] for x in along])
        self.assertLess(float(np.abs(np.diff(values)).max()), 0.01)


class Fields(TestCase):
    def test_coarse_grid_is_close(self) -> None:
        """What is a cubic between grid samples is within 2 % of the noise itself."""
        for cell in (24.0, 90.0, 400.0):
            field = _field(cell=cell)
            for x, y in ((0, 0), (17, 33), (150, 199), (299, 60)):
                exact = octaves((x + 0.5) / cell, (y + 0.5) / cell, 0.3, *KEY, 3, 0.5)
                np.testing.assert_allclose(field[y, x], exact, atol=0.02)

    def test_fine_grid_is_the_noise(self) -> None:
        """Where every px is a sample, along whole cells and of many cells in a px: the noise place by place."""
        for cell in (20.0, 3.0, 0.3):
            field = _field(-70, 31, width=90, height=3, cell=cell, shift=(3.3, -5.0), phase=-1.7)
            exact = [
                [octaves((x - 72.8) / cell, (y + 36.5) / cell, -1.7, *KEY, 3, 0.5) for x in range(90)]
                for y in range(3)
            ]  # fmt: skip
            np.testing.assert_allclose(field, exact, atol=1e-5)

    def test_belongs_to_the_canvas(self) -> None:
        """Another region shows the same field to the bit."""
        whole, part = _field(), _field(70, 40, width=100, height=90)
        np.testing.assert_array_equal(part, whole[40:130, 70:170])

    def test_drift(self) -> None:
        """A drift of whole grid steps moves the pattern and does not change it."""
        moved = _field(shift=(18.0, 12.0))
        np.testing.assert_allclose(moved[12:, 18:], _field()[:-12, :-18], atol=0.02)

    def test_boil(self) -> None:
        """A little boil changes it little; a whole cycle makes another one."""
        first, near, far = (_field(phase=phase)[..., 0].ravel() for phase in (0.5, 0.51, 3.5))
        self.assertGreater(float(np.corrcoef(first, near)[0, 1]), 0.99)
        self.assertLess(abs(float(np.corrcoef(first, far)[0, 1])), 0.35)


class Shared(TestCase):
    def test_on_any_number_of_threads(self) -> None:
        """Handed out in bands, however small it is, it is the same; fine waves and coarse ones."""
        for cell in (40.0, 4.0):
            alone = _field(cell=cell)
            for threads in ("1", "2", "5"):
                with (
                    mock.patch.dict(os.environ, HANDFUL_THREADS=threads),
                    mock.patch.object(compiled, "_MOST_BY_ONESELF", 0),
                ):
                    np.testing.assert_array_equal(_field(cell=cell), alone)
