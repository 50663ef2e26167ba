"""The own time of what has a memory: slower, quicker and held, and in step with what it looks at."""

from __future__ import annotations

from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import Cache, Recipe, read_recipe, render_frame
from handful.engine.kinds import Stateful, sources
from handful.engine.kinds.memory import OwnTime
from handful.engine.render import plan, remembered
from tests.engine.counted import Counted
from tests.engine.recipes import small
from tests.engine.sources.test_fire import SMALL

HELD = [
    {"frame": 6, "value": 100},
    {"frame": 7, "value": 0},
    {"frame": 12, "value": 0},
    {"frame": 13, "value": 100},
]


def keyed(*keys: dict[str, Any]) -> dict[str, Any]:
    return {"moves": "keys", "keys": [{"ease": "linear", **key} for key in keys]}


def _large(layer: dict[str, Any]) -> Recipe:
    canvas = {"width": 960, "height": 540, "rate": 25, "first": 1, "last": 50}
    return read_recipe({"version": 3, "name": "Large", "canvas": canvas, "layers": [layer]})


def burning(*more: dict[str, Any], **settings: Any) -> Recipe:
    return small({"id": "it", "name": "It", "source": {"kind": "fire", **SMALL, **settings}}, *more)


class Slower(TestCase):
    def test_the_same_pictures(self) -> None:
        """To the bit, of each source that has a tempo, and from the same states; the other way round for one that
        goes twice as quick."""
        paced = [
            kind for kind in sources().values() if issubclass(kind, Stateful) and kind.paced_by
        ]
        self.assertGreaterEqual(len(paced), 5)
        for kind in paced:
            with self.subTest(source=kind.name):
                own = {"kind": kind.name} | kind.briefly
                half, plain = (
                    _large({"id": "it", "name": "It", "source": own | {kind.paced_by: tempo}})
                    for tempo in (50, 100)
                )
                cache = Cache(1 << 28)
                wanted = [render_frame(plain, frame, 0.5, cache) for frame in (1, 5)]
                with Counted(kind) as again:
                    found = [render_frame(half, frame, 0.5, cache) for frame in (1, 9)]
                self.assertEqual(again.frames, 0)
                np.testing.assert_array_equal(found, wanted)
                self.assertFalse(np.array_equal(wanted[0], wanted[1]))

    def test_quicker(self) -> None:
        np.testing.assert_array_equal(
            render_frame(burning(tempo=200), 5), render_frame(burning(), 9)
        )

    def test_held_and_let_go(self) -> None:
        """It stands between two keys, and goes on from there; in all it has lost what its tempo was short of."""
        held, cache = burning(tempo=keyed(*HELD)), Cache(1 << 28)
        stands = [render_frame(held, frame, 1.0, cache) for frame in (7, 9, 12)]
        np.testing.assert_array_equal(stands[0], stands[1])
        np.testing.assert_array_equal(stands[0], stands[2])
        np.testing.assert_array_equal(
            render_frame(held, 20, 1.0, cache), render_frame(burning(), 14)
        )

    def test_held_from_the_beginning(self) -> None:
        np.testing.assert_array_equal(
            render_frame(burning(tempo=0), 30), render_frame(burning(), 1)
        )

    def test_each_frame_alone(self) -> None:
        """As in a sequence, also between two frames of its own."""
        recipe, cache = burning(tempo=keyed(*HELD), feed=keyed(*_FEED)), Cache(1 << 28)
        row = [render_frame(recipe, frame, 1.0, cache) for frame in range(1, 16)]
        for frame in (3, 8, 13, 15):
            np.testing.assert_array_equal(row[frame - 1], render_frame(recipe, frame))


_FEED = ({"frame": 10, "value": 0}, {"frame": 12, "value": 100})


class InStep(TestCase):
    def test_keys_stay_at_their_frames(self) -> None:
        """At half its tempo fuel that comes from frame 10 of the shot on comes there, not at its own."""
        for tempo in (50, 100):
            fed = burning(tempo=tempo, feed=keyed(*_FEED))
            still, burns = (float(render_frame(fed, at)[..., :3].max()) for at in (10, 16))
            with self.subTest(tempo=tempo):
                self.assertEqual(still, 0)
                self.assertGreater(burns, 0.5)

    def test_it_burns_where_a_layer_is_now(self) -> None:
        """A layer that goes to the right drags it along at its own pace, whatever the fire's."""
        card = {
            "id": "card", "name": "Card", "on": False,
            "source": {"kind": "flash", "at": [160, 90], "everywhere": 3, "near": 0},
            "limits": [{"kind": "rectangle", "width": 30, "height": 20, "feather": 0,
                        "centre": {"moves": "rate", "start": [60, 150], "per_second": [100, 0]}}],
        }  # fmt: skip
        for tempo in (50, 100, 200):
            fed = burning(card, fuel="card", tempo=tempo, gusts=0, burns=0.05, cools=0.05)
            foot = render_frame(fed, 21, layer="it")[146:154, :, :3].sum(axis=(0, 2))
            front = int(np.nonzero(foot > 0.2 * foot.max())[0].max())
            with self.subTest(tempo=tempo):
                self.assertTrue(60 + 0.8 * 100 < front < 60 + 0.8 * 100 + 50, front)


class Told(TestCase):
    def test_frames_between(self) -> None:
        """What is known up to a frame is known at all frames up to it, though states stand for several."""
        recipe, cache = burning(tempo=50), Cache(1 << 28)
        render_frame(recipe, 9, 0.5, cache)
        found = remembered(plan(recipe, 50, 0.1), cache, 50)
        self.assertEqual([at for at in found.frames if at >= 1], list(range(1, 11)))
        still, empty = burning(tempo=0), Cache(1 << 28)
        render_frame(still, 9, 0.5, empty)
        known = remembered(plan(still, 50, 0.1), empty, 50).frames
        self.assertEqual([at for at in known if at >= 1], list(range(1, 51)))

    def test_own_time_and_back(self) -> None:
        """Either is the other's inverse where time goes, before the layer and after what is known as well."""
        passed = np.concatenate([[0], np.cumsum([1, 1, 0.5, 0, 0, 0.25, 2])])
        time = OwnTime(10, passed)
        for frame in (3, 10, 11.5, 12.75, 16.5, 17, 20):
            if frame <= 17:
                self.assertAlmostEqual(time.shots(time.own(frame)), frame)
        self.assertEqual(time.own(14), time.own(15))
        self.assertEqual(time.shots(time.own(14)), 13)
        self.assertAlmostEqual(time.shots(10 + float(passed[-1]) + 1), 17.5)
