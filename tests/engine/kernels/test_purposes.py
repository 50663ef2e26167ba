"""The register of what random numbers are for, and the one smooth passage."""

from unittest import TestCase

import numpy as np

from handful.engine.kernels.chance import purposes
from handful.engine.kernels.easing import smooth


class Purposes(TestCase):
    def test_none_meet(self) -> None:
        """Every purpose has a number of its own; places about an edge take one for each axis."""
        numbers = [value for name, value in vars(purposes).items() if name.isupper()]
        numbers.append(purposes.ABOUT_EDGE + 1)
        self.assertEqual(len(numbers), len(set(numbers)))
        self.assertGreater(len(numbers), 25)


class Smooth(TestCase):
    def test_passage(self) -> None:
        """Closed form: Hermite's cubic from 0 to 1, level at both ends; a float32 stays one."""
        part = np.linspace(0, 1, 11)
        np.testing.assert_allclose(smooth(part), 3 * part**2 - 2 * part**3, atol=1e-15)
        self.assertEqual(smooth(part.astype(np.float32)).dtype, np.float32)
        self.assertEqual((smooth(0.0), smooth(0.5), smooth(1.0)), (0, 0.5, 1))
