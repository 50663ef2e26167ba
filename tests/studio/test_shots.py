"""Shots: saving without losing, and who may see what."""

import json
import time
from pathlib import Path
from threading import Thread
from typing import Any
from unittest import mock

from django.db import connection
from django.test import TestCase, TransactionTestCase
from django.test.utils import CaptureQueriesContext

from handful.engine.kinds import limits, sources, steps
from handful.studio.api import api
from handful.studio.plates.models import Plate
from handful.studio.shots import service
from handful.studio.shots.models import Revision, Shot
from tests.studio.base import client_of, person, shot_of, small_recipe, use_temporary_folders

OPENAPI = Path(__file__).parents[2] / "web" / "src" / "api" / "openapi.json"


class Saving(TestCase):
    def setUp(self) -> None:
        use_temporary_folders(self)
        self.ada = person("Ada")
        self.client_ada = client_of(self.ada)
        self.shot = shot_of(self.ada)
        self.path = f"/shots/{self.shot.id}"

    def _save(self, seen: int, **changes: object) -> tuple[int, dict[str, Any]]:
        body = {"seen": seen, "recipe": small_recipe(**changes)}
        return self.client_ada.call("PUT", self.path, body)

    def test_every_revision_is_kept(self) -> None:
        self.assertEqual(self._save(1, seed=5)[0], 200)
        self.assertEqual(self._save(2, seed=6, name="Renamed")[1]["revision"], 3)
        seeds = Revision.objects.filter(shot=self.shot).order_by("number")
        self.assertEqual([kept.recipe.get("seed") for kept in seeds], [None, 5, 6])
        self.assertEqual(self.client_ada.call("GET", self.path)[1]["name"], "Renamed")

    def test_stale_is_refused_with_the_newer_one(self) -> None:
        self._save(1, seed=5)
        status, answer = self._save(1, seed=99)
        self.assertEqual(status, 409)
        self.assertEqual((answer["saves"], answer["revision"], answer["recipe"]["seed"]), (2, 2, 5))
        self.shot.refresh_from_db()
        self.assertEqual(self.shot.recipe["seed"], 5)
        self.assertEqual(Revision.objects.filter(shot=self.shot).count(), 2)

    def test_saving_the_same_makes_no_revision(self) -> None:
        self.assertEqual(self._save(1)[1]["revision"], 1)
        self.assertEqual(Revision.objects.filter(shot=self.shot).count(), 1)

    def test_problems_are_kept_as_a_draft(self) -> None:
        """What has problems is kept and told, and no revision is made of it; pictures stay as they were."""
        for seen, (recipe, path) in enumerate((
            (small_recipe(seed=-1), "seed"),
            (small_recipe(layers=[{"id": "a", "name": "A", "source": {"kind": "x"}}]), "layers[0].source.kind"),
            (small_recipe(canvas={"width": 10**9}), "canvas.width"),
            (small_recipe(loop=999), ""),
        ), 1):  # fmt: skip
            body = {"seen": seen, "recipe": recipe}
            status, answer = self.client_ada.call("PUT", self.path, body)
            self.assertEqual((status, answer["revision"], answer["saves"]), (200, 1, seen + 1))
            self.assertEqual(answer["problems"][0]["path"], path)
            self.assertTrue(answer["problems"][0]["says"])
            opened = self.client_ada.call("GET", self.path)[1]
            self.assertEqual((opened["recipe"], opened["problems"]), (recipe, answer["problems"]))
            self.shot.refresh_from_db()
            self.assertEqual((self.shot.revision, self.shot.recipe), (1, small_recipe()))
        self.assertEqual(Revision.objects.filter(shot=self.shot).count(), 1)
        self.assertEqual(
            self.client_ada.call("GET", f"/preview/thumbnails/{self.shot.id}.jpg")[0], 200
        )

    def test_a_draft_goes_once_it_is_right(self) -> None:
        """Putting it right makes a revision; going back to what was saved makes none. Neither leaves a draft."""
        for seed, revision in ((4, 2), (4, 2)):
            shot = Shot.objects.get(id=self.shot.id)
            broken = {"seen": shot.saves, "recipe": small_recipe(seed=-1)}
            self.assertTrue(self.client_ada.call("PUT", self.path, broken)[1]["problems"])
            status, answer = self._save(shot.saves + 1, seed=seed)
            self.assertEqual((status, answer["revision"], answer["problems"]), (200, revision, []))
            self.assertIsNone(Shot.objects.get(id=self.shot.id).draft)

    def test_a_stale_draft_is_refused(self) -> None:
        """A draft on top of an older save would hide the newer one."""
        self._save(1, seed=5)
        self.assertEqual(self._save(1, seed=-1)[0], 409)
        self.assertIsNone(Shot.objects.get(id=self.shot.id).draft)

    def test_nothing_is_saved_over_a_draft_that_was_not_seen(self) -> None:
        """It is no revision, and somebody's work all the same: it is given, with what is wrong with it."""
        self._save(1, seed=-1)
        for seed in (5, -2):
            status, answer = self._save(1, seed=seed)
            self.assertEqual((status, answer["saves"], answer["revision"]), (409, 2, 1))
            self.assertEqual(answer["recipe"]["seed"], -1)
            self.assertEqual(answer["problems"][0]["path"], "seed")
        self.assertEqual(Shot.objects.get(id=self.shot.id).draft, small_recipe(seed=-1))

    def test_a_list_tells_canvases_without_recipes(self) -> None:
        """Of any number of shots in one question, in which no recipe is given."""
        for width in (64, 128):
            shot_of(self.ada, canvas={"width": width, "height": 36})
        with CaptureQueriesContext(connection) as asked:
            lines = self.client_ada.call("GET", "/shots")[1]
        self.assertEqual({line["width"] for line in lines[:2]}, {64, 128})
        [of_shots] = [each["sql"] for each in asked if "shots_shot" in each["sql"]]
        self.assertNotIn('"shots_shot"."recipe",', of_shots)
        self.assertNotIn('"shots_shot"."draft"', of_shots.partition("WHERE")[0])

    def test_what_is_no_recipe_changes_nothing(self) -> None:
        deep: dict[str, Any] = {}
        for _ in range(40):
            deep = {"a": deep}
        for recipe in ({}, {"version": 9}, small_recipe(name="a\0b"), small_recipe(points=[deep])):
            status, answer = self.client_ada.call("PUT", self.path, {"seen": 1, "recipe": recipe})
            self.assertEqual(status, 422)
            self.assertTrue(answer["problems"][0]["says"])
        shot = Shot.objects.get(id=self.shot.id)
        self.assertEqual((shot.revision, shot.draft), (1, None))

    def test_a_request_of_the_wrong_form(self) -> None:
        """What is wrong is said with its place in the request, in the same shape as a recipe's."""
        body = {"seen": "newest", "recipe": small_recipe()}
        status, answer = self.client_ada.call("PUT", self.path, body)
        self.assertEqual((status, answer["problems"][0]["path"]), (422, "seen"))

    def test_what_is_no_json(self) -> None:
        for body in (b"{", b"[" * 50_000, b'{"seen": 1, "recipe": {"seed": NaN}}'):
            answer = self.client_ada.put(
                f"/api/v1{self.path}", body, content_type="application/json"
            )
            self.assertEqual(answer.status_code, 422, body[:20])
            self.assertTrue(answer.json()["problems"][0]["says"])
        self.shot.refresh_from_db()
        self.assertEqual(self.shot.revision, 1)


