"""Images of an aperture against the area of a polygon."""

import math
from unittest import TestCase

import numpy as np

from handful.engine.kernels.drawing.glare import Ghosts, add_ghosts
from handful.engine.picture import Region


class GhostLight(TestCase):
    def test_a_polygon_whole_up_to_its_corners(self) -> None:
        """Closed form: n blades that touch a circle of radius r leave an area of n r² tan(π / n); light rises with the
        cube of the way from its middle to its rim, of which the mean over that area is 2 / 5."""
        region = Region(0, 0, 240, 240)
        for blades in (3, 4, 5, 16):
            for size in (0.3, 2.0, 11.0, 45.0):
                picture = np.zeros((240, 240, 4), np.float32)
                ghosts = Ghosts(
                    np.array([[120.3, 119.6, size]], np.float32), np.ones((1, 3), np.float32)
                )
                add_ghosts(ghosts, blades, 0.4, 0.0, region, picture)
                area = blades * size**2 * math.tan(math.pi / blades)
                wanted = area * (0.4 + 0.6 * 2 / 5)
                with self.subTest(blades=blades, size=size):
                    found = picture[..., :3].sum((0, 1))
                    np.testing.assert_allclose(found, wanted, rtol=0.008 if size > 10 else 0.045)
