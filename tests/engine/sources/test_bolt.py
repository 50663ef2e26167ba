"""The bolt against measured lightning, and what an artist relies on."""

import math
from itertools import pairwise
from unittest import TestCase

import numpy as np

from handful.engine import render_frame
from handful.engine.kernels.chance.hash import key_for
from handful.engine.kernels.forms.channel import grow_channel, tilt_for_turn
from handful.engine.kinds import At
from handful.engine.named import Path, Sway, Vertex
from handful.engine.picture import Region
from handful.engine.sources.bolt import Bolt
from handful.engine.values import Point
from tests.engine.recipes import bolt_layer, small

HILL_1968_DEGREES = 16.0
"""Mean absolute change of direction along natural channels (Hill, J. Geophys. Res. 73, 1968)."""


def _bolt(**settings: object) -> Bolt:
    plain = {
        known.name: known.default for known in Bolt.settings
    } | {"start": Point(300, 100), "end": Point(1500, 900), "boil": 0.0,
         "core": (1, 1, 1), "edge": (0.4, 0.6, 1), "path": None, "sway": None, "clock": 0.0}  # fmt: skip
    return Bolt(**(plain | settings))


def _segments(bolt: Bolt) -> np.ndarray:
    return bolt.segments(At(Region(0, 0, 1920, 1080), 1.0, (1, "bolt")))


def _along(channel: np.ndarray) -> np.ndarray:
    """Five hundred places evenly along a channel's own way."""
    points = np.concatenate([channel[:, :2], channel[-1:, 4:6]])
    steps = np.r_[0, np.cumsum(np.hypot(*np.diff(points, axis=0).T))]
    shares = np.linspace(0, steps[-1], 500)
    return np.stack([np.interp(shares, steps, axis) for axis in points.T], axis=1)


def _turns(points: np.ndarray) -> np.ndarray:
    steps = np.diff(points, axis=0)
    heading = np.arctan2(steps[:, 1], steps[:, 0])
    return np.degrees((np.diff(heading) + np.pi) % (2 * np.pi) - np.pi)


class Tortuosity(TestCase):
    def test_mean_turn_of_natural_lightning(self) -> None:
        """Hill 1968: about 16 degrees on average, over channels of many seeds, whatever the length; and
        no piece is shorter than the finest."""
        tilt = tilt_for_turn(math.radians(HILL_1968_DEGREES))
        for length in (50, 60, 75, 95, 130, 200, 320, 500, 800, 1300, 2000, 3000):
            grown = [
                grow_channel(*key_for(seed), 0.0, 0.0, 0.6 * length, 0.8 * length, 6.0, tilt, 0.0)
                for seed in range(150)
            ]
            turn = float(np.concatenate([np.abs(_turns(points)) for points in grown]).mean())
            self.assertAlmostEqual(turn, HILL_1968_DEGREES, delta=1.5, msg=f"{length} px")
            pieces = np.concatenate([np.hypot(*np.diff(points, axis=0).T) for points in grown])
            self.assertGreaterEqual(float(pieces.min()), 6 - 1e-9, f"{length} px")

    def test_no_jump_as_it_grows(self) -> None:
        """Half a px more of length moves no place of the channel by more, and no branch far."""
        tilt = tilt_for_turn(math.radians(HILL_1968_DEGREES))
        shares = np.linspace(0, 1, 300)
        for seed in range(4):
            before = None
            for length in np.arange(180, 420, 0.5):
                points = grow_channel(*key_for(seed), 0.0, 0.0, float(length), 0.0, 6.0, tilt, 3.3)
                steps = np.r_[0, np.cumsum(np.hypot(*np.diff(points, axis=0).T))]
                now = np.stack([np.interp(shares, steps / steps[-1], axis) for axis in points.T])
                if before is not None:
                    self.assertLess(float(np.abs(now - before).max()), 1.0)
                before = now
        picture = [
            render_frame(small(bolt_layer(end=[290 + step, 140], branches=9, width=4)), 1)
            for step in np.arange(0, 8, 0.5)
        ]
        changes = [np.abs(b - a).sum() / a.sum() for a, b in pairwise(picture)]
        self.assertLess(max(changes), 2.5 * float(np.median(changes)))

    def test_default_is_natural(self) -> None:
        """The bolt as it comes has the turn that Hill measured."""
        wander = next(known.default for known in Bolt.settings if known.name == "wander")
        self.assertEqual(wander, HILL_1968_DEGREES)

    def test_turns_to_both_sides(self) -> None:
        """Hill 1968: as many turns to the left as to the right."""
        tilt = tilt_for_turn(math.radians(16))
        turns = np.concatenate(
            [
                _turns(grow_channel(*key_for(seed), 0.0, 0.0, 900.0, 0.0, 6.0, tilt, 0.0))
                for seed in range(60)
            ]
        )
        self.assertLess(abs(float(turns.mean())), 0.5)

    def test_no_wander_is_straight(self) -> None:
        """Common practice: at no wander a discharge is a straight line."""
        segments = _segments(_bolt(wander=0.0, branches=0))
        direction = math.atan2(800, 1200)
        headings = np.arctan2(segments[:, 5] - segments[:, 1], segments[:, 4] - segments[:, 0])
        np.testing.assert_allclose(headings, direction, atol=1e-6)


