"""Warps and places, against closed forms of optics and geometry and against OpenCV."""

import dataclasses
import math
from dataclasses import replace
from typing import Any
from unittest import TestCase

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter

from handful.engine.kinds import At, Step
from handful.engine.kinds.setting import LayerId
from handful.engine.named import Camera, Pin, Sway
from handful.engine.picture import Region, Tile, blank
from handful.engine.steps.place.card import Card
from handful.engine.steps.place.flip import Flip
from handful.engine.steps.place.place import Place
from handful.engine.steps.place.shake import Shake
from handful.engine.steps.place.tiles import Tiles
from handful.engine.steps.warp.bead import Bead, ray_through, through_wedge
from handful.engine.steps.warp.displace import Displace
from handful.engine.steps.warp.lens import Lens
from handful.engine.steps.warp.twist import Twist
from handful.engine.steps.warp.warp import Warp
from handful.engine.values import Point
from tests.engine.recipes import as_it_comes

FIELD = Region(0, 0, 240, 180)
MIDDLE = Point(120, 90)


def _soft() -> Tile:
    picture = np.random.default_rng(8).random((180, 240, 4), np.float32)
    for channel in range(4):
        picture[..., channel] = gaussian_filter(picture[..., channel], 3)
    return Tile(picture, FIELD)


def _spot(x: float, y: float) -> Tile:
    """A soft spot at a place, and nothing else."""
    down, across = np.mgrid[:180, :240] + 0.5
    spot = np.exp(-((across - x) ** 2 + (down - y) ** 2) / 18)
    return Tile(np.repeat(spot[..., None], 4, axis=2).astype(np.float32), FIELD)


def _middle(picture: np.ndarray) -> tuple[float, float]:
    plane = picture[..., 0].astype(float)
    y, x = np.mgrid[: plane.shape[0], : plane.shape[1]] + 0.5
    return float((plane * x).sum() / plane.sum()), float((plane * y).sum() / plane.sum())


def _applied(step: Step, tile: Tile, *others: Tile) -> np.ndarray:
    return step.apply(tile, At(FIELD, 1.0, ("seed",), FIELD), *others).within(FIELD)


def _warp(**settings: Any) -> Warp:
    plain = {"amount": 12.0, "size": 60.0, "turbulence": 30.0, "boil": 0.2, "pins": ()}
    return as_it_comes(Warp, **(plain | settings))


TURNED = Card(
    tilt=20.0, swing=35.0, turn=10.0, pivot=Point(80, 60), move=Point(15, -4), away=90.0, view=50.0, camera=None,
)  # fmt: skip
STRAIGHT = Card(
    tilt=0.0, swing=0.0, turn=0.0, pivot=MIDDLE, move=Point(0, 0), away=0.0, view=45.0, camera=None,
)  # fmt: skip


