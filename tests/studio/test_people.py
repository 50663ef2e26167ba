"""Signing in and out."""

from unittest import mock

from django.test import Client, TestCase

from handful.studio.people import api as people_api
from handful.studio.people.attempts import Attempts
from handful.studio.people.service import demo_artist
from tests.studio.base import client_of, person


class SigningIn(TestCase):
    def setUp(self) -> None:
        self.ada = person("Ada", "brackish water")

    def test_with_password(self) -> None:
        client = client_of()
        credentials = {"name": "Ada", "password": "brackish water"}
        status, answer = client.call("POST", "/people/sign-in", credentials)
        self.assertEqual((status, answer["name"]), (200, "Ada"))
        self.assertEqual(client.call("GET", "/people/me")[1]["name"], "Ada")
        self.assertEqual(client.call("POST", "/people/sign-out")[0], 200)
        self.assertIsNone(client.call("GET", "/people/me")[1]["name"])

    def test_wrong_password(self) -> None:
        credentials = {"name": "Ada", "password": "fresh water"}
        status, answer = client_of().call("POST", "/people/sign-in", credentials)
        self.assertEqual(status, 403)
        self.assertIn("do not go together", answer["says"])

    def test_who_guesses_waits(self) -> None:
        """After a few attempts that failed the next has to wait, also with the right password; whoever comes
        from elsewhere does not."""
        wrong = {"name": "Ada", "password": "fresh water"}
        right = {"name": "ADA".title(), "password": "brackish water"}
        own = Attempts()
        with mock.patch.object(people_api, "attempts", own):
            client = client_of()
            statuses = [client.call("POST", "/people/sign-in", wrong)[0] for _ in range(7)]
            self.assertEqual(statuses, [403] * 5 + [429] * 2)
            status, answer = client.call("POST", "/people/sign-in", right)
            self.assertEqual(status, 429)
            self.assertRegex(answer["says"], r"Try again in \d+ s")
            elsewhere = client_of()
            elsewhere.defaults["REMOTE_ADDR"] = "192.0.2.7"
            self.assertEqual(elsewhere.call("POST", "/people/sign-in", right)[0], 200)

    def test_the_wait_grows_and_is_forgotten(self) -> None:
        """2, 4, 8 … s up to five minutes; forgotten a quarter of an hour later, or once it goes well. Many names
        from one address wait together."""
        now = [0.0]
        own = Attempts(lambda: now[0])
        waits = []
        for _ in range(14):
            own.failed("Ada", "192.0.2.1")
            waits.append(own.wait("ada", "192.0.2.1"))
        self.assertEqual(waits[:8], [0, 0, 0, 0, 2, 4, 8, 16])
        self.assertEqual(waits[-1], 300)
        self.assertEqual(own.wait("Ada", "192.0.2.2"), 0)
        self.assertEqual(own.wait("Grace", "192.0.2.1"), 0)
        now[0] = 299.0
        self.assertEqual(own.wait("Ada", "192.0.2.1"), 1)
        now[0] = 1300.0
        self.assertEqual(own.wait("Ada", "192.0.2.1"), 0)
        for i in range(60):
            own.failed(f"name {i}", "192.0.2.3")
        self.assertGreater(own.wait("Ada", "192.0.2.3"), 0)
        own.failed("Ada", "192.0.2.4")
        own.succeeded("Ada", "192.0.2.4")
        for _ in range(4):
            own.failed("Ada", "192.0.2.4")
        self.assertEqual(own.wait("Ada", "192.0.2.4"), 0)

    def test_hashing_is_for_a_few_at_once(self) -> None:
        own = Attempts()
        with (
            mock.patch("handful.studio.people.attempts.PATIENCE_SECONDS", 0.01),
            own.turn(),
            own.turn(),
        ):
            with own.turn() as got:
                self.assertFalse(got)
        with own.turn() as got:
            self.assertTrue(got)

    def test_demo_artist_only_in_demo_mode(self) -> None:
        with self.settings(DEMO=False):
            client = client_of()
            self.assertFalse(client.call("GET", "/people/me")[1]["demo"])
            self.assertEqual(client.call("POST", "/people/continue-as-demo-artist")[0], 403)
            self.assertIsNone(client.call("GET", "/people/me")[1]["name"])
        with self.settings(DEMO=True):
            client = client_of()
            self.assertTrue(client.call("GET", "/people/me")[1]["demo"])
            self.assertEqual(client.call("POST", "/people/continue-as-demo-artist")[0], 200)
            self.assertEqual(client.call("GET", "/people/me")[1]["name"], "Demo artist")

    def test_nobody_signs_in_as_the_demo_artist_with_a_password(self) -> None:
        """From when it is made it has none, and not even an empty one."""
        self.assertFalse(demo_artist().has_usable_password())
        self.assertTrue(demo_artist().password.startswith("!"))

    def test_another_site_cannot_sign_anyone_in(self) -> None:
        strict = Client(enforce_csrf_checks=True)
        for path in ("sign-in", "continue-as-demo-artist"):
            body = {"name": "Ada", "password": "brackish water"}
            answer = strict.post(f"/api/v1/people/{path}", body, content_type="application/json")
            self.assertEqual(answer.status_code, 403, path)

    def test_everything_else_needs_signing_in(self) -> None:
        nobody = client_of()
        some_id = "00000000-0000-0000-0000-000000000000"
        for method, path in (
            ("GET", "/shots"), ("POST", "/shots"), ("GET", f"/shots/{some_id}"),
            ("PUT", f"/shots/{some_id}"), ("DELETE", f"/shots/{some_id}"),
            ("POST", f"/shots/{some_id}/duplicate"), ("POST", f"/shots/{some_id}/restore"),
            ("POST", "/preview"), ("GET", "/preview/abc.jpg"),
            ("GET", f"/preview/thumbnails/{some_id}.jpg"),
            ("GET", "/renders"), ("POST", "/renders"), ("GET", f"/renders/{some_id}"),
            ("POST", f"/renders/{some_id}/cancel"), ("POST", f"/renders/{some_id}/retry"),
            ("GET", f"/renders/{some_id}/frames.zip"), ("GET", f"/renders/{some_id}/1.jpg"),
            ("GET", f"/renders/{some_id}/1.file"), ("POST", "/people/sign-out"),
        ):  # fmt: skip
            self.assertEqual(nobody.call(method, path)[0], 401, f"{method} {path}")