class Shape(TestCase):
    def test_ends_lie_on_the_points(self) -> None:
        """Definition of pinned: both ends to the bit, at any boil."""
        for boil in (0.0, 0.37, 5.2):
            main = _segments(_bolt(branches=0, boil=boil))
            self.assertEqual((main[0, 0], main[0, 1]), (300, 100))
            self.assertEqual((main[-1, 4], main[-1, 5]), (1500, 900))

    def test_free_end_only_aims(self) -> None:
        """Definition of free: not on the point, but not far off its direction."""
        main = _segments(_bolt(branches=0, far_end="free"))
        end = main[-1, 4:6]
        self.assertGreater(math.dist(end, (1500, 900)), 5)
        turn = math.atan2(end[1] - 100, end[0] - 300) - math.atan2(800, 1200)
        self.assertLess(abs(turn), math.radians(40))

    def test_branches_begin_on_a_channel(self) -> None:
        """Every channel but the first begins on a piece of another: nothing floats."""
        segments = _segments(_bolt(branches=9))
        begins = np.r_[True, (segments[1:, 0:2] != segments[:-1, 4:6]).any(axis=1)]
        self.assertGreater(int(begins.sum()), 9)
        for i in np.flatnonzero(begins)[1:]:
            way = segments[:, 4:6] - segments[:, 0:2]
            to = segments[i, 0:2] - segments[:, 0:2]
            part = np.clip((to * way).sum(1) / np.maximum((way * way).sum(1), 1e-12), 0, 1)
            off = np.hypot(*(to - part[:, None] * way).T)
            off[i] = np.inf
            self.assertLess(float(off.min()), 1e-6)

    def test_branches_are_thinner_and_dimmer(self) -> None:
        """Reed and Wyvill 1994: branches are thinner and dimmer than what they leave."""
        with_branches, alone = _segments(_bolt(branches=9)), _segments(_bolt(branches=0))
        branches = with_branches[len(alone) :]
        self.assertGreater(len(branches), 100)
        self.assertLess(branches[:, 2].max(), alone[:, 2].max())
        self.assertLess(branches[:, 3].mean(), 0.6 * alone[:, 3].mean())

    def test_taper(self) -> None:
        """Definition: the width at the far end is the share asked for."""
        main = _segments(_bolt(branches=0, width=10.0, thinning=30.0))
        self.assertAlmostEqual(main[0, 2], 10)
        self.assertAlmostEqual(main[-1, 6], 3)

    def test_boil_moves_in_place(self) -> None:
        """A twenty-fifth of a turn moves every vertex a little and some: no pop, no standstill."""
        for phase in (0.0, 0.5, 0.99):
            before = _along(_segments(_bolt(boil=phase, branches=0)))
            after = _along(_segments(_bolt(boil=phase + 0.04, branches=0)))
            moved = np.hypot(*(after - before).T)
            self.assertLess(moved.max(), 60)
            self.assertGreater(moved.mean(), 0.05)

    def test_a_moved_end_carries_the_shape(self) -> None:
        """Moving an end by a px moves no vertex by more than three: nothing swims."""
        before = _segments(_bolt(branches=0))
        after = _segments(_bolt(branches=0, end=Point(1501, 900)))
        moved = np.hypot(*(_along(after) - _along(before)).T)
        self.assertLess(moved.max(), 3)

    def test_another_seed_another_shape(self) -> None:
        """Common practice: a copy gets another seed so that it does not repeat."""
        one, two = _segments(_bolt(seed=1, branches=0)), _segments(_bolt(seed=2, branches=0))
        self.assertGreater(float(np.abs(_along(one) - _along(two)).max()), 20)