class Warping(TestCase):
    def test_nothing_at_no_amount(self) -> None:
        """No amount is no change."""
        tile = _soft()
        self.assertIs(_warp(amount=0.0).apply(tile, At(FIELD, 1.0, (), FIELD)), tile)

    def test_never_farther_than_it_says(self) -> None:
        """A spot moves, and never by more than the reach that the step states."""
        moved = [
            math.dist(_middle(_applied(_warp(seed=seed), _spot(*MIDDLE))), MIDDLE)
            for seed in range(1, 9)
        ]
        self.assertGreater(max(moved), 2)
        self.assertLess(max(moved), _warp().reach() * math.sqrt(2))

    def test_one_axis(self) -> None:
        """Along one axis nothing moves along the other."""
        for along, still in (("across", 1), ("down", 0)):
            middle = _middle(_applied(_warp(along=along, size=400.0), _spot(*MIDDLE)))
            self.assertAlmostEqual(middle[still], MIDDLE[still], delta=0.35)

    def test_pin(self) -> None:
        """At a pin nothing moves to a hundredth of a px; far from it, all moves freely."""
        pinned = _warp(pins=(Pin(at=MIDDLE, distance=80.0),))
        x, y = _middle(_applied(pinned, _spot(*MIDDLE)))
        self.assertLess(math.hypot(x - MIDDLE.x, y - MIDDLE.y), 0.15)
        field = pinned.offsets(FIELD, 1.0, At(FIELD, 1.0, ("seed",)).key("sway", 1))
        free = _warp().offsets(FIELD, 1.0, At(FIELD, 1.0, ("seed",)).key("sway", 1))
        self.assertLess(float(np.abs(field[90, 120]).max()), 0.01)
        np.testing.assert_array_equal(field[:9, :20], free[:9, :20])

    def test_shared_sway(self) -> None:
        """Two layers that share a sway move as one; by their own fields they do not."""
        shared = {name: getattr(_warp(), name) for name in Sway.__dataclass_fields__}
        ways = [_warp(sway=Sway(**shared)), _warp()]
        for step, same in zip(ways, (True, False), strict=True):
            one, two = (
                step.apply(_soft(), At(FIELD, 1.0, (7, layer), FIELD)).within(FIELD)
                for layer in ("a", "b")
            )
            self.assertEqual(np.array_equal(one, two), same)


class Displacing(TestCase):
    def test_no_farther_than_its_amount(self) -> None:
        """Along an axis and along a diagonal alike: a way of length 1 and more pushes by the amount."""
        for across, down in ((1, 0), (1, 1), (-3, 3), (0.6, 0.8), (0, -1)):
            field = blank(FIELD)
            field[..., 0], field[..., 1] = across, down
            step = Displace(by=LayerId("b"), amount=20.0, reads="x and y", middle=0.0, edge="hold")
            x, y = _middle(_applied(step, _spot(120, 90), Tile(field, FIELD)))
            far = math.hypot(across, down)
            np.testing.assert_allclose(
                (x - 120, y - 90), (20 * across / far, 20 * down / far), atol=0.05
            )

    def _by(self, red: float, green: float) -> Tile:
        picture = blank(FIELD)
        picture[..., 0], picture[..., 1] = red, green
        return Tile(picture, FIELD)

    def _step(self, **settings: Any) -> Displace:
        plain: dict[str, Any] = {
            "by": "x",
            "amount": 20.0,
            "reads": "x and y",
            "middle": 0.0,
            "edge": "clear",
        }
        return Displace(**(plain | settings))

    def test_signed_values(self) -> None:
        """Definition: red pushes right and green down by the amount; below the middle back."""
        for red, green, middle in ((0.5, -0.25, 0.0), (0.75, 0.5, 0.5)):
            step = self._step(middle=middle)
            x, y = _middle(_applied(step, _spot(*MIDDLE), self._by(red, green)))
            self.assertAlmostEqual(x - MIDDLE.x, 20 * (red - middle), delta=0.02)
            self.assertAlmostEqual(y - MIDDLE.y, 20 * (green - middle), delta=0.02)

    def test_height(self) -> None:
        """An even slope of 1 in 40 px across pushes by a quarter of the amount."""
        slope = blank(FIELD)
        slope[..., :3] = (np.arange(240) / 40)[None, :, None]
        step = self._step(reads="height")
        x, y = _middle(_applied(step, _spot(*MIDDLE), Tile(slope, FIELD)))
        self.assertAlmostEqual(x - MIDDLE.x, 5, delta=0.05)
        self.assertAlmostEqual(y, MIDDLE.y, delta=0.02)


def _lens(**settings: Any) -> Lens:
    plain: dict[str, Any] = {
        "bend": 0.0,
        "centre": MIDDLE,
        "edge": "clear",
        "spread": 0.0,
        "squeeze": 0.0,
        "size": 100.0,
    }
    return Lens(**(plain | settings))


