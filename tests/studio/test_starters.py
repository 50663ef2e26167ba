"""Starters: what a person finds under "begin from a starter"."""

from itertools import pairwise
from unittest import mock

import cv2
import numpy as np
from django.test import TestCase

from handful.engine.recipe import read_recipe
from handful.studio.preview.apart import preview
from handful.studio.shots.models import Shot
from handful.studio.starters.service import starters
from tests.studio.base import client_of, person, use_temporary_folders


def _levels(file: bytes) -> np.ndarray:
    levels = cv2.imdecode(np.frombuffer(file, np.uint8), cv2.IMREAD_COLOR)
    assert levels is not None
    return levels


class Starters(TestCase):
    def setUp(self) -> None:
        use_temporary_folders(self)
        self.ada = person("Ada")
        self.client_ada = client_of(self.ada)

    def test_list_by_family(self) -> None:
        """At least a dozen, the members of a family next to one another, no name twice."""
        status, answer = self.client_ada.call("GET", "/starters")
        self.assertEqual(status, 200)
        families = [line["family"] for line in answer]
        self.assertGreaterEqual(len(families), 12)
        self.assertGreaterEqual(set(families), {"strikes", "beams", "streams", "flares"})
        changes = sum(a != b for a, b in pairwise(families))
        self.assertEqual(changes + 1, len(set(families)))
        self.assertEqual(len({line["name"] for line in answer}), len(answer))

    def test_begin(self) -> None:
        """The new shot is the person's own, with the starter's recipe as its first revision."""
        status, answer = self.client_ada.call("POST", "/starters/cutting-beam/shot")
        self.assertEqual(status, 201)
        shot = Shot.objects.get()
        self.assertEqual((shot.owner, shot.revision, shot.name), (self.ada, 1, "Cutting beam"))
        self.assertEqual(answer["recipe"], starters()["cutting-beam"].written)
        self.assertEqual(read_recipe(shot.recipe), starters()["cutting-beam"].recipe)

    def test_its_recipe(self) -> None:
        """As it is written, to be put into a shot that is there already."""
        status, answer = self.client_ada.call("GET", "/starters/stays-of-a-mast")
        self.assertEqual((status, answer["name"]), (200, "Stays of a mast"))
        self.assertEqual(answer["recipe"], starters()["stays-of-a-mast"].written)
        self.assertEqual(self.client_ada.call("GET", "/starters/nothing")[0], 404)

    def test_picture(self) -> None:
        """It shows something without being asked for a frame, and nothing on the first one."""
        path = "/api/v1/preview/starters/lamp-through-spray.jpg"
        telling, first = (self.client_ada.get(path + end) for end in ("", "?frame=1001"))
        levels = [_levels(answer.content) for answer in (telling, first)]
        self.assertEqual(levels[0].shape, (270, 480, 3))
        self.assertGreater(int(levels[0].max()), 200)
        self.assertLess(int(levels[1].max()), 12)
        again = self.client_ada.get(path, headers={"If-None-Match": telling.headers["ETag"]})
        self.assertEqual(again.status_code, 304)

    def test_each_ships_a_still(self) -> None:
        """Where one chooses there is a picture of every one at once, and nothing is computed for it."""
        with mock.patch.object(preview, "place", side_effect=AssertionError("it is computed")):
            for name in starters():
                answer = self.client_ada.get(f"/api/v1/preview/starters/{name}.jpg")
                levels = _levels(answer.content)
                with self.subTest(starter=name):
                    self.assertEqual(levels.shape, (270, 480, 3))
                    self.assertGreater(int(levels.max()), 60)

    def test_unknown(self) -> None:
        for method, path in (
            ("POST", "/starters/none/shot"),
            ("GET", "/preview/starters/none.jpg"),
        ):
            self.assertEqual(self.client_ada.call(method, path)[0], 404)

    def test_strangers(self) -> None:
        """Nothing is told to who is not signed in."""
        for method, path in (
            ("GET", "/starters"),
            ("POST", "/starters/cutting-beam/shot"),
            ("GET", "/preview/starters/cutting-beam.jpg"),
        ):
            self.assertEqual(client_of().call(method, path)[0], 401)
