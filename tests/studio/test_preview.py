"""The preview: addresses by content, unsaved recipes, and newer requests first."""

import threading
import time
from io import BytesIO
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from django.test import TestCase
from PIL import Image

from handful.engine import read_recipe
from handful.engine.render import Cost, NoRoom, PlanError, Stopped, evaluate
from handful.engine.render.view import View
from handful.studio.plates.service import lay_plate
from handful.studio.preview import placings as placed
from handful.studio.preview import service
from handful.studio.preview.placings import Placed, Placings, Wanted
from handful.studio.preview.service import Preview, Unplaced
from handful.studio.preview.turns import AT_ONCE
from handful.studio.shots.service import save_recipe
from tests.studio.base import (
    bending_recipe,
    client_of,
    lay_red_plate,
    person,
    plated_recipe,
    shot_of,
    small_recipe,
    use_temporary_folders,
)


def _wanted(frame: int = 1, **view: Any) -> Wanted:
    return Wanted(frame, 1.0, None, View(**view), None)


class Budget(TestCase):
    """Of a picture that is likely to take long only that is told, and how small it would be there in time."""

    def setUp(self) -> None:
        self.preview = Preview()
        self.recipe = read_recipe(small_recipe())

    def test_too_dear_it_is_told_and_made_if_it_is_wanted_whole(self) -> None:
        with mock.patch.object(service, "BUDGET_SECONDS", 0):
            told = self.preview.look("1/bench", 1, self.recipe, _wanted())
            self.assertEqual((told.address, told.shown), ("", None))
            self.assertGreater(told.seconds or 0, 0)
            whole = self.preview.look("1/bench", 2, self.recipe, _wanted(), whole=True)
            assert whole.shown is not None
            self.assertEqual(Image.open(BytesIO(whole.shown.jpeg)).size, (64, 36))
            self.assertIsNone(whole.seconds)
            again = self.preview.look("1/bench", 3, self.recipe, _wanted())
            self.assertEqual(again, whole, "what is known costs nothing")

    def test_as_large_as_is_likely_to_be_there_in_time(self) -> None:
        """4 seconds are the budget; where little goes with the px a smaller one saves little."""
        for by_px, fixed, scale in (
            (9.0, 0.0, 1 / 2), (30.0, 0.0, 1 / 4), (90.0, 0.0, 1 / 8), (4000.0, 0.0, 1 / 8), (1.0, 30.0, 1 / 2),
        ):  # fmt: skip
            with (
                self.subTest(by_px=by_px),
                mock.patch.object(service, "cost_of", return_value=Cost(by_px, fixed)),
            ):
                told = self.preview.look("1/bench", 1, self.recipe, _wanted())
                self.assertEqual((told.scale, told.seconds), (scale, by_px + fixed))

    def test_a_hasty_one_is_smaller_where_many_wait(self) -> None:
        """As large as all that wait can have in 0.45 s, and no smaller than an eighth; one that is not hasty is
        what was wanted."""
        for crowd, by_px, scale in (
            (0, 0.1, None),
            (19, 0.04, None),
            (19, 0.1, 1 / 2),
            (19, 0.7, 1 / 4),
            (0, 3.0, 1 / 2),
            (999, 3.0, 1 / 8),
        ):
            with (
                self.subTest(crowd=crowd, by_px=by_px),
                mock.patch.object(service, "cost_of", return_value=Cost(by_px, 0.0)),
                mock.patch.object(service, "thread_count", return_value=2),
                mock.patch.object(self.preview._turns, "crowd", return_value=crowd),
            ):
                recipe = read_recipe(small_recipe(seed=round(100 * by_px) + crowd))
                found = self.preview.look("1/bench", 1, recipe, _wanted(), hasty=True)
                self.assertEqual(found.scale, scale)
                assert found.shown is not None
                wide = Image.open(BytesIO(found.shown.jpeg)).size[0]
                self.assertEqual(wide, 64 * (scale or 1))
                self.assertEqual(self.preview.picture(found.address, "1/bench", 1), found.shown)
                whole = self.preview.look("1/bench", 1, recipe, _wanted())
                self.assertIsNone(whole.scale)
                again = self.preview.look("1/bench", 1, recipe, _wanted(), hasty=True)
                self.assertEqual(again, whole, "what is known is as large as it was wanted")

    def test_a_hasty_one_is_as_large_as_is_in_time_once_it_is_its_turn(self) -> None:
        """Many may have come since it was asked for."""
        found: list[Any] = []

        def look() -> None:
            found.append(self.preview.look("1/bench", 1, self.recipe, _wanted(), hasty=True))

        turns = self.preview._turns
        with (
            mock.patch.object(service, "cost_of", return_value=Cost(0.1, 0.0)),
            mock.patch.object(service, "thread_count", return_value=2),
            mock.patch.object(turns, "_at_once", 1),
            mock.patch.object(turns, "crowd", return_value=0) as crowd,
        ):
            asking = threading.Thread(target=look)
            with turns.turn(AT_ONCE):
                asking.start()
                end = time.monotonic() + 10
                while not turns.waiting:
                    self.assertLess(time.monotonic(), end, "it does not wait")
                    time.sleep(0.001)
                crowd.return_value = 19
            asking.join()
        self.assertEqual(found[0].scale, 1 / 2)

    def test_one_who_plans_for_long_keeps_nobody(self) -> None:
        """One plans at a time, for as long as others have patience; those who come count among those who wait."""
        preview, going = self.preview, threading.Event()

        def plans(*_: Any) -> Any:
            going.set()
            time.sleep(1.5)
            raise PlanError("after long")

        def ask() -> None:
            with self.assertRaises(PlanError):
                preview.look("2/bench", 1, read_recipe(small_recipe(seed=9)), _wanted())

        with mock.patch.object(Wanted, "planned", plans):
            asking = threading.Thread(target=ask)
            asking.start()
            going.wait(5)
        self.assertEqual(preview._coming, 1)
        begun = time.monotonic()
        self.assertIsNotNone(preview.look("1/bench", 1, self.recipe, _wanted()).shown)
        self.assertTrue(asking.is_alive())
        self.assertGreater(time.monotonic() - begun, 0.2)
        asking.join()
        self.assertEqual(preview._coming, 0)
        self.assertFalse(preview._planner.locked())

    def test_older_work_stops_for_one_that_is_only_told(self) -> None:
        with mock.patch.object(service, "BUDGET_SECONDS", 0):
            self.preview.look("1/bench", 5, self.recipe, _wanted())
        with self.assertRaises(Stopped):
            self.preview.look("1/bench", 4, read_recipe(small_recipe(seed=8)), _wanted())

    def test_after_all_its_time_it_is_given_up_in_words(self) -> None:
        with (
            mock.patch.object(service, "MOST_SECONDS", -60.0),
            self.assertRaisesRegex(PlanError, "given up; a smaller one"),
        ):
            self.preview.look("1/bench", 1, self.recipe, _wanted())
        self.assertIsNotNone(self.preview.look("1/bench", 2, self.recipe, _wanted()).shown)

    def test_without_room_beside_others_it_is_made_alone(self) -> None:
        """Once more where somebody else's was under way; by itself it is told at once that there is none."""
        fails, turns = [NoRoom(), NoRoom()], self.preview._turns

        def short(*asked: Any) -> Any:
            if fails:
                raise fails.pop()
            return evaluate(*asked)

        with (
            mock.patch.object(service, "evaluate", short),
            mock.patch.object(turns, "_at_once", 2),
            self.assertRaises(NoRoom),
        ):
            self.preview.look("1/bench", 1, self.recipe, _wanted())
        self.assertEqual(len(fails), 1)
        found: list[Any] = []

        def look() -> None:
            found.append(self.preview.look("1/bench", 2, self.recipe, _wanted()))

        with (
            mock.patch.object(service, "evaluate", short),
            mock.patch.object(turns, "_at_once", 2),
        ):
            with turns.turn(AT_ONCE, "2"):
                looking = threading.Thread(target=look)
                looking.start()
                end = time.monotonic() + 10
                while not turns.waiting:
                    self.assertLess(time.monotonic(), end, "it does not wait to be alone")
                self.assertEqual((found, fails), ([], []))
            looking.join(10)
        self.assertIsNotNone(found[0].shown)

    def test_the_api_tells_what_it_would_take(self) -> None:
        client = client_of(person("Ada"))
        look = {
            "bench": "b", "order": 1, "recipe": small_recipe(seed=9),
            "picture": {"frame": 3, "scale": 1.0},
        }  # fmt: skip
        with mock.patch.object(service, "BUDGET_SECONDS", 0):
            answer = client.post("/api/v1/preview/look", look, content_type="application/json")
        self.assertEqual((answer.status_code, answer["X-Scale"]), (202, "0.5"))
        self.assertIn("X-Seconds", answer)
        self.assertNotIn("X-Share", answer)