class Ways(TestCase):
    def test_follows_a_path(self) -> None:
        """Without wander it is the path itself, to a hundredth of a px at its ends."""
        corner = [Vertex(at=Point(*at), arriving=Point(0, 0), leaving=Point(0, 0))
                  for at in ((100, 100), (900, 100), (900, 800))]  # fmt: skip
        path = Path(vertices=tuple(corner), closed=False)
        main = _segments(_bolt(path=path, wander=0.0, branches=0))
        np.testing.assert_allclose(main[0, :2], (100, 100), atol=0.01)
        np.testing.assert_allclose(main[-1, 4:6], (900, 800), atol=0.01)
        off = np.minimum(np.abs(main[:, 1] - 100), np.abs(main[:, 0] - 900))
        self.assertLess(float(off.max()), 3)

    def test_wanders_about_its_path(self) -> None:
        corner = [Vertex(at=Point(*at), arriving=Point(0, 0), leaving=Point(0, 0))
                  for at in ((100, 500), (1700, 500))]  # fmt: skip
        path = Path(vertices=tuple(corner), closed=False)
        along, straight = (
            _segments(_bolt(branches=0, **ends))
            for ends in ({"path": path}, {"start": Point(100, 500), "end": Point(1700, 500)})
        )
        np.testing.assert_allclose(along, straight, atol=1e-6)

    def test_two_discharges_meet(self) -> None:
        """From both ends: each begins on its point, and both end on one place between."""
        main = _segments(_bolt(way="from both ends", branches=0))
        starts = main[np.r_[True, (main[1:, :2] != main[:-1, 4:6]).any(axis=1)]]
        ends = main[np.r_[(main[1:, :2] != main[:-1, 4:6]).any(axis=1), True]]
        self.assertEqual(len(starts), 2)
        np.testing.assert_allclose(starts[:, :2], [(300, 100), (1500, 900)], atol=0.01)
        np.testing.assert_allclose(ends[0, 4:6], ends[1, 4:6], atol=1e-9)
        away = np.hypot(ends[0, 4] - 900, ends[0, 5] - 500)
        self.assertLess(float(away), 0.3 * math.hypot(1200, 800))

    def test_restrike_is_another_path(self) -> None:
        """A new path at each whole number, and the same one in between."""
        first, same, other = (_segments(_bolt(branches=0, restrike=at)) for at in (3.0, 3.9, 4.0))
        np.testing.assert_array_equal(first, same)
        self.assertGreater(float(np.abs(_along(first) - _along(other)).max()), 20)

    def test_leader_grows_from_its_start(self) -> None:
        """Half down, what is drawn of the channel is the beginning of the whole, and dim."""
        struck = {"strokes": 3, "leader": 1.0, "branches": 0}
        half, whole = (_segments(_bolt(clock=at, **struck)) for at in (0.5, 1.0))
        self.assertEqual((half[0, 0], half[0, 1]), (300, 100))
        self.assertLess(len(half), 0.6 * len(whole))
        np.testing.assert_array_equal(half[:-1, :2], whole[: len(half) - 1, :2])
        self.assertLess(float(half[:, 3].max()), 0.2)
        self.assertEqual(len(_segments(_bolt(clock=-0.01, **struck))), 0)

    def test_sway_carries_it(self) -> None:
        """Every vertex is pushed as the sway pushes the place where it would be."""
        sway = Sway(amount=60, along="all ways", size=300, turbulence=0, boil=0.2,
                    drift=Point(0, 0), pins=(), seed=2)  # fmt: skip
        at = At(Region(0, 0, 1920, 1080), 1.0, (1, "bolt"))
        still, carried = (_bolt(branches=3, sway=each).segments(at) for each in (None, sway))
        pushed = sway.pushes(still[:, :2], at.shared_key("sway", 2))
        np.testing.assert_allclose(carried[:, :2] - still[:, :2], pushed, atol=1e-9)
        self.assertGreater(float(np.abs(pushed).max()), 10)


class Picture(TestCase):
    def test_core_is_white_hot_and_falls_off_in_colour(self) -> None:
        """Common practice: the bright half of the core is white and above 1; around it the hue."""
        picture = render_frame(small(bolt_layer(branches=0, width=6)), 1)
        core = picture[picture[..., 0] > picture[..., 0].max() / 2][:, :3]
        self.assertGreater(float(core.min()), 3)
        self.assertGreater(len(core), 50)
        self.assertLess(float((core.max(1) / core.min(1)).max()), 1.1)
        edge = picture[(picture[..., 3] == 0) & (picture[..., 2] > 0.02)]
        self.assertGreater(len(edge), 200)
        self.assertTrue((edge[:, 2] > edge[:, 0]).all())

    def test_cover_is_within_bounds(self) -> None:
        """Definition: cover is from 0 to 1, and 1 in a thick core."""
        picture = render_frame(small(bolt_layer(width=8, uneven=0)), 1)
        self.assertEqual(float(picture[..., 3].min()), 0)
        self.assertAlmostEqual(float(picture[..., 3].max()), 1, delta=0.02)
