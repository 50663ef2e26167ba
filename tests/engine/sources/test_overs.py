"""What particles are over their lives, by curves and ramps."""

from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import render_frame
from handful.engine.sources.particles.overs import OverLife, over_life
from tests.engine.sources.test_swarms import recipe

RAMP = [{"part": 0, "colour": "#ff0000"}, {"part": 50, "colour": "#00ff00", "light": 1}, {"part": 100, "colour": "#0000ff"}]  # fmt: skip


def colour(frame: float = 11, **settings: Any) -> np.ndarray:
    """The light of one thing, all in all."""
    found: np.ndarray = render_frame(recipe(**settings), frame).sum(axis=(0, 1))[:3]
    return found


class Curves(TestCase):
    def test_light(self) -> None:
        """Through its points, even before and after them; a life of 2 s is at a part p on frame 1 + 50 p."""
        over = [{"part": 20, "share": 50}, {"part": 60, "share": 150}]
        whole = colour()[0]
        for part, share in ((0.1, 0.5), (0.2, 0.5), (0.4, 1.0), (0.6, 1.5), (0.9, 1.5)):
            found = colour(1 + 50 * part, light_over=over)[0] / whole
            self.assertAlmostEqual(float(found), share, delta=0.03)

    def test_size(self) -> None:
        """Twice as wide is four times the light of a disc, as bright as before."""
        over = [{"part": 0, "share": 100}, {"part": 50, "share": 200}, {"part": 100, "share": 0}]
        found = render_frame(recipe(look="a disc", size=12, size_over=over), 26)
        self.assertAlmostEqual(float(found[..., 0].max()), 1, delta=1e-3)
        self.assertAlmostEqual(float(found[..., 0].sum()), np.pi * 12**2, delta=3)

    def test_never_below_nothing(self) -> None:
        """Whatever the points, in any order, many at one place, or only one."""
        chance = np.random.default_rng(3)
        part = np.linspace(0, 1, 200)
        for _ in range(50):
            points = [
                OverLife(part=float(p), share=float(s))
                for p, s in zip(chance.integers(0, 101, 6), chance.random(6) * 300, strict=True)
            ]
            found = np.broadcast_to(over_life(points, part), part.shape)
            highest = max(point.share for point in points) / 100
            self.assertTrue(((found >= 0) & (found <= highest + 1e-9)).all())
        self.assertEqual(over_life([OverLife(part=30, share=40)], part), 0.4)


class Ramps(TestCase):
    def test_by_age(self) -> None:
        """Mixed in light between the stops."""
        white = colour()[0]
        for part, expected in ((0.5, (0, 2, 0)), (0.25, (0.5, 1, 0)), (0.75, (0, 1, 0.5))):
            found = colour(1 + 50 * part, glows="along a ramp, not in", hues=RAMP) / white
            np.testing.assert_allclose(found, expected, atol=0.03)

    def test_by_speed(self) -> None:
        """As fast as said is its end, in closed form and gone through step by step."""
        for speed, expected in (
            (100, (0, 2, 0)),
            (200, (0, 0, 1)),
            (900, (0, 0, 1)),
            (0, (1, 0, 0)),
        ):
            for steps in ({}, {"drag_fast": 1e-9}):
                found = colour(
                    2, glows="along a ramp, not in", hues=RAMP, hued_by="speed", full_speed=200, speed=speed, **steps
                )  # fmt: skip
                np.testing.assert_allclose(
                    found / found.max(), np.array(expected) / max(expected), atol=0.02
                )

    def test_speed_is_that_of_now(self) -> None:
        """Not that of its birth: drag has taken e to the -1 of it after a second at 1 a second."""
        found = colour(
            26, glows="along a ramp, not in", hued_by="speed", full_speed=100, speed=100, drag=1,
            hues=[{"part": 0, "colour": "#000000"}, {"part": 100, "colour": "#ffffff"}],
        )  # fmt: skip
        self.assertAlmostEqual(float(found[0] / colour(26)[0]), np.exp(-1), delta=0.01)

    def test_by_chance(self) -> None:
        """Each has its own, and keeps it."""
        lot = {
            "burst": 40,
            "born": "in a box",
            "at": [160, 90],
            "width": 280,
            "height": 150,
            "speed": 0,
        }
        made = recipe(**lot, glows="along a ramp, not in", hues=RAMP, hued_by="chance")
        early, late = render_frame(made, 3), render_frame(made, 20)
        np.testing.assert_allclose(early, late, atol=1e-5)
        sums = early.sum(axis=(0, 1))
        self.assertTrue((sums[:3] > 0.05 * sums[:3].sum()).all())