class Held(TestCase):
    """Pictures are placed of a bounded number of recipes, so that an hour of dragging holds no more than a minute."""

    def test_of_the_oldest_recipe_all_go(self) -> None:
        placings = Placings()
        recipes = [read_recipe(small_recipe(seed=seed)) for seed in range(placed.MOST_RECIPES + 1)]
        for recipe in recipes[:-1]:
            for frame in (1, 2):
                placings.put("1/a", ("1", f"{recipe.seed} {frame}"), Placed(recipe, _wanted(frame)))
        placings.put("1/a", ("1", "0 1"), Placed(recipes[0], _wanted(1)))
        placings.put("1/a", ("1", "1 2"), Placed(recipes[2], _wanted(2)))
        self.assertEqual(len(placings), 2 * placed.MOST_RECIPES)
        placings.put("1/a", ("1", "last"), Placed(recipes[-1], _wanted(1)))
        self.assertIsNone(placings.get(("1", "1 1")), "it was the oldest")
        for key in ("0 1", "0 2", "1 2", "2 1", "3 1", "last"):
            self.assertIsNotNone(placings.get(("1", key)), key)
        self.assertIsNone(placings.get(("2", "last")), "somebody else's")

    def test_nobody_takes_the_place_of_others(self) -> None:
        """Of two benches, also of one person, the one with most recipes loses the oldest."""
        placings = Placings()
        recipes = [read_recipe(small_recipe(seed=seed)) for seed in range(placed.MOST_RECIPES + 1)]
        placings.put("1/modest", ("1", "only"), Placed(recipes[0], _wanted(1)))
        for recipe in recipes[1:]:
            placings.put("1/greedy", ("1", str(recipe.seed)), Placed(recipe, _wanted(1)))
        self.assertIsNotNone(placings.get(("1", "only")))
        self.assertIsNone(placings.get(("1", "1")))
        self.assertEqual(len(placings), placed.MOST_RECIPES)

    def test_no_more_than_there_may_be(self) -> None:
        """But of one recipe as many as are wanted."""
        placings = Placings()
        first, second = (read_recipe(small_recipe(seed=seed)) for seed in (1, 2))
        with mock.patch.object(placed, "MOST_PLACED", 10):
            for frame in range(8):
                placings.put("1/a", ("1", f"first {frame}"), Placed(first, _wanted(frame)))
            for frame in range(30):
                placings.put("1/a", ("1", f"second {frame}"), Placed(second, _wanted(frame)))
        self.assertEqual(len(placings), 30)
        for frame in range(30):
            self.assertIsNotNone(placings.get(("1", f"second {frame}")))
        with mock.patch.object(placed, "MOST_PLACED", 10):
            for frame in range(30):
                placings.put("2/a", ("2", f"third {frame}"), Placed(first, _wanted(frame)))
        self.assertEqual(len(placings), 30, "what is being placed stays, and what was there goes")
        self.assertIsNotNone(placings.get(("2", "third 0")))