class Optics(TestCase):
    def test_lens(self) -> None:
        """Brown 1966, first radial term: what is seen at r comes from r (1 + k r^2)."""
        half = math.hypot(240, 180) / 2
        for bend in (30.0, -15.0):
            at = 60 * (1 + bend / 100 * (60 / half) ** 2)
            step = _lens(bend=bend, centre=MIDDLE, edge="clear")
            x, y = _middle(_applied(step, _spot(MIDDLE.x + at, MIDDLE.y)))
            self.assertAlmostEqual(x - MIDDLE.x, 60, delta=0.4)
            self.assertAlmostEqual(y, MIDDLE.y, delta=0.05)

    def test_a_lens_that_squeezes(self) -> None:
        """Across it bends by so much less: k times the square of the share; down as ever."""
        half = math.hypot(240, 180) / 2
        step = _lens(bend=30.0, centre=MIDDLE, edge="clear", squeeze=50.0)
        for way, share in ((Point(60, 0), 0.25), (Point(0, 60), 1.0)):
            at = 1 + 0.3 * share * (60 / half) ** 2
            x, y = _middle(_applied(step, _spot(MIDDLE.x + way.x * at, MIDDLE.y + way.y * at)))
            self.assertAlmostEqual(x - MIDDLE.x, way.x, delta=0.4)
            self.assertAlmostEqual(y - MIDDLE.y, way.y, delta=0.4)

    def test_a_lens_that_breathes(self) -> None:
        """All is so many times as far from its centre; bent or not."""
        step = _lens(bend=0.0, centre=MIDDLE, edge="clear", size=125.0)
        x, y = _middle(_applied(step, _spot(MIDDLE.x + 40, MIDDLE.y - 24)))
        self.assertAlmostEqual(x - MIDDLE.x, 50, delta=0.1)
        self.assertAlmostEqual(y - MIDDLE.y, -30, delta=0.1)

    def test_a_lens_that_parts_colours(self) -> None:
        """Red lands so much farther out than blue, half to either side of green, and none in the middle."""
        step = _lens(bend=0.0, centre=MIDDLE, edge="clear", spread=10.0)
        picture = _applied(step, _spot(MIDDLE.x + 60, MIDDLE.y))
        places = []
        for channel in range(3):
            alone = np.zeros_like(picture)
            alone[..., :3] = picture[..., channel : channel + 1]
            places.append(_middle(alone)[0] - MIDDLE.x)
        np.testing.assert_allclose(places, [60 / 0.95, 60, 60 / 1.05], atol=0.1)
        still = _applied(step, _spot(*MIDDLE))
        np.testing.assert_allclose(still[..., 0].sum(), still[..., 2].sum(), rtol=0.25)

    def test_a_lens_asks_for_all_it_shows(self) -> None:
        """Any part of the picture, bent from what is asked for alone, is that part of the whole."""
        tile = _soft()
        for bend, more in ((60.0, 0.0), (-30.0, 0.0), (100.0, 0.0), (20.0, 8.0), (0.0, 20.0)):
            step = _lens(
                bend=bend, centre=Point(90, 70), edge="clear", spread=more, size=100 - more
            )
            whole = _applied(step, tile)
            for part in (Region(0, 0, 60, 50), Region(80, 60, 110, 90), Region(150, 10, 240, 180)):
                at = At(part, 1.0, ("seed",), FIELD)
                asked = step.needs(part, at).meet(FIELD)
                cut = Tile(np.ascontiguousarray(tile.within(asked)), asked)
                np.testing.assert_array_equal(
                    step.apply(cut, at).within(part), Tile(whole, FIELD).within(part)
                )

    def test_ball_lens_focus(self) -> None:
        """Handbook optics: a ball of index n brings axial rays to n R / (2 (n - 1)) from its middle."""
        for index in (1.33, 1.5, 1.8):
            focus = index / (2 * (index - 1)) - 1
            self.assertAlmostEqual(ray_through(1e-3, index, focus)[0], 0, delta=1e-5)
            self.assertLess(ray_through(1e-3, index, focus + 1)[0], 0)

    def test_snell(self) -> None:
        """Snell's law on both faces, by vectors: the slope between two planes is as refracted twice."""
        height, index = 0.6, 1.4
        entry = np.array([height, -math.sqrt(1 - height**2)])
        inside = _refracted(np.array([0.0, 1.0]), entry, 1 / index)
        leaves = entry + 2 * abs(float(inside @ entry)) * inside
        outside = _refracted(inside, -leaves, index)
        slope = outside[0] / outside[1]
        near, far = (ray_through(height, index, distance)[0] for distance in (1.0, 2.0))
        self.assertAlmostEqual(far - near, slope, places=9)
        self.assertAlmostEqual(near, leaves[0] + (2 - leaves[1]) * slope, places=9)

    def test_straight_through(self) -> None:
        """Fresnel at right angles: ((n - 1) / (n + 1))^2 is reflected at each face."""
        _, passes = ray_through(1e-6, 1.5, 1.0)
        self.assertAlmostEqual(passes, (1 - 0.04) ** 2, places=6)
        self.assertLess(ray_through(0.999, 1.5, 1.0)[1], 0.6)

    def test_a_wedge(self) -> None:
        """Handbook optics: a thin wedge turns light by (n − 1) times its angle; a steep one as Snell's
        law says by vectors; and the way that it is up."""
        for index in (1.33, 1.5):
            self.assertAlmostEqual(through_wedge(0.001, index) / 0.001, index - 1, places=5)
            self.assertEqual(through_wedge(-0.3, index), -through_wedge(0.3, index))
            slope = math.tan(0.5)
            normal = np.array([-math.sin(0.5), -math.cos(0.5)])
            out = _refracted(np.array([0.0, 1.0]), normal, index)
            self.assertAlmostEqual(through_wedge(slope, index), abs(out[0] / out[1]), places=9)
        self.assertTrue(math.isfinite(through_wedge(1e9, 1.5)))

    def test_bead_with_a_shaped_front(self) -> None:
        """A front that rises evenly to the right is a wedge more: all that is seen in a pane comes from
        farther right by what the wedge turns on the way; a front that is even changes no bit."""
        step = as_it_comes(
            Bead,
            centre=MIDDLE,
            radius=60.0,
            index=1.5,
            distance=100.0,
            thickness=0.0,
            darkening=0.0,
            raised=50.0,
        )
        tile = _spot(MIDDLE.x + 12, MIDDLE.y)
        across = np.broadcast_to(np.arange(240, dtype=np.float32) + FIELD.left, (180, 240))
        rises = Tile(np.ascontiguousarray(0.6 * across), FIELD)
        x, y = _middle(_applied(step, tile, rises))
        self.assertAlmostEqual(x, MIDDLE.x + 12 - 60 * through_wedge(0.3, 1.5), delta=0.3)
        self.assertAlmostEqual(y, MIDDLE.y, delta=0.05)
        even = Tile(np.full((180, 240), 7, np.float32), FIELD)
        np.testing.assert_array_equal(_applied(step, tile, even), _applied(step, tile))

    def test_bead_leaves_the_rest(self) -> None:
        """Outside the ball the picture is as it was to the bit, or not there."""
        tile = _soft()
        for outside in ("the picture", "nothing"):
            step = as_it_comes(Bead, centre=MIDDLE, radius=50.0, outside=outside)
            corner = _applied(step, tile)[:30, :60]
            wanted = tile.pixels[:30, :60] if outside == "the picture" else 0 * corner
            np.testing.assert_array_equal(corner, wanted)

    def test_bead_stands_before_itself_turned_over(self) -> None:
        """Around it is the picture mirrored, darker by as many stops as are set, and blurred if it is."""
        tile = _soft()
        step = as_it_comes(
            Bead, centre=MIDDLE, radius=40.0, outside="it turned over", behind=0.0, darker=2.0
        )
        corner = _applied(step, tile)[:30, :60]
        np.testing.assert_allclose(
            corner[..., :3], tile.pixels[:30, ::-1][:, :60, :3] / 4, rtol=1e-5
        )
        np.testing.assert_array_equal(corner[..., 3], tile.pixels[:30, ::-1][:, :60, 3])
        soft = _applied(dataclasses.replace(step, behind=10.0), tile)[60:120, 30:70]
        sharp = _applied(step, tile)[60:120, 30:70]
        self.assertLess(
            np.abs(np.diff(soft, axis=1)).mean(), 0.8 * np.abs(np.diff(sharp, axis=1)).mean()
        )

    def test_bead_bends_blue_more(self) -> None:
        """A white spot at the side is seen in red farther in than in blue, on both sides of green, by
        about as much as Snell's law says of indices that much apart."""
        step = as_it_comes(
            Bead, centre=MIDDLE, radius=60.0, index=1.5, distance=0.0, spread=10.0, outside="nothing",
            darkening=0.0,
        )  # fmt: skip
        seen = _applied(step, _spot(MIDDLE.x - 12, MIDDLE.y))
        middles = []
        for channel in range(3):
            line = seen[90, :, channel].astype(float)
            middles.append((line * np.arange(240)).sum() / line.sum())
        red, green, blue = middles
        self.assertGreater(abs(red - blue), 0.3)
        self.assertGreater((red - green) * (green - blue), 0)
        plain = _applied(dataclasses.replace(step, spread=0.0), _spot(MIDDLE.x - 12, MIDDLE.y))
        np.testing.assert_array_equal(plain[..., 1], seen[..., 1])

    def test_bead_wobbles_at_one_size(self) -> None:
        """Longer one way it is thinner the other, so that its area stays; it leans that way."""
        areas = []
        for wobble in (0.0, 30.0, -30.0):
            step = as_it_comes(
                Bead, centre=MIDDLE, radius=40.0, wobble=wobble, lean=0.0, outside="nothing"
            )
            full = Tile(np.ones((180, 240, 4), np.float32), FIELD)
            cover = _applied(step, full)[..., 3]
            areas.append(cover.sum())
            self.assertAlmostEqual(float(cover[90].sum()), 80 * (1 + wobble / 100), delta=1)
        np.testing.assert_allclose(areas, np.pi * 40**2, rtol=0.01)

    def test_bead_is_darker_at_its_rim(self) -> None:
        """By what Fresnel's equations leave of a ray, as much of it as is said, before an even white."""
        full = Tile(np.ones((180, 240, 4), np.float32), FIELD)
        for darkening in (0.0, 100.0, 50.0):
            step = as_it_comes(
                Bead, centre=MIDDLE, radius=60.0, index=1.5, darkening=darkening, outside="nothing"
            )
            row = _applied(step, full)[90, :, 1]
            for x in (120, 150, 168, 174):
                passes = ray_through(math.hypot(x + 0.5 - MIDDLE.x, 0.5) / 60, 1.5, 3.0)[1]
                wanted = 1 - darkening / 100 * (1 - passes)
                self.assertAlmostEqual(float(row[x]), wanted, delta=1e-3)

    def test_bead_reflects_at_its_rim(self) -> None:
        """By Fresnel's law as Schlick (1994) has it: hardly in the middle, all at the edge."""
        dark = Tile(np.zeros((180, 240, 4), np.float32), FIELD)
        dark.pixels[..., 3] = 1
        step = as_it_comes(
            Bead, centre=MIDDLE, radius=60.0, index=1.5, reflects=0.0, colour=(1.0, 1.0, 1.0),
            outside="nothing",
        )  # fmt: skip
        row = _applied(step, dark)[90, :, 1]
        self.assertAlmostEqual(float(row[120]), 0.04, delta=0.002)
        away = np.abs(np.arange(240) + 0.5 - MIDDLE.x) / 60
        inside = away < 0.95
        facing = np.sqrt(1 - np.minimum(1, away) ** 2)
        np.testing.assert_allclose(
            row[inside], (0.04 + 0.96 * (1 - facing) ** 5)[inside], atol=0.01
        )


