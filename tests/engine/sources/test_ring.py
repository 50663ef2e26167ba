"""The ring against the published growth of a blast, its pressure, and geometry."""

import math
from typing import Any
from unittest import TestCase

import cv2
import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import distance_transform_edt
from scipy.special import j0

from handful.engine import render_frame
from handful.engine.kernels.forms.blast import SOUND, front_of, pressure
from handful.engine.kernels.forms.fronts import bessel, drop_waves, gathered, pace
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

    def test_across_by_hand(self) -> None:
        """A height along a radius is the curve through the points, from before the front to the end of the tail
        (`scipy.interpolate.PchipInterpolator`), in each ring; at any scale, and where it pulls it makes mist."""
        points = ((0, 0), (20, 100), (50, -60), (75, 30), (100, 0))
        curve = PchipInterpolator(*(np.array(points).T / 100))
        hand = EVEN | {
            "falls": "by hand", "front": 10, "tail": 30, "grows": "by hand", "radius": 120,
            "across": [{"part": part, "strength": strength} for part, strength in points],
        }  # fmt: skip
        height = picture(**hand, comes_as="height", amount=10, rings=2, gap=50, fainter=50)
        row, away = height[90, 160:], np.arange(160, 320) + 0.5 - 160
        power = math.log(2) / math.log1p(100_000 / 60)
        for front, weaker in ((120, 1.0), (70, 0.5)):
            along = (front + 10 - away) / 40
            inside = (along > 0.02) & (along < 0.98)
            wanted = 10 * weaker * curve(along[inside]) * (1 + front / 60) ** -power
            np.testing.assert_allclose(row[inside], wanted, atol=0.12)
        self.assertEqual(float(np.abs(row[(away > 82) & (away < 89)]).max()), 0)
        half = picture(**hand, comes_as="height", amount=10, scale=0.5)
        whole = cv2.resize(
            picture(**hand, comes_as="height", amount=10), half.shape[1::-1], interpolation=cv2.INTER_AREA
        )  # fmt: skip
        self.assertLess(np.sqrt(np.mean((half - whole) ** 2)), 0.1)
        cover = picture(**hand, comes_as="mist", dense=50)[..., 3]
        self.assertAlmostEqual(float(cover.max()), 0.5 * 3**-power, delta=0.02)
        pushes = hand | {"across": [{"part": 0, "strength": 0}, {"part": 100, "strength": 100}]}
        self.assertEqual(float(picture(**pushes, comes_as="mist")[..., 3].max()), 0)

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