class Addresses(TestCase):
    def setUp(self) -> None:
        self.preview = Preview()

    def _address(self, recipe: dict[str, Any], want: Wanted) -> str:
        return self.preview.place("bench", 1, read_recipe(recipe), [want])[0]

    def test_made_of_content(self) -> None:
        """Another name or a layer that is off changes no picture; anything seen does."""
        same = self._address(small_recipe(), _wanted())
        off = [*small_recipe()["layers"], small_recipe()["layers"][0] | {"id": "b", "on": False}]
        self.assertEqual(self._address(small_recipe(name="Other"), _wanted()), same)
        self.assertEqual(self._address(small_recipe(layers=off), _wanted()), same)
        others = {
            self._address(small_recipe(seed=3), _wanted()),
            self._address(small_recipe(), _wanted(2)),
            self._address(small_recipe(), _wanted(background="grey")),
            self._address(small_recipe(), _wanted(channel="cover")),
            self._address(small_recipe(), Wanted(1, 0.5, None, View(), None)),
            self._address(small_recipe(), Wanted(1, 1.0, "a", View(), None)),
        }
        self.assertEqual(len(others - {same}), 6)

    def test_pictures_kept_take_no_more_than_they_may(self) -> None:
        """The oldest pictures go once all together are too large; they are made again when asked for."""
        wanted = [_wanted(frame) for frame in range(1, 9)]
        addresses = self.preview.place("bench", 1, read_recipe(small_recipe()), wanted)
        sizes = [len(self.preview.picture(address, "bench", 1).jpeg) for address in addresses]
        room = sizes[-1] + sizes[-2] + 1
        fresh = Preview()
        with mock.patch.object(service, "MOST_PICTURE_BYTES", room):
            for address in fresh.place("bench", 1, read_recipe(small_recipe()), wanted):
                fresh.picture(address, "bench", 1)
                held = sum(len(shown.jpeg) for shown in fresh._encoded.values())
                self.assertLessEqual(held, room)
            self.assertEqual(list(fresh._encoded), addresses[-2:], "the newest stay")
            again = fresh.picture(addresses[0], "bench", 1)
        self.assertEqual(len(again.jpeg), sizes[0])

    def test_unknown(self) -> None:
        with self.assertRaises(Unplaced):
            self.preview.picture("nowhere", "bench", 1)

    def test_older_work_stops(self) -> None:
        """Once a bench has asked for something newer, its older request is not computed."""
        address = self._address(small_recipe(), _wanted())
        self.preview.place("bench", 2, read_recipe(small_recipe(seed=2)), [_wanted()])
        with self.assertRaises(Stopped):
            self.preview.picture(address, "bench", 1)
        self.assertTrue(self.preview.picture(address, "bench", 2))
        self.assertTrue(self.preview.picture(address, "bench", 1), "what is known is given at once")

    def test_a_look_stops_what_is_older(self) -> None:
        """A look is newer than what was placed before it, and older than what is placed after it."""
        address = self._address(small_recipe(), _wanted())
        self.preview.look("bench", 2, read_recipe(small_recipe(seed=2)), _wanted())
        with self.assertRaises(Stopped):
            self.preview.picture(address, "bench", 1)
        with self.assertRaises(Stopped):
            self.preview.look("bench", 1, read_recipe(small_recipe(seed=3)), _wanted())

    def test_older_work_stops_while_it_runs(self) -> None:
        """A request under way gives up between two nodes when a newer one comes."""
        steps = [{"kind": "glow", "id": "glow"}]
        layers = [small_recipe()["layers"][0] | {"steps": steps}]
        address = self._address(small_recipe(layers=layers), _wanted())
        begun, go_on = threading.Event(), threading.Event()
        outcome: list[object] = []

        def evaluate(*what: Any) -> object:
            begun.set()
            go_on.wait(10)
            return real(*what)

        def fetch() -> None:
            try:
                outcome.append(self.preview.picture(address, "bench", 1))
            except Stopped as stopped:
                outcome.append(stopped)

        patched = mock.patch.object(service, "evaluate", evaluate)
        real = patched.get_original()[0]
        patched.start()
        self.addCleanup(patched.stop)
        thread = threading.Thread(target=fetch)
        thread.start()
        begun.wait(10)
        self.preview.place("bench", 2, read_recipe(small_recipe()), [])
        go_on.set()
        thread.join(10)
        self.assertIsInstance(outcome[0], Stopped)

    def test_other_benches_go_on(self) -> None:
        address = self._address(small_recipe(), _wanted())
        self.preview.place("another", 9, read_recipe(small_recipe()), [])
        self.assertTrue(self.preview.picture(address, "bench", 1))