def _refracted(way: np.ndarray, normal: np.ndarray, ratio: float) -> np.ndarray:
    """A unit ray after a face, `normal` against it; Snell's law in vectors (common practice)."""
    cos = -float(way @ normal)
    return ratio * way + (ratio * cos - math.sqrt(1 - ratio**2 * (1 - cos**2))) * normal


class Placing(TestCase):
    def _place(self, **settings: Any) -> Place:
        plain: dict[str, Any] = {
            "move": Point(0, 0), "across": 100.0, "down": 100.0, "turn": 0.0, "pivot": MIDDLE,
        }  # fmt: skip
        return Place(**(plain | settings))

    def test_as_opencv(self) -> None:
        """cv2.warpAffine with its cubic, within what two different cubics differ on soft pictures."""
        step = self._place(move=Point(11, -6), across=120.0, down=90.0, turn=25.0)
        got = _applied(step, _soft())[50:130, 70:170]
        cos, sin = math.cos(math.radians(25)), math.sin(math.radians(25))
        linear = np.array([[cos, -sin], [sin, cos]]) @ np.diag([1.2, 0.9])
        middle = np.array(MIDDLE) - 0.5
        matrix = np.column_stack([linear, middle + np.array([11, -6]) - linear @ middle])
        wanted = cv2.warpAffine(_soft().pixels, matrix, (240, 180), flags=cv2.INTER_CUBIC)
        np.testing.assert_allclose(got, wanted[50:130, 70:170], atol=5e-3)

    def test_pivot_stays(self) -> None:
        """A turn and a size about a pivot leave the pivot where it is."""
        pivot = Point(70.5, 60.5)
        step = self._place(pivot=pivot, turn=77.0, across=150.0, down=150.0)
        x, y = _middle(_applied(step, _spot(*pivot)))
        self.assertAlmostEqual(math.dist((x, y), pivot), 0, delta=0.02)

    def test_all_around(self) -> None:
        """Four quarter turns are nothing, to the bit."""
        tile = _soft()
        square = Region(30, 0, 210, 180)
        tile = Tile(np.ascontiguousarray(tile.within(square)), square)
        turned = tile
        for _ in range(4):
            turned = self._place(turn=90.0).apply(turned, At(FIELD.grown(40), 1.0, (), FIELD))
        np.testing.assert_allclose(turned.within(square), tile.pixels, atol=1e-4)

    def test_card_as_opencv(self) -> None:
        """cv2.projectPoints with a pinhole camera puts the corners of the card at the same places."""
        matrix = TURNED.matrix(At(FIELD, 1.0, (), FIELD))
        eye = 120 / math.tan(math.radians(25))
        camera = np.array([[eye, 0, 120], [0, eye, 90], [0, 0, 1]], float)
        tilt, _ = cv2.Rodrigues(np.array([-math.radians(20), 0, 0]))
        swing, _ = cv2.Rodrigues(np.array([0, -math.radians(35), 0]))
        turn, _ = cv2.Rodrigues(np.array([0, 0, math.radians(10)]))
        place = np.array([80 + 15 - 120, 60 - 4 - 90, 90 + eye], float)
        for corner in ((0, 0), (240, 0), (240, 180), (0, 180)):
            flat = np.array([[corner[0] - 80, corner[1] - 60, 0]], float)
            turned, _ = cv2.Rodrigues(tilt @ swing @ turn)
            wanted, _ = cv2.projectPoints(flat, turned, place, camera, np.zeros(4))
            x, y, depth = matrix @ np.array([*corner, 1.0])
            np.testing.assert_allclose((x / depth, y / depth), wanted.ravel(), atol=1e-6)

    def test_card_through_a_camera(self) -> None:
        """As OpenCV sees its corners that stand where they stood, from a camera that has gone, turned to the right and
        then up, and rolled; at half size at half of each place. One that the camera is in is not seen."""
        eye = 120 / math.tan(math.radians(25))
        turns = [((-20, 0, 0), TURNED.tilt), ((0, -35, 0), TURNED.swing), ((0, 0, 10), TURNED.turn)]
        self.assertEqual([sum(map(abs, axis)) for axis, _ in turns], [each for _, each in turns])
        tilt, swing, turn = (cv2.Rodrigues(np.radians(axis))[0] for axis, _ in turns)
        place = np.array([80 + 15 - 120, 60 - 4 - 90, 90 + eye])
        seen = as_it_comes(Camera, aside=3.0, down=-1.5, forward=8.0, unit=10.0, pan=12.0, tilt=-7.0, roll=25.0, lens=200.0)  # fmt: skip
        to_eye = (
            cv2.Rodrigues(np.radians((0.0, 0.0, -25.0)))[0]
            @ cv2.Rodrigues(np.radians((7.0, 0.0, 0.0)))[0]
            @ cv2.Rodrigues(np.radians((0.0, -12.0, 0.0)))[0]
        )
        card = replace(TURNED, camera=seen)
        inside = np.array([[200, 0, 120], [0, 200, 90], [0, 0, 1]], float)
        half = Region(0, 0, 120, 90)
        for corner in ((0, 0), (240, 0), (240, 180), (0, 180)):
            flat = np.array([corner[0] - 80, corner[1] - 60, 0.0])
            there = tilt @ swing @ turn @ flat + place - (30, -15, 80)
            wanted = cv2.projectPoints(
                there[None], cv2.Rodrigues(to_eye)[0], np.zeros(3), inside, np.zeros(4)
            )[0].ravel()
            for scale, at in ((1.0, FIELD), (0.5, half)):
                x, y, depth = card.matrix(At(at, scale, (), at)) @ (
                    corner[0] * scale, corner[1] * scale, 1.0,
                )  # fmt: skip
                np.testing.assert_allclose((x / depth, y / depth), wanted * scale, atol=1e-6)
        gone = as_it_comes(Camera, forward=120 / math.tan(math.radians(22.5)))
        self.assertEqual(_applied(replace(STRAIGHT, camera=gone), _soft()).max(), 0)

    def test_card_that_is_not_turned(self) -> None:
        """Seen straight on, it is as it was; so it is through a camera that sees as the view does and has not moved."""
        card = STRAIGHT
        still = as_it_comes(Camera, lens=120 / math.tan(math.radians(22.5)))
        moved = _applied(replace(card, camera=still), _soft())
        np.testing.assert_allclose(moved, _soft().pixels, atol=1e-4)
        np.testing.assert_allclose(_applied(card, _soft()), _soft().pixels, atol=1e-4)

    def test_flip(self) -> None:
        """numpy's flip; twice is nothing."""
        tile = _soft()
        np.testing.assert_array_equal(_applied(Flip(along="across"), tile), tile.pixels[:, ::-1])
        np.testing.assert_array_equal(_applied(Flip(along="down"), tile), tile.pixels[::-1])
        both = Tile(_applied(Flip(along="both"), tile), FIELD)
        np.testing.assert_array_equal(_applied(Flip(along="both"), both), tile.pixels)

    def test_a_part_is_flipped_to_its_place(self) -> None:
        """What was near one edge is as near the other one, and what is asked for is where it comes from."""
        whole = _soft()
        part = Region(10, 20, 70, 50)
        for along, place in (
            ("across", Region(170, 20, 230, 50)),
            ("down", Region(10, 130, 70, 160)),
            ("both", Region(170, 130, 230, 160)),
        ):
            step = as_it_comes(Flip, along=along)
            cut = Tile(np.ascontiguousarray(whole.within(part)), part)
            at = At(FIELD, 1.0, ("seed",), FIELD)
            self.assertEqual(step.apply(cut, at).region, place)
            self.assertEqual(step.needs(place, at), part)

    def test_a_shake_turns_as_far_as_it_says(self) -> None:
        """To both sides of nothing, never farther, and twice as far by twice the turn."""
        at = At(FIELD, 1.0, ("seed",), FIELD)
        found = []
        for phase in range(200):
            turns = []
            for turn in (6.0, 12.0):
                step = as_it_comes(Shake, across=0.0, down=0.0, turn=turn, phase=float(phase))
                matrix = step._matrix(at)
                turns.append(math.degrees(math.atan2(matrix[1, 0], matrix[0, 0])))
            self.assertAlmostEqual(turns[1], 2 * turns[0], places=6)
            found.append(turns[0])
        self.assertLessEqual(max(map(abs, found)), 6)
        self.assertGreater(max(found), 3)
        self.assertLess(min(found), -3)

    def test_tiles(self) -> None:
        """numpy.tile of the part that is repeated."""
        step = Tiles(centre=Point(40, 30), width=80.0, height=60.0, mirrored=False)
        wanted = np.tile(_soft().pixels[:60, :80], (3, 3, 1))
        np.testing.assert_allclose(_applied(step, _soft()), wanted, atol=1e-6)


