"""What fades, against NumPy's exponential."""

from unittest import TestCase

import numpy as np

from handful.engine.kernels.fading import fades


class Fades(TestCase):
    def test_as_numpy(self) -> None:
        """From nothing to where it ends, at whole powers of two and just beside them."""
        whole = np.arange(0, 116) * np.log(2)
        for x in (
            *np.linspace(0, 80, 2001),
            *whole[whole < 80],
            *np.nextafter(whole[whole < 80], 99),
        ):
            found = float(fades(np.float32(x)))
            self.assertAlmostEqual(found / np.exp(-float(np.float32(x))), 1, delta=8e-6)

    def test_far_beyond(self) -> None:
        for x in (81, 1e4, 3e38, np.inf):
            self.assertAlmostEqual(float(fades(np.float32(x))) / np.exp(-80.0), 1, delta=8e-6)