class Waiting(TestCase):
    """Where states are gone through before a picture, another frame stands in, and one who looks again gets on."""

    def setUp(self) -> None:
        patched = mock.patch.object(service, "lasting_states", return_value=None)
        patched.start()
        self.addCleanup(patched.stop)
        self.preview = Preview()
        source = {"kind": "ripples", "width": 60, "height": 32, "at": [32, 18], "detail": 32, "preroll": 0.2, "comes_as": "light", "drops": 40, "drop": 8}  # fmt: skip
        layer = {"id": "pond", "name": "Pond", "source": source}
        self.recipe = read_recipe(small_recipe(layers=[layer]))
        self.want = _wanted(9)

    def looks(self, seconds: float) -> list[service.Looked]:
        """What is seen until the picture itself is."""
        found: list[service.Looked] = []
        with mock.patch.object(service, "PATIENCE_SECONDS", seconds):
            while not found or not found[-1].address:
                found.append(self.preview.look("1/bench", len(found), self.recipe, self.want))
                self.assertLess(len(found), 100)
        return found

    def test_it_gets_on_until_it_is_there(self) -> None:
        """With no patience at all each look goes one state farther; what stands in is the picture of that frame's
        state, from before the first frame on, and at last it is what one who waits gets."""
        found = self.looks(0.0)
        shares = [each.share for each in found]
        self.assertEqual(shares, sorted(shares))
        standing = [each for each in found[:-1] if each.stands_in is not None]
        self.assertEqual(sorted({each.stands_in or 0 for each in standing}), list(range(-4, 9)))
        standing = [each for each in standing if (each.stands_in or 0) >= 1]
        patient = Preview()
        for each in standing:
            assert each.shown is not None and each.stands_in is not None
            alike = patient.look("1/bench", 1, self.recipe, _wanted(each.stands_in))
            assert alike.shown is not None
            self.assertEqual(each.shown.jpeg, alike.shown.jpeg)
        last = patient.look("1/bench", 1, self.recipe, self.want)
        assert last.shown is not None and found[-1].shown is not None
        self.assertEqual(found[-1].shown.jpeg, last.shown.jpeg)
        self.assertEqual(found[-1].address, last.address)

    def test_planned_once(self) -> None:
        """One who looks again goes on with what was planned, and one who wants something else does not."""
        real = Wanted.planned
        with mock.patch.object(Wanted, "planned", autospec=True, side_effect=real) as planned:
            self.looks(0.0)
            self.assertEqual(planned.call_count, 1)
            with mock.patch.object(service, "PATIENCE_SECONDS", 0.0):
                fresh = self.recipe.model_copy(update={"seed": 76})
                self.preview.look("1/bench", 100, fresh, _wanted(10))
                self.preview.look("1/bench", 101, fresh, _wanted(8))
                other = self.recipe.model_copy(update={"seed": 77})
                self.preview.look("1/bench", 102, other, _wanted(8))
            self.assertEqual(planned.call_count, 4)
        self.assertLessEqual(len(self.preview._waiting), 1)

    def test_one_look_is_enough_where_there_is_time(self) -> None:
        [only] = self.looks(60.0)
        self.assertEqual((only.stands_in, only.share), (None, 1.0))

    def test_what_has_no_memory_is_waited_for(self) -> None:
        self.recipe = read_recipe(small_recipe())
        self.assertEqual(len(self.looks(0.0)), 1)

    def test_what_is_known_waits_for_nothing(self) -> None:
        self.looks(60.0)
        self.preview._encoded.clear()
        self.want = _wanted(9, background="grey")
        self.assertEqual(len(self.looks(0.0)), 1)

    def test_older_work_still_stops(self) -> None:
        self.preview.place("1/bench", 5, self.recipe, [])
        with mock.patch.object(service, "PATIENCE_SECONDS", 0.0), self.assertRaises(Stopped):
            self.preview.look("1/bench", 4, self.recipe, self.want)

    def test_told(self) -> None:
        """Over HTTP: nothing yet, then what stands in, marked as that, and the frames that are known."""
        client = client_of(person("ada"))
        body = {"bench": "c", "order": 1, "recipe": self.recipe.model_dump(mode="json"), "picture": {"frame": 9, "scale": 1}}  # fmt: skip
        fresh = Preview()
        with (
            mock.patch("handful.studio.preview.api.preview", fresh),
            mock.patch.object(service, "PATIENCE_SECONDS", 0.0),
        ):
            answers = [client.call("POST", "/preview/look", body) for _ in range(40)]
            unsaved = {"recipe": body["recipe"]}
            _, told = client.call("POST", "/preview/remembered", unsaved)
            still = {"recipe": small_recipe()}
            _, none = client.call("POST", "/preview/remembered", still)
        self.assertIn(answers[0][0], (200, 202))
        status, last = answers[-1]
        self.assertEqual(status, 200)
        self.assertNotIn("X-Stands-In", last.headers)
        standing = [each for _, each in answers if "X-Stands-In" in each.headers]
        self.assertEqual({int(each.headers["X-Stands-In"]) for each in standing}, set(range(-4, 9)))
        for each in standing:
            self.assertNotIn("X-Address", each.headers)
            self.assertIn("no-store", each.headers["Cache-Control"])
        self.assertEqual((told["has_memory"], [f for f in told["frames"] if f > 0]), (True, list(range(1, 10))))  # fmt: skip
        self.assertEqual(none, {"has_memory": False, "frames": []})


