"""Particles in depth: a camera's perspective, its way, its focus; and particles that are pictures."""

from typing import Any
from unittest import TestCase

import cv2
import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.named import Camera, Pose
from handful.engine.sources.particles.particles import Particles
from handful.engine.sources.particles.sights import Seen
from handful.engine.values import Point
from tests.engine.recipes import as_it_comes, small

MIDDLE = (160.0, 90.0)
SHARES = np.array([0.2, 0.5, 0.8])
PLACES = np.array([[260.0, 90.0], [160.0, 40.0], [60.0, 190.0]])
NEVER = np.empty((0, 3, 2))


def seen(
    dolly: float = 0,
    track: tuple[float, float] = (0, 0),
    pan: float = 0,
    tilt: float = 0,
    roll: float = 0,
    **settings: Any,
) -> Seen:
    made = as_it_comes(Particles, depth=1000.0, **settings)
    pose = Pose(*track, dolly, pan, tilt, roll, 400.0)
    return made.seen(SHARES, PLACES, PLACES, NEVER, (pose, pose), MIDDLE)


class OfACamera(TestCase):
    def test_perspective(self) -> None:
        """Of central projection: lens / z times as large, and as far from the middle."""
        found, far = seen(), SHARES * 1000
        np.testing.assert_allclose(found.large, 400 / far)
        np.testing.assert_allclose(found.opens, MIDDLE + (PLACES - MIDDLE) * (400 / far)[:, None])
        np.testing.assert_array_equal(found.opens, found.closes)

    def test_flat(self) -> None:
        """Without depth all is where and as large as it is."""
        found = as_it_comes(Particles).seen(
            SHARES, PLACES, PLACES, NEVER, (Pose(9, 9, 9, 0, 0, 0, 400),) * 2, MIDDLE
        )
        np.testing.assert_array_equal(found.opens, PLACES)
        np.testing.assert_array_equal((found.large, found.faint), 1)

    def test_going_forward(self) -> None:
        """Everything is nearer by that; what is passed comes again from afar, and a whole depth on all is
        as it was."""
        np.testing.assert_allclose(seen(dolly=100).large, 400 / (SHARES * 1000 - 100))
        np.testing.assert_allclose(seen(dolly=300).large[0], 400 / 900)
        np.testing.assert_allclose(seen(dolly=1000).large, seen().large)
        aside = seen(track=(30, -10))
        np.testing.assert_allclose(
            aside.opens - seen().opens, -np.array([30, -10]) * aside.large[:, None]
        )

    def test_looking_aside_and_up(self) -> None:
        """As OpenCV projects the same points through a camera turned so: first aside, then up, then rolled. Looking to the
        right puts all farther left, looking up puts it lower, rolled clockwise turns it the other way; what is behind is
        not seen."""
        for pan, tilt, roll, track in (
            (20, 0, 0, (0, 0)),
            (0, 15, 0, (0, 0)),
            (0, 0, 30, (0, 0)),
            (-12, -25, 40, (30, -10)),
        ):
            turns = [
                cv2.Rodrigues(np.radians(each))[0]
                for each in ((0.0, -pan, 0.0), (-tilt, 0.0, 0.0), (0.0, 0.0, -roll))
            ]
            all_three = turns[2] @ turns[1] @ turns[0]
            turned = cv2.Rodrigues(all_three)[0]
            points = np.column_stack([PLACES - MIDDLE - track, SHARES * 1000])
            inside = np.array([[400, 0, MIDDLE[0]], [0, 400, MIDDLE[1]], [0, 0, 1.0]])
            wanted = cv2.projectPoints(points, turned, np.zeros(3), inside, None)[0][:, 0]
            found = seen(pan=pan, tilt=tilt, roll=roll, track=track)
            with self.subTest(pan=pan, tilt=tilt, roll=roll):
                np.testing.assert_allclose(found.opens, wanted, rtol=1e-6)
                off = (points @ all_three.T)[:, 2]
                np.testing.assert_allclose(found.large, 400 / off, rtol=1e-6)
        self.assertLess(float((seen(pan=5).opens - seen().opens)[:, 0].max()), 0)
        self.assertGreater(float((seen(tilt=5).opens - seen().opens)[:, 1].min()), 0)
        sideways = seen(pan=-80)
        self.assertEqual(float(sideways.faint[0]), 0)

    def test_it_turns_while_the_shutter_is_open(self) -> None:
        made = as_it_comes(Particles, depth=1000.0)
        poses = (Pose(0, 0, 0, 4, 0, 0, 400), Pose(0, 0, 0, 6, 0, 0, 400))
        found = made.seen(SHARES, PLACES, PLACES, NEVER, poses, MIDDLE)
        np.testing.assert_allclose(found.opens, seen(pan=4).opens)
        np.testing.assert_allclose(found.closes, seen(pan=6).closes)

    def test_it_draws_out_what_it_passes(self) -> None:
        """Between the opening and the closing of the shutter by as much as it goes meanwhile."""
        made = as_it_comes(Particles, depth=1000.0)
        poses = (Pose(0, 0, 95, 0, 0, 0, 400), Pose(0, 0, 105, 0, 0, 0, 400))
        found = made.seen(SHARES, PLACES, PLACES, NEVER, poses, MIDDLE)
        np.testing.assert_allclose(found.opens, seen(dolly=95).opens)
        np.testing.assert_allclose(found.closes, seen(dolly=105).closes)

    def test_a_camera_that_has_a_name(self) -> None:
        """Gone and turned beyond it by what the particles say, through its lens; the picture is that of the same camera
        said by themselves, between the ends of the shutter too."""
        named = as_it_comes(Camera, aside=1.0, down=2.0, forward=3.0, unit=10.0, pan=4.0, tilt=5.0, roll=6.0, lens=700.0)  # fmt: skip
        found = Particles.pose(100.0, Point(1, 2), 0.4, 0.5, 400.0, named)
        self.assertEqual(found, (11, 22, 130, 4.4, 5.5, 6, 700))
        keys = [{"frame": 1, "value": 0}, {"frame": 9, "value": 300}]
        forward = {"moves": "keys", "keys": keys}
        settings = {"rate": 0, "burst": 60, "born": "in a box", "width": 300, "height": 150, "speed": 0, "gravity": [0, 0],
                    "depth": 2000, "streak": 180, "size": 6, "life": 9}  # fmt: skip
        own = recipe(**settings, dolly=forward, lens=900, aside=3)
        eye = {"name": "eye", "forward": forward, "lens": 900, "pan": 3}
        [layer] = recipe(**settings).model_dump(mode="json", exclude_unset=True)["layers"]
        layer["source"] |= {"camera": "eye"}
        shared = small(layer, cameras=[eye])
        for frame in (1, 4, 9):
            wanted = render_frame(own, frame)
            self.assertGreater(wanted.max(), 0)
            np.testing.assert_array_equal(render_frame(shared, frame), wanted)

    def test_nothing_pops(self) -> None:
        """What comes near fades before it is passed, and comes again from nothing."""
        for share in (0.0, 0.01, 0.999999):
            made = as_it_comes(Particles, depth=1000.0)
            pose = Pose(0, 0, 0, 0, 0, 0, 400)
            found = made.seen(
                np.array([share]), PLACES[:1], PLACES[:1], NEVER[:, :1], (pose, pose), MIDDLE
            )
            self.assertLess(found.faint[0], 0.01)
            self.assertTrue(np.isfinite(found.opens).all())

    def test_focus_and_haze(self) -> None:
        """A point is |1 - focus / z| of the widest (thin lens), and as faint as the haze before it."""
        far = SHARES * 1000
        np.testing.assert_allclose(
            seen(blurs=20.0, focus=500.0).blurred, 20 * np.abs(1 - 500 / far)
        )
        hazy = seen(haze=60.0).faint / seen().faint
        np.testing.assert_allclose(hazy, 1 - 0.6 * SHARES)

    def test_light_out_of_focus(self) -> None:
        """However far out of focus, there is as much light."""
        settings = {"rate": 0, "burst": 40, "born": "in a box", "width": 10, "height": 5, "speed": 0, "gravity": [0, 0],
                    "depth": 2000, "lens": 1000, "streak": 0, "size": 6, "life": 9}  # fmt: skip
        sharp, soft = (
            float(render_frame(recipe(**settings, blurs=blurs, focus=900), 5)[..., 0].sum())
            for blurs in (0, 9)
        )
        self.assertAlmostEqual(soft / sharp, 1, delta=0.03)