class Shapes(TestCase):
    def test_a_ball(self) -> None:
        """What lines of sight gather, against Abel's transform in closed form: 2 √(R² − b²) of an even ball
        and π (R² − b²) / 2 of one that falls by the square (Bracewell)."""
        step, radius = 0.25, 100.0
        away = (np.arange(400) + 0.5) * step
        even = gathered(np.ones(400), step)
        np.testing.assert_allclose(even, 2 * np.sqrt(radius**2 - away**2), rtol=1e-9)
        falls = gathered(np.sqrt(radius**2 - away**2), step)
        np.testing.assert_allclose(falls[:395], math.pi / 2 * (radius**2 - away**2)[:395], atol=3)

    def test_a_ball_is_brightest_at_its_rim(self) -> None:
        """As the light of a thin shell is; through it the most is bent there, outwards before the front."""
        settings = EVEN | {"grows": "by hand", "radius": 70, "shape": "a ball", "tail": 8}
        settings |= {"sharp": 4, "amount": 10}
        row = picture(**settings)[90, 160:, 1]
        self.assertGreater(int(np.argmax(row)), 55)
        self.assertLess(float(row[5]), 0.5 * float(row.max()))
        self.assertGreater(float(row[5]), 0.02 * float(row.max()))
        push = picture(**settings, comes_as="offsets")[90, 160:, 0]
        self.assertAlmostEqual(float(np.abs(push).max()), 10, delta=1.5)
        self.assertGreater(int(np.argmax(np.abs(push))), 60)

    def test_a_cone(self) -> None:
        """Mach's angle: sin μ = 1 / M, on both sides of where it flies to, and nothing before it."""
        for mach, points in ((1.5, 0.0), (3.0, 0.0), (2.0, 60.0)):
            settings = EVEN | {"shape": "a cone", "mach": mach, "direction": points, "tail": 3}
            light = picture(**settings)[..., 1]
            y, x = np.mgrid[: light.shape[0], : light.shape[1]] + 0.5
            angle = math.radians(points)
            behind = -((x - 160) * math.cos(angle) + (y - 90) * math.sin(angle))
            aside = np.abs((y - 90) * math.cos(angle) - (x - 160) * math.sin(angle))
            self.assertEqual(float(light[behind < -8].max()), 0)
            lit = (light > 0.5 * light.max()) & (behind > 30)
            found = np.degrees(np.arctan2(aside[lit], behind[lit])).mean()
            self.assertAlmostEqual(found, math.degrees(math.asin(1 / mach)), delta=1.2)

    def test_around_a_body(self) -> None:
        """It is where SciPy's distance from the cover is the radius, and pushes straight away from it."""
        bar: dict[str, Any] = {
            "id": "bar", "name": "Bar", "on": False,
            "source": {"kind": "noise", "comes_as": "cover", "brightness": 100},
            "limits": [{"kind": "rectangle", "centre": [160, 90], "width": 90, "height": 20, "feather": 0}],
        }  # fmt: skip
        source = {"kind": "ring", **EVEN, "shape": "around a body", "body": "bar", "boil": 0}
        source |= {"grows": "by hand", "radius": 40, "comes_as": "height", "amount": 10}
        layers: list[dict[str, Any]] = [bar, {"id": "r", "name": "R", "source": source}]
        height = render_frame(small(*layers), 5, layer="r")
        cover = render_frame(small(*layers), 5, layer="bar")[..., 3]
        away = distance_transform_edt(cover < 0.5) - 0.5
        where = away[height > 8]
        self.assertGreater(len(where), 100)
        self.assertGreater(float(where.min()), 36)
        self.assertLess(float(where.max()), 41.5)
        self.assertEqual(float(np.abs(height[cover > 0.5]).max()), 0)
        source["comes_as"] = "offsets"
        above = render_frame(small(*layers), 5, layer="r")[42, 160]
        self.assertAlmostEqual(float(above[0]), 0, delta=0.1)
        self.assertLess(float(above[1]), -5)
        self.assertEqual(float(np.abs(picture(shape="around a body", body="")).max()), 0)

    def test_on_the_ground(self) -> None:
        """A circle that lies there is the ellipse that OpenCV's perspective makes of one, and what it pushes
        goes along the ground: towards the vanishing point where it goes away from the eye."""
        hx, hy, near = 160.0, 20.0, 70.0
        settings = EVEN | {
            "lies": "on the ground",
            "horizon": [hx, hy],
            "near": near,
            "at": [150, 75],
        }
        settings |= {"grows": "by hand", "radius": 60, "tail": 6, "front": 1, "amount": 10}
        light = picture(**settings)[..., 1]
        middle = ((150 - hx) * near / 55, near * near / 55)
        angles = np.linspace(0, 2 * math.pi, 200)
        ring = np.stack(
            [middle[0] + 59.5 * np.cos(angles), middle[1] + 59.5 * np.sin(angles)], axis=1
        )
        # x = hx + near X / Y, y = hy + near² / Y.
        flat = np.array([[near, hx, 0.0], [0.0, hy, near * near], [0.0, 1.0, 0.0]])[:, [0, 1, 2]]
        seen = cv2.perspectiveTransform(ring[:, None], flat)[:, 0]
        inside = [light[int(y), int(x)] for x, y in seen if 2 < x < 318 and 32 < y < 178]
        self.assertGreater(len(inside), 100)
        self.assertGreater(float(np.min(inside)), 0)
        self.assertEqual(float(light[: int(hy)].max()), 0)
        push = picture(**settings, comes_as="offsets")
        far = seen[np.argmin(seen[:, 1])]
        up = push[math.ceil(far[1]), int(far[0])]
        self.assertLess(float(up[1]), 0)
        toward = np.array([hx - far[0], hy - far[1]])
        self.assertGreater(float(up @ toward / np.hypot(*up) / np.hypot(*toward)), 0.97)

    def test_inwards(self) -> None:
        """It gathers: the radius shrinks at its speed, and what it leaves lies outside."""
        settings = EVEN | {"runs": "inwards", "radius": 120, "speed": 200, "comes_as": "height"}
        row = picture(**settings, amount=10)[90, 160:]
        self.assertAlmostEqual(float(np.argmax(row)) + 0.5, 40, delta=2.5)
        self.assertEqual(float(np.abs(row[:37]).max()), 0)
        self.assertGreater(float(row[48]), 2)
        self.assertEqual(float(np.abs(picture(20, **settings)).max()), 0)

    def test_mist(self) -> None:
        """It covers where the air is pulled, most where it is most, and nowhere else."""
        settings = EVEN | {"sharp": 1.6, "grows": "by hand", "radius": 120, "patchy": 0}
        mist, height = (
            picture(**settings, comes_as="mist", dense=60),
            picture(**settings, comes_as="height"),
        )
        cover = mist[..., 3]
        weaker = (1 + 120 / 60) ** -(math.log(2) / math.log1p(100_000 / 60))
        self.assertAlmostEqual(float(cover.max()), 0.6 * weaker, delta=0.01)
        self.assertEqual(float(cover[height > 0].max()), 0)
        self.assertGreater(float(cover[height < -0.5 * abs(height.min())].min()), 0.25)