class Answers(TestCase):
    def setUp(self) -> None:
        self.root = use_temporary_folders(self)
        self.ada = person("Ada")
        self.shot = shot_of(self.ada)
        self.client_ada = client_of(self.ada)

    def _place(
        self, recipe: dict[str, Any] | None = None, **look: Any
    ) -> tuple[int, dict[str, Any]]:
        body = {
            "bench": "b",
            "order": 1,
            "shot": str(self.shot.id),
            "recipe": recipe or small_recipe(),
            "pictures": [{"frame": 1, "scale": 1} | look],
        }
        return self.client_ada.call("POST", "/preview", body)

    def _picture(self, **look: Any) -> np.ndarray:
        [address] = self._place(**look)[1]["addresses"]
        response = self.client_ada.get(f"/api/v1/preview/{address}.jpg")
        self.assertEqual(response.status_code, 200)
        with Image.open(BytesIO(response.content)) as image:
            return np.asarray(image).astype(int)

    def test_picture_of_an_unsaved_recipe(self) -> None:
        """A picture in the size asked for, to be kept for ever, on the background asked for."""
        [address] = self._place(small_recipe(seed=77), scale=0.5)[1]["addresses"]
        response = self.client_ada.get(f"/api/v1/preview/{address}.jpg")
        self.assertEqual(response.headers["Content-Type"], "image/jpeg")
        self.assertIn("immutable", response.headers["Cache-Control"])
        with Image.open(BytesIO(response.content)) as image:
            self.assertEqual(image.size, (32, 18))
        self.assertLess(self._picture()[30, 5].max(), 30)
        self.assertGreater(self._picture(background="grey")[30, 5].min(), 80)

    def test_plate_lies_behind(self) -> None:
        lay_red_plate(self.shot, Path(self.root))
        corner = self._picture(background="plate", frame=9)[33, 2]
        np.testing.assert_allclose(corner, (200, 40, 40), atol=6)
        (Path(self.root) / "media" / "p" / "dusk.0001.jpg").unlink()
        self.assertLess(self._picture(background="plate", frame=9)[33, 2].max(), 12)

    def test_plate_is_bent(self) -> None:
        """What bends, bends the plate that lies behind: each strength is another picture at another
        address; over black there is nothing to bend."""
        folder = Path(self.root) / "media" / "p"
        lay_red_plate(self.shot, Path(self.root))
        striped = np.zeros((36, 64, 3), np.uint8)
        striped[:, ::8] = striped[:, 1::8] = 220
        Image.fromarray(striped).save(folder / "dusk.0001.jpg", quality=98)
        found = {}
        for amount in (0, 8):
            body = {
                "bench": "b",
                "order": 1,
                "shot": str(self.shot.id),
                "recipe": bending_recipe(amount),
            }
            for background in ("plate", "black"):
                look = {"frame": 6, "scale": 1, "background": background}
                answer = self.client_ada.call("POST", "/preview/look", body | {"picture": look})[1]
                with Image.open(BytesIO(answer.content)) as image:
                    picture = np.asarray(image).astype(int)
                found[amount, background] = (answer.headers["X-Address"], picture)
        self.assertNotEqual(found[0, "plate"][0], found[8, "plate"][0])
        changed = np.abs(found[0, "plate"][1] - found[8, "plate"][1])
        self.assertGreater(changed[12:24, 20:44].mean(), 8)
        self.assertLess(changed[:, :2].mean(), 4)
        for amount in (0, 8):
            self.assertLess(found[amount, "black"][1].max(), 12)

    def test_plate_as_a_layer(self) -> None:
        """It is in the picture whatever lies behind, and under the pointer, of one's own shot only."""
        lay_red_plate(self.shot, Path(self.root))
        recipe = plated_recipe()
        own = {"bench": "b", "order": 1, "shot": str(self.shot.id), "recipe": recipe}
        look = {"frame": 9, "scale": 1, "background": "black"}
        for of, red in ((own, 200), (own | {"shot": None}, 0)):
            answer = self.client_ada.call("POST", "/preview/look", of | {"picture": look})[1]
            with Image.open(BytesIO(answer.content)) as image:
                self.assertAlmostEqual(np.asarray(image)[20, 20, 0], red, delta=5)
        px = {"recipe": recipe, "frame": 9, "scale": 1, "x": 20, "y": 20, "shot": own["shot"]}
        found = self.client_ada.call("POST", "/preview/px", px)[1]
        self.assertAlmostEqual(found["light"][0], ((200 / 255 + 0.055) / 1.055) ** 2.4, delta=0.02)
        bare = self.client_ada.call("POST", "/preview/px", px | {"shot": None})[1]
        self.assertEqual(bare["cover"], 0)
        other = client_of(person("other"))
        self.assertEqual(other.call("POST", "/preview/px", px)[0], 404)
        self.assertEqual(other.call("POST", "/preview/look", own | {"picture": look})[0], 404)

    def test_refusals(self) -> None:
        self.assertEqual(self._place({"version": 3})[0], 422)
        self.assertEqual(self._place(frame=99)[0], 422)
        self.assertEqual(self._place(layer="nobody")[0], 422)
        self.assertEqual(self._place(scale=7)[0], 422)
        self.assertEqual(self._place(background="pink")[0], 422)
        self.assertEqual(self.client_ada.get("/api/v1/preview/feed.jpg").status_code, 404)

    def test_an_address_is_for_whoever_placed_it(self) -> None:
        """Nobody else gets the picture by its address, computed or not, until they place the same recipe."""
        [address] = self._place(small_recipe(seed=77))[1]["addresses"]
        headers = {"X-Bench": "b", "X-Order": "1"}
        other = client_of(person("other"))
        path = f"/api/v1/preview/{address}.jpg"
        for _ in ("placed", "computed"):
            self.assertEqual(other.get(path, headers=headers).status_code, 404)
            self.assertEqual(self.client_ada.get(path, headers=headers).status_code, 200)
        look = {"frame": 1, "scale": 1.0}
        body = {"bench": "b", "order": 1, "recipe": small_recipe(seed=77), "pictures": [look]}
        placed = other.call("POST", "/preview", body)[1]["addresses"][0]
        self.assertEqual(
            other.get(f"/api/v1/preview/{placed}.jpg", headers=headers).status_code, 200
        )

    def test_superseded_is_nothing_to_show(self) -> None:
        [address] = self._place(small_recipe(seed=123))[1]["addresses"]
        body = {"bench": "b", "order": 5, "recipe": small_recipe(), "pictures": []}
        self.client_ada.call("POST", "/preview", body)
        headers = {"X-Bench": "b", "X-Order": "1"}
        response = self.client_ada.get(f"/api/v1/preview/{address}.jpg", headers=headers)
        self.assertEqual((response.status_code, response.content), (204, b""))

    def test_thumbnail(self) -> None:
        """A shot's picture, not sent again while nothing changed."""
        path = f"/api/v1/preview/thumbnails/{self.shot.id}.jpg"
        first = self.client_ada.get(path)
        self.assertEqual(first.status_code, 200)
        mark = {"If-None-Match": first.headers["ETag"]}
        self.assertEqual(self.client_ada.get(path, headers=mark).status_code, 304)
        self.assertEqual(self.client_ada.get(f"{path}?frame=10", headers=mark).status_code, 200)

    def test_a_kept_thumbnail_outlives_the_server(self) -> None:
        """Made once, it is read from disk by a server that knows nothing yet; and the last one there
        was is told at once, also of an earlier revision."""
        path = f"/api/v1/preview/thumbnails/{self.shot.id}.jpg"
        self.assertEqual(self.client_ada.get(f"{path}?last").status_code, 204)
        first = self.client_ada.get(path).content
        with mock.patch.object(Preview, "picture", side_effect=AssertionError("made again")):
            self.assertEqual(self.client_ada.get(path).content, first)
            self.assertEqual(self.client_ada.get(f"{path}?last").content, first)
        save_recipe(self.ada, self.shot.id, 1, small_recipe(seed=77))
        self.assertEqual(self.client_ada.get(f"{path}?last").content, first)
        self.assertNotEqual(self.client_ada.get(path).content, first)
        self.assertEqual(client_of(person("Boris")).get(f"{path}?last").status_code, 404)

    def test_looked_at_alone(self) -> None:
        """Other layers are not in the picture; the recipe, and what is saved, stay as they are."""
        layer = small_recipe()["layers"][0]
        other = layer | {"id": "b", "name": "B", "source": layer["source"] | {"seed": 9}}
        both = small_recipe(layers=[layer, other])
        looks = {"bench": "b", "order": 1, "pictures": [{"frame": 1, "scale": 1}]}
        [whole], [alone], [only] = (
            self.client_ada.call("POST", "/preview", looks | more)[1]["addresses"]
            for more in (
                {"recipe": both}, {"recipe": both, "alone": ["b"]}, {"recipe": small_recipe(layers=[other])}
            )
        )  # fmt: skip
        self.assertEqual(alone, only)
        self.assertNotEqual(alone, whole)

    def test_curves(self) -> None:
        """What moves in a layer, frame by frame, of a recipe that was never saved."""
        recipe = small_recipe()
        recipe["layers"][0]["source"]["width"] = {"moves": "rate", "start": 1, "per_second": 25}
        body = {"recipe": recipe, "layer": "a"}
        status, lines = self.client_ada.call("POST", "/preview/curves", body)
        self.assertEqual(status, 200)
        width = next(line for line in lines if line["where"][-1] == "width")
        self.assertEqual(width["values"][:3], [[1], [2], [3]])
        self.assertEqual(len(width["frames"]), 10)
        status, answer = self.client_ada.call("POST", "/preview/curves", body | {"layer": "none"})
        self.assertEqual((status, bool(answer["says"])), (422, True))

    def test_px(self) -> None:
        """Linear light beyond white, cover and stops on the strike; nothing beside it."""
        recipe = small_recipe()
        recipe["layers"][0]["source"] |= {"wander": 0, "branches": 0, "width": 8, "edge_width": 1}
        ends = {"start": [0, 18], "end": [64, 18]}
        recipe["layers"][0]["source"] |= ends
        hit = {"recipe": recipe, "frame": 3, "scale": 0.5, "x": 32, "y": 18}
        status, on = self.client_ada.call("POST", "/preview/px", hit)
        self.assertEqual(status, 200)
        self.assertGreater(min(on["light"]), 2)
        self.assertAlmostEqual(on["cover"], 1, delta=0.01)
        self.assertGreater(on["stops"], 1)
        _, off = self.client_ada.call("POST", "/preview/px", hit | {"y": 0})
        self.assertEqual((off["light"], off["cover"], off["stops"]), ([0, 0, 0], 0, None))
        self.assertEqual(self.client_ada.call("POST", "/preview/px", hit | {"x": -1})[0], 422)
        wide = recipe | {"canvas": recipe["canvas"] | {"overscan": 8}}
        beyond = hit | {"recipe": wide, "x": -8}
        self.assertEqual(self.client_ada.call("POST", "/preview/px", beyond)[0], 200)

    def test_a_picture_at_once(self) -> None:
        """The JPEG in one go, at the address under which it can be had again; warned of in headers."""
        recipe = small_recipe(seed=5)
        look = {"frame": 3, "scale": 1, "background": "black"}
        body = {
            "bench": "c",
            "order": 1,
            "shot": str(self.shot.id),
            "recipe": recipe,
            "picture": look,
        }
        status, response = self.client_ada.call("POST", "/preview/look", body)
        self.assertEqual(status, 200)
        address = response.headers["X-Address"]
        again = self.client_ada.get(f"/api/v1/preview/{address}.jpg")
        self.assertEqual(again.content, response.content)
        for each in (response, again):
            self.assertGreater(float(each.headers["X-Clipped"]), 0)
            self.assertGreater(float(each.headers["X-Above"]), 0)
        edge = small_recipe()
        edge["layers"][0]["source"] |= {"start": [0, 18], "branches": 0, "wander": 0}
        _, touching = self.client_ada.call("POST", "/preview/look", body | {"recipe": edge})
        self.assertIn("left", touching.headers["X-Edges"])

    def test_somebody_elses_shot(self) -> None:
        """A picture over another person's plate is not made, whether there is a plate or not."""
        bare, plated = shot_of(person("bare")), shot_of(person("plated"))
        lay_plate(plated.id, "harbour", "plates", 1, 10)
        look = {"frame": 3, "scale": 1, "background": "plate"}
        for shot in (bare, plated):
            body = {"bench": "c", "order": 1, "shot": str(shot.id), "recipe": small_recipe()}
            for path, wanted in (
                ("/preview/look", {"picture": look}),
                ("/preview", {"pictures": [look]}),
            ):
                self.assertEqual(self.client_ada.call("POST", path, body | wanted)[0], 404)

    def test_a_step_tried(self) -> None:
        """A picture with a step that the recipe does not have is another one; unknown ones are told."""
        plain, blurred, again = (
            self._place(small_recipe(), layer="a", **more)[1]["addresses"][0]
            for more in ({}, {"step": "blur"}, {"step": "blur"})
        )
        self.assertNotEqual(plain, blurred)
        self.assertEqual(blurred, again)
        self.assertEqual(self._place(small_recipe(), layer="a", step="melt")[0], 422)
        self.assertEqual(self._place(small_recipe(), layer="b", step="blur")[0], 422)

    def test_places(self) -> None:
        """Where points and shapes are at a frame: what moves as the engine has it."""
        recipe = small_recipe(
            points=[{"name": "p", "at": {"moves": "rate", "start": [0, 0], "per_second": [25, 0]}}]
        )
        recipe["layers"][0]["source"]["start"] = {"moves": "follow", "point": "p", "offset": [1, 2]}
        recipe["layers"][0]["limits"] = [{"kind": "ellipse", "width": 20}]
        body = {"recipe": recipe, "frame": 5, "layer": "a"}
        status, found = self.client_ada.call("POST", "/preview/places", body)
        self.assertEqual(status, 200)
        self.assertEqual(found["points"], {"p": [4, 0]})
        self.assertEqual(found["nodes"]["source"]["start"], [5, 2])
        self.assertEqual(found["nodes"]["limits/0"]["width"], 20)
        self.assertEqual(
            self.client_ada.call("POST", "/preview/places", body | {"layer": "b"})[0], 422
        )

    def test_a_seam(self) -> None:
        """A layer that is there at the end and not at the beginning makes one; a loop mends it."""
        recipe = small_recipe()
        recipe["layers"][0]["first"] = 6
        for loop, holds in ((0, False), (5, True)):
            body = {"recipe": recipe | {"loop": loop}}
            status, seam = self.client_ada.call("POST", "/preview/seam", body)
            self.assertEqual((status, seam["holds"]), (200, holds), seam)