def recipe(*more: dict[str, Any], **settings: Any) -> Recipe:
    source = {"kind": "particles", "at": [160, 90], "comes": 0, "goes": 0, **settings}
    return small({"id": "p", "name": "P", "source": source}, *more)


def card(at: object) -> dict[str, Any]:
    limits = [{"kind": "rectangle", "centre": at, "width": 40, "height": 20, "feather": 0}]
    source = {"kind": "noise", "comes_as": "cover", "brightness": 100, "colour": "#ff0000"}
    return {"id": "card", "name": "Card", "on": False, "source": source, "limits": limits}


class Pictures(TestCase):
    SETTINGS: dict[str, Any] = {
        "rate": 0, "burst": 1, "speed": 0, "gravity": [0, 0], "life": 9, "size": 40, "size_uneven": 0, "size_end": 100,
        "look": "a layer's picture", "pictured": "card", "spin": 0, "tilt": 0, "comes_as": "cover", "light_uneven": 0,
        "glows": "as its picture does, not in",
    }  # fmt: skip

    def test_a_layer_as_a_particle(self) -> None:
        """In its own colour and cover, about its own middle wherever on the canvas it is, as wide as said;
        stepped as in closed form."""
        for more in ({}, {"gusts": 1e-6}):
            found = render_frame(recipe(card([70, 40]), **self.SETTINGS, **more), 4)
            with self.subTest(**more):
                self.assertGreater(found[90, 160, 3], 0.99)
                self.assertLess(found[90, 160, 1], 1e-4)
                self.assertAlmostEqual(float(found[..., 3].sum()), 40 * 20, delta=30)

    def test_each_at_a_moment_of_its_own(self) -> None:
        """With its moments apart they differ, and without they are alike."""
        grows = card([70, 40])
        keys = [{"frame": 1, "value": 4}, {"frame": 30, "value": 40}]
        grows["limits"][0]["height"] = {"moves": "keys", "keys": keys}
        settings = self.SETTINGS | {"burst": 12, "born": "on a line", "width": 300, "size": 10}
        areas = []
        for apart in (0, 5):
            light = render_frame(recipe(grows, **settings, apart=apart), 30)[..., 3]
            areas.append(np.unique(np.round((light > 0.5).sum(axis=0))).size)
        self.assertGreater(areas[1], areas[0])

    def test_of_nothing(self) -> None:
        """A layer that is empty, or none, is no particle."""
        empty = card([70, 40]) | {
            "source": {"kind": "noise", "comes_as": "cover", "brightness": -100}
        }
        self.assertEqual(render_frame(recipe(empty, **self.SETTINGS), 4).max(), 0)
        self.assertEqual(render_frame(recipe(**self.SETTINGS | {"pictured": ""}), 4).max(), 0)


class Pushes(TestCase):
    def test_offsets(self) -> None:
        """Signed px of two channels: each as far as is said at its middle, one way or another, and so all
        in all hardly anywhere; at half size half as many px wide."""
        settings = {"comes_as": "offsets", "push": 30, "size": 20, "size_uneven": 0, "light_uneven": 0, "streak": 0,
                    "rate": 0, "burst": 300, "born": "in a box", "width": 280, "height": 140, "speed": 0, "gravity": [0, 0], "life": 9}  # fmt: skip
        one = render_frame(recipe(**settings | {"burst": 1, "width": 0, "height": 0}), 4)
        self.assertEqual(one.shape, (180, 320, 2))
        self.assertAlmostEqual(float(np.hypot(*one.reshape(-1, 2).T).max()), 30, delta=0.6)
        many = render_frame(recipe(**settings), 4)
        self.assertLess(np.abs(many.mean(axis=(0, 1))).max(), 0.35 * np.abs(many).mean())
        half = render_frame(recipe(**settings), 4, 0.5)
        self.assertAlmostEqual(float(np.abs(half).max() / np.abs(many).max()), 1, delta=0.1)
        self.assertGreater((many < -10).sum(), 100)
