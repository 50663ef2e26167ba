"""A recipe on a canvas of another size: places in proportion, lengths as they were."""

from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import read_recipe
from handful.engine.recipe import fitted
from handful.engine.render import places
from handful.engine.render.resolve import Resolver, Take
from tests.engine.recipes import small

RATIO = np.array([0.5, 2.0])


def _recipe() -> dict[str, Any]:
    keys = [{"frame": 1, "value": [100, 50]}, {"frame": 11, "value": [200, 150]}]
    bolt = {
        "kind": "bolt", "start": {"moves": "keys", "keys": keys}, "width": 7,
        "end": {"moves": "formula", "value": [40, 60], "formula": ["still + 50 * t", "still^2 / 90"]},
    }  # fmt: skip
    glow = {
        "kind": "glow",
        "id": "g",
        "limits": [{"kind": "ellipse", "centre": [80, 90], "width": 60}],
    }
    ridden = {"kind": "copy", "of": "bolt", "own": {"start": [10, 20], "width": 3}}
    path = {"name": "way", "vertices": [{"at": [20, 30]}, {"at": [200, 90], "arriving": [-40, 8]}]}
    data = small(
        {"id": "bolt", "name": "Bolt", "source": bolt, "steps": [glow]},
        {"id": "copy", "name": "Copy", "source": ridden},
        {"id": "flare", "name": "Flare", "source": {"kind": "flare", "halo": 33}},
        points=[{"name": "p", "at": {"moves": "jitter", "value": [30, 40], "amount": [4, 6], "per_second": 9}},
                {"name": "q", "at": {"moves": "follow", "point": "p", "offset": [10, 10]}}],
        tracks=[{"name": "t", "marks": [[1, 10, 20], [9, 50, 60, 0.75]]}],
        sways=[{"name": "wind", "drift": [5, 5], "pins": [{"at": [60, 70], "distance": 40}]}],
        paths=[path],
    )  # fmt: skip
    written: dict[str, Any] = data.model_dump(mode="json", exclude_unset=True)
    return written


class Fitting(TestCase):
    def setUp(self) -> None:
        self.before = _recipe()
        self.after = fitted(self.before, 160, 360)
        self.recipes = [read_recipe(each) for each in (self.before, self.after)]

    def test_places_go_in_proportion_at_every_frame(self) -> None:
        """Closed form: each place times the ratio of the sizes, still or moving in any way."""
        for frame in (1, 4, 11, 30):
            before, after = (places(recipe, frame, "bolt") for recipe in self.recipes)
            for name in ("p", "q"):
                np.testing.assert_allclose(
                    after.points[name], before.points[name] * RATIO, atol=0.2
                )
            for name in ("start", "end"):
                was, now = (found.nodes["source"][name] for found in (before, after))
                np.testing.assert_allclose(now, was * RATIO, atol=0.3)
            for one, other in zip(before.paths["way"], after.paths["way"], strict=True):
                for part in ("at", "arriving", "leaving"):
                    np.testing.assert_allclose(other[part], one[part] * RATIO, atol=0.2)
            tracks = [Resolver(recipe).track("t", frame) for recipe in self.recipes]
            np.testing.assert_allclose(tracks[1], tracks[0] * RATIO, atol=0.2)

    def test_what_stands_at_its_default_goes_too(self) -> None:
        flares: list[Any] = [Resolver(r).source(r.layers[2], Take.of(1)) for r in self.recipes]
        np.testing.assert_allclose(flares[1].at, flares[0].at * RATIO)

    def test_lengths_and_ways_stay(self) -> None:
        bolt, copy, flare = (layer["source"] for layer in self.after["layers"])
        self.assertEqual((bolt["width"], flare["halo"]), (7, 33))
        self.assertEqual(copy["own"], {"start": [5.0, 40.0], "width": 3})
        ellipse = self.after["layers"][0]["steps"][0]["limits"][0]
        self.assertEqual((ellipse["width"], ellipse["centre"]), (60, [40.0, 180.0]))
        sway = self.after["sways"][0]
        self.assertEqual((sway["drift"], sway["pins"][0]["at"]), ([5.0, 5.0], [30.0, 140.0]))
        self.assertEqual(self.after["tracks"][0]["marks"][1], [9.0, 25.0, 120.0, 0.75])
        size = (self.after["canvas"]["width"], self.after["canvas"]["height"])
        self.assertEqual(size, (160, 360))

    def test_there_and_back(self) -> None:
        """Back on the old canvas all is where it was, within the decimals that are kept."""
        back = read_recipe(fitted(self.after, 320, 180))
        for frame in (1, 30):
            was, now = (places(recipe, frame, "bolt") for recipe in (self.recipes[0], back))
            np.testing.assert_allclose(
                now.nodes["source"]["end"], was.nodes["source"]["end"], atol=0.5
            )
            np.testing.assert_allclose(now.points["q"], was.points["q"], atol=0.2)
