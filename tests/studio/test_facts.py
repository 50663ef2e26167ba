"""What the API tells of the program itself: colours, curves and timecodes."""

from django.test import TestCase
from scipy.interpolate import PchipInterpolator

from tests.studio.base import client_of


class Facts(TestCase):
    def setUp(self) -> None:
        self.anybody = client_of()

    def test_timecodes(self) -> None:
        """SMPTE ST 12-1: frame 1800 at 29.97 is one minute and two with dropped numbers."""
        path = "/timecodes?first=1799&count=2&rate=29.97"
        self.assertEqual(
            self.anybody.call("GET", f"{path}&drops=true"), (200, ["00:00:59;29", "00:01:00;02"])
        )
        self.assertEqual(self.anybody.call("GET", path), (200, ["00:00:59:29", "00:01:00:00"]))
        self.assertEqual(self.anybody.call("GET", "/timecodes?first=0&count=5000&rate=25")[0], 422)

    def test_a_curve(self) -> None:
        """SciPy's PCHIP, which is by the same paper, between points given in any order."""
        points = [(1.0, 1.0), (0.0, 0.0), (0.5, 0.3)]
        at = [0.0, 0.1, 0.45, 0.5, 0.8, 1.0]
        status, found = self.anybody.call("POST", "/curve", {"points": points, "at": at})
        self.assertEqual(status, 200)
        expected = PchipInterpolator([0, 0.5, 1], [0, 0.3, 1])(at)
        for one, other in zip(found, expected, strict=True):
            self.assertAlmostEqual(one, other, places=9)
        below = [[0, 0], [0.5, -0.7], [1, 0]]
        _, found = self.anybody.call("POST", "/curve", {"points": below, "at": [0.5]})
        self.assertEqual(found, [-0.7])
        self.assertEqual(self.anybody.call("POST", "/curve", {"points": [], "at": at})[0], 422)

    def test_colours_of_light(self) -> None:
        """CIE D65's white is sRGB's; a candle is orange; nothing below 1667 K."""
        status, white = self.anybody.call("GET", "/colours/6504")
        self.assertEqual(status, 200)
        self.assertGreater(min(int(white["srgb"][i : i + 2], 16) for i in (1, 3, 5)), 245)
        candle = self.anybody.call("GET", "/colours/1900")[1]["srgb"]
        red, green, blue = (int(candle[i : i + 2], 16) for i in (1, 3, 5))
        self.assertTrue(red > 250 > green > blue)
        self.assertEqual(self.anybody.call("GET", "/colours/900")[0], 422)
