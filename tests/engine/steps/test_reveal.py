"""Reveal: from exactly nothing to exactly all, evenly, from where it is said to come."""

import math
from itertools import pairwise
from typing import Any
from unittest import TestCase

import cv2
import numpy as np

from handful.engine import render_frame
from tests.engine.recipes import small

PLAIN: dict[str, Any] = {"softness": 10, "band": 0, "char": 0}


def revealed(
    shown: float, scale: float = 1.0, others: list[Any] | None = None, **settings: Any
) -> np.ndarray:
    """An even cover of a third, with a reveal."""
    sheet = {
        "kind": "noise",
        "comes_as": "cover",
        "contrast": 0,
        "brightness": 100,
        "boil": 0,
        "colour": "#80c0ff",
    }
    step = {"kind": "reveal", "id": "r", "shown": shown, "size": 40, **settings}
    layer = {"id": "sheet", "name": "Sheet", "source": sheet, "steps": [step]}
    return render_frame(small(layer, *(others or [])), 1, scale)


class Ends(TestCase):
    def test_nothing_and_all(self) -> None:
        """At 0 no px shows and nothing glows; at 100 it is the picture, whatever the front is like."""
        whole = revealed(100, **PLAIN)
        self.assertAlmostEqual(float(whole[..., 3].min()), 1, places=6)
        for settings in (
            {"softness": 0}, {"softness": 100}, {"band": 50}, {"noise": 100}, {"noise": 0},
            {"bits": 100}, {"way": "from a point"}, {"way": "from the edge"}, {"way": "to the edge"},
        ):  # fmt: skip
            with self.subTest(**settings):
                self.assertEqual(np.abs(revealed(0, **settings)).max(), 0)
                np.testing.assert_array_equal(revealed(100, **settings), whole)

    def test_more_never_shows_less(self) -> None:
        ways: list[dict[str, Any]] = [
            {},
            {"noise": 100},
            {"way": "from a point", "at": [160, 90]},
        ]
        for settings in ways:
            covers = [revealed(at, **PLAIN, **settings)[..., 3] for at in (5, 20, 40, 60, 80, 95)]
            for less, more in pairwise(covers):
                self.assertTrue(np.all(more >= less))
            self.assertGreater(covers[-1].mean(), covers[0].mean() + 0.8)

    def test_noise_reveals_evenly(self) -> None:
        """Half of the way shows half of the picture, a quarter a quarter (noise made even)."""
        for at in (25, 50, 75):
            cover = revealed(at, noise=100, size=14, softness=1, band=0)[..., 3]
            self.assertAlmostEqual(float(cover.mean()), at / 100, delta=0.05)


