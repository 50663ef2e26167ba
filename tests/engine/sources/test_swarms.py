"""Particles that heed one another, run along an edge, burst as they bounce, and draw ribbons."""

from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.recipe import RecipeError
from tests.engine.recipes import small

CARD = {
    "id": "card", "name": "Card", "on": False,
    "source": {"kind": "noise", "comes_as": "cover", "brightness": 100},
    "limits": [{"kind": "rectangle", "centre": [160, 90], "width": 80, "height": 60, "feather": 0}],
}  # fmt: skip


def recipe(*more: dict[str, Any], **settings: Any) -> Recipe:
    source = {
        "kind": "particles", "at": [40, 60], "rate": 0, "burst": 1, "speed": 100, "uneven": 0, "cone": 0, "direction": 0,
        "gravity": [0, 0], "drag": 0, "life": 2, "life_uneven": 0, "size": 6, "size_end": 100, "size_uneven": 0, "light": 0,
        "colour": "#ffffff", "colour_end": "#ffffff", "light_uneven": 0, "comes": 0, "goes": 0, "streak": 0,
        "shed_size": 100, "shed_speed": 0, "shed_keeps": 0, **settings,
    }  # fmt: skip
    return small({"id": "p", "name": "P", "source": source, "steps": [], "blend": "add"}, *more)


def light(made: Recipe, frame: float = 12) -> np.ndarray:
    return render_frame(made, frame)[..., 0]


def spread(picture: np.ndarray) -> float:
    across, down = np.meshgrid(np.arange(picture.shape[1]), np.arange(picture.shape[0]))
    whole = picture.sum()
    x, y = (picture * across).sum() / whole, (picture * down).sum() / whole
    return float(np.sqrt((picture * ((across - x) ** 2 + (down - y) ** 2)).sum() / whole))


class Swarm(TestCase):
    def test_together_and_apart(self) -> None:
        """What wishes to be together is closer after a while, and what keeps off is farther apart."""
        lot = {"burst": 60, "born": "in an ellipse", "at": [160, 90], "width": 120, "height": 120, "speed": 0, "near": 120}  # fmt: skip
        free = spread(light(recipe(**lot)))
        self.assertLess(spread(light(recipe(**lot, together=800, drag=2))), 0.8 * free)
        self.assertGreater(spread(light(recipe(**lot, keeps_off=60, drag=2))), 1.1 * free)

    def test_alike(self) -> None:
        """Those that go every way come to go one way, so that they stay together."""
        lot = {"burst": 60, "at": [160, 90], "cone": 360, "speed": 120, "near": 300}
        self.assertLess(spread(light(recipe(**lot, alike=8))), 0.6 * spread(light(recipe(**lot))))


class Edge(TestCase):
    def test_they_stay_on_it(self) -> None:
        """Drawn to the edge of a layer and blown along it, they are there and nowhere else."""
        made = recipe(
            CARD, burst=80, born="on the edge of a layer", of="card", speed=0, draws="a layer's edge",
            draws_of="card", along=150, pull=900, reach=12, drag=8, size=3,
        )  # fmt: skip
        picture = light(made, 25)
        within, without = np.zeros_like(picture), np.ones_like(picture)
        without[48:132, 108:212], within[72:108, 132:188] = 0, 1
        self.assertGreater(picture.sum(), 0)
        self.assertLess((picture * (within + without)).sum(), 0.02 * picture.sum())
        self.assertGreater(np.abs(light(made, 26) - picture).sum(), 0.3 * picture.sum())


class Bounce(TestCase):
    def test_smaller_ones_fly_off(self) -> None:
        """One thing that falls on a floor throws off five as it meets it, and five as it does again."""
        falls = {"at": [160, 40], "speed": 0, "gravity": [0, 800], "lands": "bounce on a floor", "floor": 140, "bounce": 60, "bounces_into": 5, "shed_life": 1.5}  # fmt: skip
        made = recipe(**falls)
        one = light(recipe(**{**falls, "bounces_into": 0}), 2).sum()
        for frame, count in ((12, 1), (15, 6), (27, 6), (31, 11)):
            self.assertAlmostEqual(light(made, frame).sum() / one, count, delta=0.15)

    def test_none_through_the_floor(self) -> None:
        """They fly off what was met, not into it."""
        made = recipe(
            at=[160, 100], speed=0, gravity=[0, 800], lands="bounce on a floor", floor=140, bounces_into=200,
            shed_speed=300, shed_life=1, size=3,
        )  # fmt: skip
        for frame in (10, 11, 12):
            picture = light(made, frame)
            self.assertGreater(picture.sum(), 10 * picture[143:].sum())
            self.assertLess(picture[144:].sum(), 1e-3)