class Water(TestCase):
    def test_bessel(self) -> None:
        """Against scipy.special.j0."""
        places = np.linspace(0, 300, 6001)
        np.testing.assert_allclose([bessel(x) for x in places], j0(places), atol=2e-7)

    def test_pace(self) -> None:
        """Lamb, art. 267: waves on deep water are slowest at 1.73 cm, where they go 23.1 cm/s; long ones on
        shallow water go √(g h) (art. 170)."""
        lengths = np.linspace(0.005, 0.06, 2000)
        waves = 2 * math.pi / lengths
        speeds = pace(waves, 10.0) / waves
        self.assertAlmostEqual(float(lengths[np.argmin(speeds)]), 0.0173, delta=0.0003)
        self.assertAlmostEqual(float(speeds.min()), 0.231, delta=0.002)
        long = np.array([0.01])
        self.assertAlmostEqual(float(pace(long, 0.5)[0] / 0.01), math.sqrt(9.81 * 0.5), delta=0.01)

    def test_a_drop(self) -> None:
        """At first it is the hollow that it begins with. Long after and far out its phase is g t² / 4 r
        (Lamb, art. 255, deep water): as many crests stand within a radius as that has turned."""
        away = np.linspace(0, 1.5, 1501)
        start = drop_waves(away, 0.0, 0.3, 50.0)
        np.testing.assert_allclose(start, -np.exp(-0.5 * (away / 0.15) ** 2), atol=2e-3)
        seconds = 4.0
        far = np.linspace(2.5, 8, 5501)
        heights = drop_waves(far, seconds, 0.3, 500.0)
        turns = far[:-1][np.diff(np.signbit(heights))]
        phases = 9.81 * seconds**2 / (4 * turns)
        np.testing.assert_allclose(-np.diff(phases), math.pi, rtol=0.12)

    def test_short_waves_are_at_the_back(self) -> None:
        """Of gravity's waves the long ones lead: crests are farther apart the farther out they are."""
        row = picture(
            30, **EVEN, grows="as water does", metre=60, drop=14, comes_as="height", amount=100
        )[90, 160:]
        tops = np.flatnonzero((row[1:-1] > row[:-2]) & (row[1:-1] > row[2:]) & (row[1:-1] > 0.02))
        self.assertGreaterEqual(len(tops), 3)
        self.assertTrue(np.all(np.diff(np.diff(tops)) >= 0))