class Twists(TestCase):
    def _map(self, **settings: Any) -> tuple[np.ndarray, np.ndarray]:
        """Where px come from, read off a picture of their own places, and how far they are from the middle."""
        down, across = np.mgrid[:180, :240] + 0.5
        picture = np.stack([across, down, across, down], axis=2).astype(np.float32)
        step = as_it_comes(Twist, centre=MIDDLE, radius=80.0, phase=0.3, edge="hold", **settings)
        found = step.apply(Tile(picture, FIELD), At(FIELD, 1.0, ("seed",), FIELD)).within(FIELD)
        return found[..., :2].astype(float), np.hypot(across - MIDDLE.x, down - MIDDLE.y)

    def test_a_swirl_keeps_areas(self) -> None:
        """Each circle turns as a whole: distances from the middle stay, and the map's determinant is 1."""
        places, away = self._map(way="swirls", turn=200.0)
        from_middle = np.hypot(places[..., 0] - MIDDLE.x, places[..., 1] - MIDDLE.y)
        np.testing.assert_allclose(from_middle[away < 78], away[away < 78], atol=0.05)
        across, down = np.gradient(places, axis=1), np.gradient(places, axis=0)
        area = across[..., 0] * down[..., 1] - across[..., 1] * down[..., 0]
        np.testing.assert_allclose(area[(away < 70) & (away > 3)], 1, atol=0.06)
        turned = math.degrees(math.atan2(*(places[90, 121] - np.array(MIDDLE))[::-1]))
        self.assertAlmostEqual((turned + 200 + 180) % 360 - 180, 18.4, delta=1)

    def test_nothing_beyond(self) -> None:
        down, across = np.mgrid[:180, :240] + 0.5
        for way in ("swirls", "swells", "ripples"):
            places, away = self._map(way=way, amount=40.0, swell=90.0)
            still = np.stack([across, down], axis=2)[away > 80]
            np.testing.assert_allclose(places[away > 80], still, atol=1e-4)

    def test_it_never_folds(self) -> None:
        """Along a line outwards places go outwards, at the farthest that may be set; what lies in the middle of
        one that swells by half is twice as large."""
        for settings in (
            {"way": "swells", "swell": 90.0}, {"way": "swells", "swell": -90.0},
            {"way": "ripples", "amount": 1000.0, "length": 12.0},
            {"way": "ripples", "amount": -1000.0, "length": 60.0},
        ):  # fmt: skip
            places, _ = self._map(**settings)
            row = places[90, 121:199, 0]
            self.assertGreater(float(np.diff(row).min()), -0.02, settings)
        places, _ = self._map(way="swells", swell=50.0)
        self.assertAlmostEqual(float(places[90, 122, 0] - places[90, 117, 0]) / 5, 0.5, delta=0.02)