class Ribbon(TestCase):
    def ends(self, picture: np.ndarray) -> tuple[int, int]:
        there = np.flatnonzero(picture.max(axis=0) > 0.02)
        return int(there[0]), int(there[-1])

    def test_how_long(self) -> None:
        """As long as the way of so many seconds, and no longer than what it has gone."""
        made = recipe(ribbon=0.4, ribbon_end=100)
        self.assertEqual(self.ends(light(recipe(), 21)), (116, 123))
        for frame, gone in ((21, 40), (6, 20)):
            first, last = self.ends(light(made, frame))
            head = 40 + 100 * (frame - 1) / 25
            self.assertLess(abs(last - head), 4)
            self.assertLess(abs(first - (head - gone)), 10)

    def test_as_bright_along_as_what_draws_it(self) -> None:
        """Right behind its head it is as bright as that, at any speed and width, and nowhere beaded."""
        for size in (6, 14):
            for speed in (40, 160):
                made = recipe(ribbon=0.5, ribbon_end=100, size=size, speed=speed)
                row = light(made, 21)[60]
                head = 40 + speed * 0.8
                back = row[int(head - 0.4 * speed) : int(head - 0.5 * size - 3)]
                steps = np.diff(back)
                self.assertTrue((steps > -1e-3).all())
                at = int(head - 0.5 * size - 5)
                expected = 1 - (head - at - 0.5) / (0.5 * speed)
                self.assertAlmostEqual(float(row[at]), expected, delta=0.08)

    def test_the_same_gone_through_step_by_step(self) -> None:
        """Where steps are taken it lies as it does in closed form."""
        way = {"ribbon": 0.4, "gravity": [0, 60], "drag": 0.5, "speed": 160}
        closed, stepped = light(recipe(**way), 18), light(recipe(**way, drag_fast=1e-9), 18)
        self.assertLess(np.abs(closed - stepped).max(), 0.06 * closed.max())
        between = light(recipe(**way), 17.5), light(recipe(**way, drag_fast=1e-9), 17.5)
        self.assertLess(np.abs(between[0] - between[1]).max(), 0.06 * closed.max())

    def test_as_cover(self) -> None:
        """It hides evenly along its middle."""
        made = recipe(ribbon=0.4, ribbon_end=100, size=10, comes_as="cover")
        cover = render_frame(made, 21)[60, :, 3]
        self.assertLessEqual(cover.max(), 1.0001)
        self.assertTrue((np.diff(cover[85:108]) > -0.02).all())


class Passes(TestCase):
    def test_motion(self) -> None:
        """px of a frame, to the right and down, times cover."""
        made = recipe(
            comes_as="their motion", look="a disc", size=12, direction=30, speed=250, streak=0
        )
        found = render_frame(made, 9)
        self.assertEqual(found.shape[2], 2)
        strongest = found[np.unravel_index(np.abs(found[..., 0]).argmax(), found.shape[:2])]
        np.testing.assert_allclose(strongest, 10 * np.array([np.cos(np.pi / 6), 0.5]), rtol=0.01)

    def test_depth(self) -> None:
        """Where it is flat half way; in depth by how far off, near ones over far ones."""
        flat = render_frame(recipe(comes_as="their depth", look="a disc", size=12), 2)
        self.assertAlmostEqual(float(flat[60, 44, 0] / flat[60, 44, 3]), 0.5, delta=1e-4)
        deep = recipe(comes_as="their depth", look="a disc", size=14, burst=300, born="in a box", at=[160, 90], width=900, height=500, depth=1000, lens=400, speed=0)  # fmt: skip
        picture = render_frame(deep, 2)
        covered = picture[..., 3] > 0.9
        found = picture[covered][:, 0] / picture[covered][:, 3]
        self.assertGreater(np.ptp(found), 0.5)
        self.assertTrue(((found >= 0) & (found <= 1.0001)).all())

    def test_which_is_which(self) -> None:
        """Each has a colour of its own that stays on it while it flies."""
        made = recipe(comes_as="a colour for each", look="a disc", size=12, burst=12, born="on a line", at=[160, 60], width=260)  # fmt: skip

        def colours(frame: int) -> set[tuple[float, ...]]:
            picture = render_frame(made, frame)
            return {tuple(np.round(px[:3], 2)) for px in picture[picture[..., 3] > 0.999]}

        first = colours(3)
        self.assertGreaterEqual(len(first), 8)
        self.assertLessEqual(len(colours(5) - first), 2)


class Limits(TestCase):
    def test_ribbons_count(self) -> None:
        """Of many strokes each, fewer may be there at once; the nearest that works is told, and works."""
        lot = {"burst": 0, "rate": 90_000, "life": 5, "uneven": 0}
        recipe(**lot)
        with self.assertRaisesRegex(
            RecipeError, r"more than 76,923 .* nearest that works is 15384"
        ):
            recipe(**lot, ribbon=0.5)
        recipe(**{**lot, "rate": 15_384}, ribbon=0.5)

    def test_more_than_can_be(self) -> None:
        with self.assertRaisesRegex(RecipeError, "burst"):
            recipe(burst=190_000, bounces_into=100, gravity=[0, 500], lands="bounce on a floor")