class Listing(TestCase):
    def setUp(self) -> None:
        use_temporary_folders(self)
        self.ada = person("Ada")
        self.client_ada = client_of(self.ada)

    def test_create_list_open(self) -> None:
        status, made = self.client_ada.call("POST", "/shots", {"recipe": small_recipe()})
        self.assertEqual((status, made["revision"], made["plate"]), (201, 1, None))
        [line] = self.client_ada.call("GET", "/shots")[1]
        self.assertEqual((line["name"], line["width"], line["last"]), ("Spark", 64, 10))
        self.assertEqual(self.client_ada.call("POST", "/shots", {"recipe": {}})[0], 422)

    def test_one_to_begin_with(self) -> None:
        """Without a recipe it is one strike, under the first name that is free."""
        names = []
        for _ in range(3):
            status, made = self.client_ada.call("POST", "/shots", {})
            self.assertEqual(status, 201)
            self.assertEqual([layer["id"] for layer in made["recipe"]["layers"]], ["bolt"])
            names.append(made["name"])
            if made["name"] == "Strike 2":
                Shot.objects.get(name="Strike 1").delete()
        self.assertEqual(names, ["Strike 1", "Strike 2", "Strike 1"])

    def test_duplicate_is_apart(self) -> None:
        shot = shot_of(self.ada)
        status, copy = self.client_ada.call("POST", f"/shots/{shot.id}/duplicate")
        self.assertEqual((status, copy["name"], copy["revision"]), (201, "Spark copy", 1))
        body = {"seen": 1, "recipe": small_recipe(seed=3)}
        self.client_ada.call("PUT", f"/shots/{copy['id']}", body)
        shot.refresh_from_db()
        self.assertNotIn("seed", shot.recipe)

    def test_a_duplicate_has_the_same_plates(self) -> None:
        shot = shot_of(self.ada)
        Plate.objects.create(shot=shot, name="dusk", folder="p", first=1, last=9)
        copy = self.client_ada.call("POST", f"/shots/{shot.id}/duplicate")[1]
        self.assertEqual(copy["plate"], {"name": "dusk", "first": 1, "last": 9})

    def test_delete_and_undo(self) -> None:
        shot = shot_of(self.ada)
        self.assertEqual(self.client_ada.call("DELETE", f"/shots/{shot.id}")[0], 204)
        self.assertEqual(self.client_ada.call("GET", "/shots")[1], [])
        self.assertEqual(self.client_ada.call("GET", f"/shots/{shot.id}")[0], 404)
        self.assertEqual(self.client_ada.call("POST", f"/shots/{shot.id}/restore")[0], 200)
        self.assertEqual(len(self.client_ada.call("GET", "/shots")[1]), 1)

    def test_somebody_elses_shot_is_not_there(self) -> None:
        shot = shot_of(self.ada)
        other = client_of(person("Boris"))
        self.assertEqual(other.call("GET", "/shots")[1], [])
        body = {"seen": 1, "recipe": small_recipe(seed=9)}
        order = {"shot": str(shot.id), "first": 1, "last": 2}
        look = {
            "bench": "b",
            "order": 1,
            "shot": str(shot.id),
            "recipe": small_recipe(),
            "pictures": [],
        }
        for method, path, sent in (
            ("GET", f"/shots/{shot.id}", None),
            ("PUT", f"/shots/{shot.id}", body),
            ("DELETE", f"/shots/{shot.id}", None),
            ("POST", f"/shots/{shot.id}/duplicate", None),
            ("POST", f"/shots/{shot.id}/restore", None),
            ("GET", f"/preview/thumbnails/{shot.id}.jpg", None),
            ("POST", "/preview", look),
            ("POST", "/renders", order),
        ):
            self.assertEqual(other.call(method, path, sent)[0], 404, f"{method} {path}")
        self.assertEqual(Shot.objects.get(id=shot.id).recipe, small_recipe())

    def test_somebody_elses_deleted_shot_stays_deleted(self) -> None:
        shot = shot_of(self.ada)
        self.client_ada.call("DELETE", f"/shots/{shot.id}")
        other = client_of(person("Boris"))
        self.assertEqual(other.call("POST", f"/shots/{shot.id}/restore")[0], 404)
        self.assertEqual(self.client_ada.call("GET", f"/shots/{shot.id}")[0], 404)


