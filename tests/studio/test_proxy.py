"""Served for real: behind nginx with TLS, set up as the page on deployment says, by Debian's own nginx on loopback."""

from __future__ import annotations

import http.client
import json
import os
import re
import socket
import ssl
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any
from uuid import UUID

from django.test import TransactionTestCase

from handful.studio import settings as settings_module
from handful.studio.events.service import tell
from tests.studio.base import database_url, person, shot_of

PAGE = Path(__file__).parents[2] / "docs" / "deployment.md"
PASSWORD = "a long and good one"
PATIENCE = 60.0


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Proxied(TransactionTestCase):
    lasts = True

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.inner, self.outer = _free_port(), _free_port()
        self.ada = person("Ada", PASSWORD)
        self._begin_server()
        self._begin_proxy()
        self.cookies: dict[str, str] = {}

    def _begin(self, words: list[str], env: dict[str, str], port: int) -> None:
        process = subprocess.Popen(words, env=os.environ | env, stderr=subprocess.DEVNULL)
        self.addCleanup(process.wait)
        self.addCleanup(process.terminate)
        end = time.monotonic() + PATIENCE
        while True:
            try:
                return socket.create_connection(("127.0.0.1", port), timeout=1).close()
            except OSError:
                self.assertIsNone(process.poll(), f"{words[0]} ended")
                self.assertLess(time.monotonic(), end)
                time.sleep(0.1)

    def _begin_server(self) -> None:
        env = {
            "HANDFUL_DATABASE_URL": database_url(),
            "HANDFUL_SECURE": "1",
            "HANDFUL_HOSTS": "127.0.0.1",
            "HANDFUL_ORIGINS": f"https://127.0.0.1:{self.outer}",
        }
        self._begin(
            [sys.executable, "-m", "handful.studio.serve", str(self.inner)], env, self.inner
        )

    def _begin_proxy(self) -> None:
        """As the page says, but for the port, the names and the places of files."""
        key, certificate = self.folder / "key.pem", self.folder / "certificate.pem"
        subprocess.run(
            ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=127.0.0.1",
             "-addext", "subjectAltName=IP:127.0.0.1", "-keyout", str(key), "-out", str(certificate)],
            check=True, capture_output=True,
        )  # fmt: skip
        found = re.search(r"```nginx\n(.*?)```", PAGE.read_text(), re.DOTALL)
        assert found is not None
        server = found[1]
        for there, here in (
            ("listen 443 ", f"listen 127.0.0.1:{self.outer} "),
            ("127.0.0.1:8420", f"127.0.0.1:{self.inner}"),
            ("/etc/ssl/effects.pem", str(certificate)),
            ("/etc/ssl/effects.key", str(key)),
            ("effects.example.org", "127.0.0.1"),
            (
                "$host;",
                f"127.0.0.1:{self.outer};",
            ),  # no name and port of its own, as it has out there
        ):
            self.assertIn(there, server)
            server = server.replace(there, here)
        places = "".join(
            f"{name}_temp_path {self.folder / name};"
            for name in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
        )
        configuration = self.folder / "nginx.conf"
        configuration.write_text(
            f"daemon off; pid {self.folder / 'pid'}; error_log {self.folder / 'errors'}; events {{}}"
            f" http {{ access_log off; {places} {server} }}"
        )
        if os.geteuid() == 0:
            configuration.write_text("user root;" + configuration.read_text())
        words = [os.environ["HANDFUL_NGINX"], "-c", str(configuration), "-p", str(self.folder)]
        self._begin(words, {}, self.outer)
        self.trusting = ssl.create_default_context(cafile=str(certificate))

    def _ask(
        self, method: str, path: str, body: Any = None, origin: str | None = None
    ) -> http.client.HTTPResponse:
        """Ask as a browser does, with the cookies that it has been given; from a page of the program, or another."""
        own = f"https://127.0.0.1:{self.outer}"
        asking = http.client.HTTPSConnection(
            "127.0.0.1", self.outer, context=self.trusting, timeout=PATIENCE
        )
        self.addCleanup(asking.close)
        cookies = "; ".join(f"{name}={value}" for name, value in self.cookies.items())
        headers = {"Cookie": cookies, "Content-Type": "application/json"}
        if method != "GET":
            headers |= {"X-CSRFToken": self.cookies["csrftoken"], "Origin": origin or own}
        asking.request(method, path, json.dumps(body) if body is not None else None, headers)
        answer = asking.getresponse()
        for line in answer.headers.get_all("Set-Cookie") or []:
            name, value = line.split(";")[0].split("=", 1)
            self.cookies[name] = value
            self.assertIn("; Secure", line)
        return answer

    def test_from_the_page_to_an_event(self) -> None:
        """A page with its protections; signing in from it and not from elsewhere; a stream that is told at once;
        whoever comes without TLS is sent to it."""
        page = self._ask("GET", "/")
        self.assertEqual(page.status, 200)
        self.assertIn(b'<div id="root">', page.read())
        self.assertIn("max-age=31536000", page.headers["Strict-Transport-Security"])
        self.assertIn("frame-ancestors 'none'", page.headers["Content-Security-Policy"])
        self.assertEqual(page.headers["X-Frame-Options"], "DENY")

        given = {"name": "Ada", "password": PASSWORD}
        for origin, status in (("https://elsewhere.example", 403), (None, 200)):
            answer = self._ask("POST", "/api/v1/people/sign-in", given, origin)
            self.assertEqual(answer.status, status, answer.read())
        shot = shot_of(self.ada)
        lines = json.loads(self._ask("GET", "/api/v1/shots").read())
        self.assertEqual([line["id"] for line in lines], [str(shot.id)])

        stream = self._ask("GET", "/api/v1/events")
        self.assertEqual(stream.headers["Content-Type"], "text/event-stream")
        told = self._until_told(stream, "all")
        begun = time.monotonic()
        tell(self.ada.id, "render", UUID(int=9))
        told = self._until_told(stream, "render")
        self.assertEqual(told["id"], str(UUID(int=9)))
        self.assertLess(time.monotonic() - begun, 5)

        plainly = http.client.HTTPConnection("127.0.0.1", self.inner, timeout=PATIENCE)
        self.addCleanup(plainly.close)
        plainly.request("GET", "/", headers={"Host": "127.0.0.1"})
        sent_on = plainly.getresponse()
        self.assertEqual((sent_on.status, sent_on.headers["Location"]), (301, "https://127.0.0.1/"))

    def test_streams_hold_no_connection_to_the_database(self) -> None:
        """With more pages open than the server has connections to its database, others are answered at once."""
        self._ask("GET", "/").read()
        self._ask("POST", "/api/v1/people/sign-in", {"name": "Ada", "password": PASSWORD}).read()
        most = settings_module.POOL["max_size"]
        for _ in range(most + 5):
            self.assertEqual(self._ask("GET", "/api/v1/events").readline()[:1], b":")
        begun = time.monotonic()
        self.assertEqual(self._ask("GET", "/api/v1/shots").status, 200)
        self.assertLess(time.monotonic() - begun, 5)

    def _until_told(self, stream: http.client.HTTPResponse, what: str) -> dict[str, Any]:
        while line := stream.readline():
            if line.startswith(b"data: "):
                told: dict[str, Any] = json.loads(line.removeprefix(b"data: "))
                if told["what"] == what:
                    return told
        raise AssertionError("the stream ended")
