"""Whether it is ready, what it counts, and what stands in every answer."""

import json
import os
import re
import tempfile
from pathlib import Path
from unittest import mock

from django.core.management import call_command
from django.db import OperationalError, connection
from django.test import TestCase, override_settings

from handful.studio.renders.models import Render
from handful.studio.renders.service import order_render
from tests.studio.base import client_of, person, shot_of, use_temporary_folders

LINE = re.compile(r'[a-z_]+(\{([a-z]+="[^"\\]*",?)+\})? [0-9.e+-]+\Z')
"""A sample in the text format of Prometheus, version 0.0.4."""


class Watching(TestCase):
    def setUp(self) -> None:
        use_temporary_folders(self)

    def test_ready(self) -> None:
        """Whether the database answers, and how much there is to do."""
        shot = shot_of(person("Ada"))
        for _ in range(3):
            order_render(shot.owner, shot.id, 1, 2, 1.0, "exr")
        Render.objects.filter(id=Render.objects.first().id).update(state="running")  # type: ignore[union-attr]
        status, answer = client_of().call("GET", "/ready")
        self.assertEqual(status, 200)
        self.assertEqual(
            answer,
            {"ready": True, "database": True, "workers": 0, "waiting": 2, "running": 1}
            | {"compiling": None},
        )
        with connection.cursor() as cursor:
            cursor.execute("SELECT procrastinate_register_worker_v1()")
        self.assertEqual(client_of().call("GET", "/ready")[1]["workers"], 1)

    def test_how_much_is_compiled(self) -> None:
        """While whoever compiles says so; what is half written is not told."""
        with tempfile.TemporaryDirectory() as folder:
            told = Path(folder) / "compiling"
            with override_settings(COMPILING=told):
                for text, share in (("0.345", 0.345), ("", None), ("no number", None)):
                    told.write_text(text)
                    self.assertEqual(client_of().call("GET", "/ready")[1]["compiling"], share)

    def test_not_ready_without_a_database(self) -> None:
        gone = OperationalError("gone")
        with (
            mock.patch("handful.studio.watch.api.connection.cursor", side_effect=gone),
            mock.patch("handful.studio.watch.api.connection.close"),
        ):
            status, answer = client_of().call("GET", "/ready")
        self.assertEqual(status, 503)
        none = {"ready": False, "database": False, "workers": 0, "waiting": 0, "running": 0} | {
            "compiling": None
        }
        self.assertEqual(answer, none)

    def test_nothing_to_do(self) -> None:
        _, answer = client_of().call("GET", "/ready")
        self.assertEqual((answer["waiting"], answer["running"]), (0, 0))
        self.assertEqual(client_of().call("GET", "/alive")[0], 200)

    def test_metrics(self) -> None:
        """Each line is a sample or a comment by the format; a request that was made is counted, in no bucket
        that is shorter than it took."""
        client = client_of()
        client.get("/api/v1/shots/00000000-0000-0000-0000-000000000000")
        before = client.get("/api/v1/metrics").content.decode()
        client.get("/api/v1/shots/11111111-0000-0000-0000-000000000000")
        answer = client.get("/api/v1/metrics")
        self.assertTrue(answer.headers["Content-Type"].startswith("text/plain; version=0.0.4"))
        lines = answer.content.decode().splitlines()
        for line in lines:
            self.assertTrue(line.startswith("# TYPE ") or LINE.match(line), line)

        def count(text: str) -> int:
            about = 'method="GET",route="api/v1/shots/<shot_id>",status="401"'
            found = re.search(r"handful_request_seconds_count\{" + about + r"\} (\d+)", text)
            assert found is not None, text
            return int(found[1])

        self.assertEqual(count("\n".join(lines)) - count(before), 1)

    def test_an_id_for_each_request(self) -> None:
        """Its own, if that is one, or a new one; it stands in the answer and in its line of the log."""
        client = client_of()
        with self.assertLogs("handful.requests", "INFO") as logged:
            answer = client.get("/api/v1/alive", headers={"X-Request-ID": "abc-1"})
        self.assertEqual(answer.headers["X-Request-ID"], "abc-1")
        line = json.loads(logged.records[0].getMessage())
        self.assertEqual(
            (line["id"], line["status"], line["path"]), ("abc-1", 200, "/api/v1/alive")
        )
        made = client.get("/api/v1/alive", headers={"X-Request-ID": "a b\tc"}).headers[
            "X-Request-ID"
        ]
        self.assertRegex(made, r"^[0-9a-f]{32}$")

    def test_what_a_page_may_do(self) -> None:
        """Nothing is loaded from elsewhere or run from within the page, and no page frames it."""
        for path in ("/", "/api/v1/alive"):
            headers = client_of().get(path).headers
            self.assertIn("script-src 'self';", headers["Content-Security-Policy"])
            self.assertNotIn("unsafe-eval", headers["Content-Security-Policy"])
            self.assertEqual(headers["X-Frame-Options"], "DENY")
            self.assertEqual(headers["Referrer-Policy"], "same-origin")
            self.assertIn("camera=()", headers["Permissions-Policy"])
            self.assertEqual(headers["X-Content-Type-Options"], "nosniff")

    def test_behind_tls(self) -> None:
        """What comes by plain HTTP is sent on; what a proxy says came by TLS is answered, with HSTS."""
        secure = override_settings(
            SECURE_SSL_REDIRECT=True, SECURE_PROXY_SSL_HEADER=("HTTP_X_FORWARDED_PROTO", "https"),
            SECURE_HSTS_SECONDS=3600, SECURE_REDIRECT_EXEMPT=[r"^api/v1/(alive|ready|metrics)$"],
        )  # fmt: skip
        with secure:
            client = client_of()
            self.assertEqual(client.get("/api/v1/people/me").status_code, 301)
            self.assertEqual(client.get("/api/v1/ready").status_code, 200)
            answer = client.get("/api/v1/people/me", headers={"X-Forwarded-Proto": "https"})
            self.assertEqual(answer.status_code, 200)
            self.assertIn("max-age=3600", answer.headers["Strict-Transport-Security"])

    def test_ready_to_be_deployed(self) -> None:
        """Django's own check for deployment, with the settings that HANDFUL_SECURE sets, has nothing to say."""
        secure = override_settings(
            SECURE_SSL_REDIRECT=True, SECURE_HSTS_SECONDS=31536000, SECURE_HSTS_INCLUDE_SUBDOMAINS=True,
            SECURE_HSTS_PRELOAD=True, SESSION_COOKIE_SECURE=True, CSRF_COOKIE_SECURE=True,
            SECRET_KEY="x7" * 20 + "-Saltglass-abcdefghij",
        )  # fmt: skip
        with secure, mock.patch.dict(os.environ):
            os.environ.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)  # tests in a browser set it
            call_command("check", "--deploy", "--fail-level", "WARNING", verbosity=0)