class AtOnce(TransactionTestCase):
    def test_of_two_saves_on_one_revision_one_is_told(self) -> None:
        """The second save waits until the first is done, and is then refused as stale."""
        ada = person("Ada")
        shot = shot_of(ada)
        looked = service.problems_of

        def slowly(recipe: dict[str, Any] | None) -> list[Any]:
            time.sleep(0.3)
            return looked(recipe)

        outcomes: list[str] = []

        def save(seed: int) -> None:
            try:
                service.save_recipe(ada, shot.id, 1, small_recipe(seed=seed))
                outcomes.append("saved")
            except Exception as error:
                outcomes.append(type(error).__name__)
            finally:
                connection.close()

        with mock.patch.object(service, "problems_of", slowly):
            threads = [Thread(target=save, args=(seed,)) for seed in (2, 3)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
        self.assertEqual(sorted(outcomes), ["Conflict", "saved"])
        self.assertEqual(set(Revision.objects.values_list("number", flat=True)), {1, 2})


class Changing(TestCase):
    def test_a_change_that_needs_a_rule(self) -> None:
        """It is asked with a recipe, which need not be saved, and gives another; refusals say what is wrong."""
        ada = client_of(person("Ada"))
        body = {"recipe": small_recipe(), "change": {"does": "duplicate", "layer": "a"}}
        status, answer = ada.call("POST", "/recipes/changed", body)
        self.assertEqual((status, answer["made"]), (200, "a-2"))
        self.assertEqual([layer["id"] for layer in answer["recipe"]["layers"]], ["a", "a-2"])
        body["change"] = {"does": "duplicate", "layer": "gone"}
        status, answer = ada.call("POST", "/recipes/changed", body)
        self.assertEqual((status, answer["problems"][0]["path"]), (422, "layer"))
        body["change"] = {"does": "conquer"}
        self.assertEqual(ada.call("POST", "/recipes/changed", body)[0], 422)
        self.assertEqual(client_of().call("POST", "/recipes/changed", body)[0], 401)


class Published(TestCase):
    def test_openapi_and_catalogue(self) -> None:
        """The published description is the one that the front end's types were made from."""
        published = client_of().call("GET", "/openapi.json")[1]
        self.assertEqual(published, json.loads(OPENAPI.read_text()))
        self.assertEqual(json.loads(json.dumps(api.get_openapi_schema())), published)

    def test_catalogue(self) -> None:
        catalogue = client_of().call("GET", "/catalogue")[1]
        for what, known in (("sources", sources()), ("steps", steps()), ("limits", limits())):
            self.assertEqual({kind["name"] for kind in catalogue[what]}, set(known))
        self.assertEqual(catalogue["blends"][:3], ["normal", "add", "screen"])
        self.assertIn("$defs", client_of().call("GET", "/recipe-schema")[1])


class Revisions(TestCase):
    def setUp(self) -> None:
        use_temporary_folders(self)
        self.ada = person("Ada")
        self.client_ada = client_of(self.ada)
        self.shot = shot_of(self.ada)
        self.path = f"/shots/{self.shot.id}"
        body = {"seen": 1, "recipe": small_recipe(seed=5)}
        self.client_ada.call("PUT", self.path, body)

    def test_listed_the_newest_first(self) -> None:
        status, lines = self.client_ada.call("GET", f"{self.path}/revisions")
        self.assertEqual(status, 200)
        self.assertEqual([(line["number"], line["by"]) for line in lines], [(2, "Ada"), (1, "Ada")])

    def test_opened_as_it_was_saved(self) -> None:
        first, second = (
            self.client_ada.call("GET", f"{self.path}/revisions/{number}")[1] for number in (1, 2)
        )
        self.assertEqual(first["recipe"], small_recipe())
        self.assertEqual(second["recipe"]["seed"], 5)

    def test_pictures_differ(self) -> None:
        pictures = [
            self.client_ada.get(f"/api/v1/preview/thumbnails/{self.shot.id}/{number}.jpg")
            for number in (1, 2)
        ]
        self.assertEqual([answer.status_code for answer in pictures], [200, 200])
        self.assertNotEqual(pictures[0].content, pictures[1].content)

    def test_not_there_or_not_theirs(self) -> None:
        bob = client_of(person("Bob"))
        picture = f"/preview/thumbnails/{self.shot.id}/1.jpg"
        for client, path in (
            (self.client_ada, f"{self.path}/revisions/3"),
            (bob, f"{self.path}/revisions"),
            (bob, f"{self.path}/revisions/1"),
            (bob, picture),
        ):
            self.assertEqual(client.call("GET", path)[0], 404)
