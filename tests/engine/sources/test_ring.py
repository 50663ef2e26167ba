"""The ring against the published growth of a blast, its pressure, and geometry."""

import math
from typing import Any
from unittest import TestCase

import cv2
import numpy as np

from handful.engine import render_frame
from handful.engine.kernels.forms.blast import SOUND, front_of, pressure
from tests.engine.recipes import small

FILM = [
    (0.10, 11.1),
    (0.52, 28.8),
    (1.08, 38.9),
    (1.93, 48.7),
    (4.61, 67.3),
    (15.0, 106.5),
    (62.0, 185.0),
]
"""Milliseconds and metres from Taylor's second paper of 1950, from memory."""

EVEN: dict[str, Any] = {
    "rough": 0,
    "patchy": 0,
    "front": 2,
    "tail": 20,
    "sharp": 0,
    "reaches": 100_000,
    "at": [160, 90],
}


def picture(frame: float = 11, scale: float = 1.0, **settings: Any) -> np.ndarray:
    source = {"kind": "ring", "boil": 0.3, **settings}
    return render_frame(
        small({"id": "r", "name": "R", "source": source, "steps": []}), frame, scale
    )


class Blasts(TestCase):
    def test_the_film(self) -> None:
        """With the energy that fits the film best the front is where it was, within a tenth from half a
        millisecond on: r ∝ t^(2/5)."""
        energy = 7.1e13
        for milliseconds, metres in FILM[1:]:
            self.assertAlmostEqual(front_of(energy, milliseconds / 1000) / metres, 1, delta=0.1)
        ratio = front_of(energy, 0.016) / front_of(energy, 0.001)
        self.assertAlmostEqual(ratio, 16**0.4, places=9)

    def test_it_slows_to_sound(self) -> None:
        """Smoothly: its speed falls to that of sound, and stays."""
        times = np.geomspace(1e-4, 10, 400)
        metres = [front_of(4e6, t) for t in times]
        speeds = np.diff(metres) / np.diff(times)
        self.assertTrue(np.all(np.diff(speeds) < 1e-6))
        self.assertAlmostEqual(speeds[-1], SOUND, places=6)
        self.assertEqual(front_of(4e6, 0.0), 0)

    def test_friedlander(self) -> None:
        """(1 − t/d) e^(−b t/d): 1 at the front, nothing after d, a pull that is strongest at 1 + 1/b."""
        for sharp in (0.5, 1.6, 4.0):
            self.assertEqual(pressure(0.0, 30.0, sharp), 1)
            self.assertAlmostEqual(pressure(30.0, 30.0, sharp), 0)
            places = np.linspace(0, 300, 30001)
            values = [pressure(place, 30.0, sharp) for place in places]
            self.assertAlmostEqual(
                float(places[int(np.argmin(values))]), 30 * (1 + 1 / sharp), delta=0.02
            )


class Rings(TestCase):
    def test_where_it_is(self) -> None:
        """At a speed it is as far as that has taken it, from when its layer begins and the delay is over."""
        for delay, radius in ((0.0, 80), (0.2, 40)):
            height = picture(**EVEN, comes_as="height", speed=200, delay=delay, amount=10)
            row = height[90, 160:]
            self.assertAlmostEqual(float(np.argmax(row)) + 0.5, radius, delta=2.5)
            self.assertEqual(float(np.abs(row[radius + 4 :]).max()), 0)
            self.assertAlmostEqual(float(row.max()), 10, delta=1.2)
        self.assertEqual(np.abs(picture(1, **EVEN, speed=200, delay=1)).max(), 0)

    def test_behind_the_front(self) -> None:
        """A height along a radius is Friedlander's curve, push and pull."""
        height = picture(
            **EVEN | {"sharp": 1.6}, comes_as="height", grows="by hand", radius=120, amount=10
        )
        away = np.arange(160, 320) + 0.5 - 160
        inside = away < 119
        wanted = [10 * pressure(120 - r, 20, 1.6) for r in away[inside]]
        row = height[90, 160:][inside]
        np.testing.assert_allclose(row, np.array(wanted) * row[-1] / wanted[-1], atol=0.05)
        self.assertLess(float(row.min()), -0.3)

    def test_offsets_point_outwards(self) -> None:
        """Radially and as long as the height is high; light has no pull and no cover."""
        settings = EVEN | {"grows": "by hand", "radius": 60, "amount": 10}
        offsets, height = (picture(**settings, comes_as=kind) for kind in ("offsets", "height"))
        np.testing.assert_allclose(np.hypot(*np.moveaxis(offsets, 2, 0)), np.abs(height), atol=1e-4)
        y, x = np.mgrid[: height.shape[0], : height.shape[1]] + 0.5
        across = offsets[..., 0] * (y - 90) - offsets[..., 1] * (x - 160)
        self.assertLess(np.abs(across).max(), 1e-2)
        light = picture(**settings)
        self.assertGreaterEqual(light.min(), 0)
        self.assertEqual(light[..., 3].max(), 0)

    def test_sectors_and_gaps(self) -> None:
        """Only within its span; several rings are as far apart as they are set, each fainter."""
        settings = EVEN | {"grows": "by hand", "radius": 80, "comes_as": "height", "amount": 10}
        half = picture(**settings, span=180, direction=0, feather=1)
        self.assertGreater(half[90, 230:244].max(), 5)
        self.assertEqual(np.abs(half[:, :150]).max(), 0)
        three = picture(**settings | {"tail": 4, "front": 1}, rings=3, gap=25, fainter=50)
        row = three[90, 160:]
        peaks = [float(row[place - 4 : place + 1].max()) for place in (80, 55, 30)]
        self.assertGreater(peaks[0], peaks[1])
        self.assertAlmostEqual(peaks[1] / peaks[0], 0.5, delta=0.1)
        self.assertAlmostEqual(peaks[2] / peaks[1], 0.5, delta=0.1)

    def test_round_it_closes(self) -> None:
        """However rough, there is no seam to the right, where its waves begin and end."""
        light = picture(grows="by hand", radius=80, at=[160, 90], rough=60, waves=9, tail=40)[
            ..., 1
        ]
        seam = np.abs(light[89] - light[90])[170:]
        beside = np.abs(np.diff(light[60:120], axis=0)).max()
        self.assertLess(float(seam.max()), 1.2 * beside)

    def test_half_the_size(self) -> None:
        for kind in ("light", "height", "offsets"):
            settings: dict[str, Any] = {
                "comes_as": kind,
                "grows": "by hand",
                "radius": 75,
                "front": 12,
                "tail": 50,
                "at": [160, 90],
            }
            whole, half = picture(**settings), picture(**settings, scale=0.5)
            reduced = cv2.resize(whole, half.shape[1::-1], interpolation=cv2.INTER_AREA)
            error = np.sqrt(np.mean((half - reduced) ** 2)) / max(1.0, np.abs(whole).max())
            with self.subTest(kind=kind):
                self.assertGreater(20 * math.log10(1 / error), 40)