class Fronts(TestCase):
    def test_from_a_side(self) -> None:
        """Without noise it is a straight front: at 30 % of the way after 30 %, in any direction."""
        cover = revealed(30, noise=0, softness=0, band=0)[..., 3]
        np.testing.assert_array_equal(cover[:, :94], 1)
        np.testing.assert_array_equal(cover[:, 98:], 0)
        up = revealed(30, noise=0, softness=0, band=0, direction=-90)[..., 3]
        np.testing.assert_array_equal(up[128:], 1)
        np.testing.assert_array_equal(up[:124], 0)

    def test_from_a_point(self) -> None:
        cover = revealed(50, noise=0, softness=0, band=0, way="from a point", at=[0, 0])[..., 3]
        y, x = np.mgrid[:180, :320] + 0.5
        far = np.hypot(x, y) / math.hypot(320, 180)
        np.testing.assert_array_equal(cover[far < 0.49], 1)
        np.testing.assert_array_equal(cover[far > 0.51], 0)

    def test_over_a_body(self) -> None:
        """In from the edge of another layer's cover, or out to it."""
        limit = {"kind": "ellipse", "centre": [160, 90], "width": 140, "height": 140, "feather": 0}
        source = {"kind": "noise", "comes_as": "cover", "contrast": 0, "brightness": 100}
        body = {"id": "body", "name": "Body", "on": False, "source": source, "limits": [limit]}
        y, x = np.mgrid[:180, :320] + 0.5
        inward = 70 - np.hypot(x - 160, y - 90)
        settings: dict[str, Any] = {"noise": 0, "softness": 0, "band": 0, "body": "body"}
        inwards = revealed(50, others=[body], way="from the edge", **settings)[..., 3]
        outwards = revealed(50, others=[body], way="to the edge", **settings)[..., 3]
        inside = inward > 2
        np.testing.assert_array_equal(inwards[inside & (inward < 32)], 1)
        np.testing.assert_array_equal(inwards[inward > 38], 0)
        np.testing.assert_array_equal(outwards[inside & (inward < 32)], 0)
        np.testing.assert_array_equal(outwards[inward > 38], 1)

    def test_by_a_layer(self) -> None:
        """Where that layer is dark it shows first."""
        source = {"kind": "noise", "contrast": 300, "boil": 0.3, "size": 80, "seed": 4}
        by = {"id": "by", "name": "By", "on": False, "source": source}
        decides = render_frame(small(by | {"on": True}), 1)[..., 0]
        cover = revealed(50, others=[by], by="by", noise=100, softness=0, band=0)[..., 3]
        np.testing.assert_array_equal(cover[decides < 0.48], 1)
        np.testing.assert_array_equal(cover[decides > 0.52], 0)

    def test_the_band_glows_at_the_front(self) -> None:
        """Its light is at the front, and char behind it; far behind the picture is as it was."""
        plain = revealed(60, noise=0, softness=0, band=0)
        banded = revealed(60, noise=0, softness=0, band=10, light=3, char=100)
        front = int(np.argmin(banded[90, :, 3] > 0.5))
        self.assertGreater(banded[90, front - 3, 0], 4)
        self.assertLess(banded[90, front - 30, 2], 0.7 * plain[90, 0, 2])
        np.testing.assert_allclose(banded[90, : front - 70], plain[90, : front - 70], atol=1e-6)


class Bits(TestCase):
    def test_they_are_beyond_the_front(self) -> None:
        """Loose bits lie where nothing shows yet, no farther than they drift, and are gone at the ends."""
        settings: dict[str, Any] = {
            "noise": 0,
            "softness": 0,
            "band": 0,
            "bits": 100,
            "bit_size": 6,
        }
        without = revealed(50, noise=0, softness=0, band=0)[..., 3]
        loose = revealed(50, drift=[40, 0], **settings)[..., 3]
        np.testing.assert_array_equal(loose[without == 1], 1)
        beyond = np.nonzero((loose > 0.02).any(0))[0].max()
        front = int(without[90].sum())
        self.assertGreater(beyond, front + 20)
        self.assertLess(beyond, front + 0.22 * 320 + 1.5 * 40)
        self.assertLess(loose[:, front + 40 :].mean(), loose[:, front : front + 15].mean())
        apart = revealed(50, drift=[40, 0], seed=2, **settings)[..., 3]
        self.assertGreater(np.abs(apart - loose).max(), 0.5)

    def test_at_half_the_size(self) -> None:
        """The same picture smaller: its front within 40 dB, its bits as much cover."""
        cases: list[tuple[dict[str, Any], bool]] = [
            ({"noise": 80, "size": 90}, False),
            ({"bits": 60, "bit_size": 16}, True),
        ]
        for settings, bits in cases:
            whole = revealed(50, softness=20, band=0, **settings)
            small_one = revealed(50, 0.5, softness=20, band=0, **settings)
            reduced = cv2.resize(whole, small_one.shape[1::-1], interpolation=cv2.INTER_AREA)
            if bits:
                self.assertAlmostEqual(
                    float(small_one[..., 3].mean()), float(reduced[..., 3].mean()), delta=0.01
                )
            else:
                error = float(np.sqrt(np.mean((small_one - reduced) ** 2)))
                self.assertGreater(20 * math.log10(1 / error), 40)
