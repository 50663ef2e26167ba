"""The real interface, served as it is shipped, in Debian's Chromium."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings
from django.core.asgi import get_asgi_application
from django.core.management import CommandError
from django.db import connection
from django.test import Client, LiveServerTestCase, override_settings
from django.test.testcases import LiveServerThread
from PIL import Image
from playwright.sync_api import Browser, BrowserContext, Locator, Page, sync_playwright

from handful.studio import settings as settings_module
from handful.studio.connections import Patience
from handful.studio.people.service import demo_artist
from handful.studio.serve import made_server
from handful.studio.shots.service import begin_shot
from tests.studio.base import database_url

ARGUMENTS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
    "--js-flags=--no-turbofan --no-maglev",
]  # fmt: skip
"""A page lives for seconds: what a compiler would make quicker, it does not win back."""

MOST_MILLISECONDS = 90_000
MOST_WAIT = 300
"""Seconds in which what is waited for comes, beside other tests that work."""

MOST_TRIES = 5

_SAVES_DATA = "Object.defineProperty(navigator, 'connection', { value: { saveData: true } })"


def _kept_pictures() -> Path:
    """Where small pictures of starters are, which are the same in every test: drawn once for all."""
    return Path(tempfile.gettempdir()) / "pictures"


@cache
def _browser() -> Browser:
    """The one browser of a process; it ends with it."""
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
    chromium = sync_playwright().start().chromium
    return chromium.launch(executable_path=os.environ["HANDFUL_CHROMIUM"], args=ARGUMENTS)


class _ServerThread(LiveServerThread):
    """The web server as it is run, on a port that is free."""

    def run(self) -> None:
        try:
            listening = socket.create_server((self.host, 0))
            self.port = listening.getsockname()[1]
            self.server = made_server(get_asgi_application(), self.host, self.port, Patience())
        finally:
            self.is_ready.set()
        self.server.run([listening])

    def terminate(self) -> None:
        self.server.should_exit = self.server.force_exit = True
        self.join()


class BrowserTest(LiveServerTestCase):
    """A page at 1280 x 800 on a server in demo mode, with folders that go with the test.

    Errors that the page reports to its console fail the test.
    """

    server_thread_class = _ServerThread
    looks_ahead = False
    """Whether a bench computes other frames while it rests; else its browser asks to save data, so that tests that do not
    look at those do not wait for them."""

    @classmethod
    def setUpClass(cls) -> None:
        """As the web server is run, its threads share connections to the database: each costs as much as an answer."""
        cls._pooled(settings_module.POOL)
        cls.addClassCleanup(cls._pooled, None)
        super().setUpClass()

    @classmethod
    def _pooled(cls, pool: dict[str, Any] | None) -> None:
        connection.close()
        connection.close_pool()  # type: ignore[attr-defined] # of PostgreSQL's alone
        connection.settings_dict["OPTIONS"]["pool"] = pool

    def setUp(self) -> None:
        # What is still being computed may write while the folder goes.
        folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        changed = override_settings(
            DEMO=True,
            MEDIA_ROOT=self.folder / "media",
            RENDERS_ROOT=self.folder / "renders",
            THUMBNAILS_ROOT=_kept_pictures(),
        )
        changed.enable()
        self.addCleanup(changed.disable)
        self.complaints: list[str] = []
        self.context = self.new_context()
        self.page = self.new_page()

    def tearDown(self) -> None:
        self.assertEqual(self.complaints, [])

    def _fixture_teardown(self) -> None:
        """Empty the database. What a page that is gone asked for at last may still be under way, and
        hold what is to be emptied."""
        for tries_left in reversed(range(MOST_TRIES)):
            try:
                super()._fixture_teardown()  # type: ignore[misc] # the stubs leave it out
                break
            except CommandError:
                if not tries_left:
                    raise
                time.sleep(0.5)

    def new_context(self, **more: Any) -> BrowserContext:
        """A person's browser with nothing in it yet."""
        size: Any = {"width": 1280, "height": 800}
        context = _browser().new_context(**({"viewport": size, "accept_downloads": True} | more))
        self.addCleanup(context.close)
        if not self.looks_ahead:
            context.add_init_script(_SAVES_DATA)
        return context

    def new_page(self) -> Page:
        """Another page of the same person's browser, signed in only if this one is."""
        page = self.context.new_page()
        page.set_default_timeout(MOST_MILLISECONDS)
        page.on("pageerror", lambda error: self.complaints.append(str(error)))
        page.on("console", self._listen)
        return page

    def _listen(self, message: Any) -> None:
        if message.type == "error" and "409 (Conflict)" not in message.text:
            self.complaints.append(message.text)

    def sign_in(self, address: str | None = None) -> None:
        """Open the program, here or elsewhere, and continue as the demo artist."""
        self.page.goto(address or self.live_server_url)
        self.page.get_by_role("button", name="Continue as the demo artist").click()
        self.page.get_by_role("button", name="New shot").first.wait_for()

    def open_new_shot(self) -> None:
        """On the bench of a new shot as the demo artist, as if they had come the whole way."""
        artist = demo_artist()
        shot = begin_shot(artist)
        client = Client()
        client.force_login(artist)
        session = client.cookies[settings.SESSION_COOKIE_NAME].value
        cookie: Any = {
            "name": settings.SESSION_COOKIE_NAME, "value": session, "url": self.live_server_url
        }  # fmt: skip
        self.context.add_cookies([cookie])
        self.page.goto(f"{self.live_server_url}/shots/{shot.id}")

    def drag(self, handle: Locator, across: float, down: float = 0) -> None:
        """Drag something by its middle."""
        box = handle.bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + across, y + down, steps=10)
        self.page.mouse.up()

    def pick(self, what: str, title: str) -> None:
        """Add `a step` or `a layer` by its name in the picker."""
        opener = {"a step": "Add a step", "a layer": "New layer"}[what]
        self.page.get_by_role("button", name=opener).click()
        self.page.get_by_label(f"Search for {what}").fill(title)
        self.page.keyboard.press("Enter")

    def saved(self, page: Page) -> None:
        """Wait until the bench says that all is saved."""
        page.get_by_role("status").get_by_text("Saved", exact=True).wait_for()

    STARTS_WITHIN = 300_000
    """Milliseconds in which a worker is started, and has done what waits, beside other tests."""

    def worker(self) -> subprocess.Popen[bytes]:
        """A render worker on the test's database and folders."""
        renders = str(self.folder / "renders")
        env = os.environ | {"HANDFUL_DATABASE_URL": database_url(), "HANDFUL_RENDERS": renders}
        worker = subprocess.Popen([sys.executable, "-m", "handful.studio.manage", "work"], env=env)

        def stop() -> None:
            worker.kill()
            worker.wait()

        self.addCleanup(stop)
        return worker

    def pixels(self, locator: Locator) -> np.ndarray:
        """What a part of the page shows, as 8-bit RGB."""
        path = self.folder / "part.png"
        locator.screenshot(path=path)
        with Image.open(path) as image:
            return np.asarray(image.convert("RGB")).astype(int)

    def settled(self, locator: Locator) -> np.ndarray:
        """Its pixels once they stay as they are for most of a second."""
        before = self.pixels(locator)
        for _ in range(40):
            self.page.wait_for_timeout(700)
            now = self.pixels(locator)
            if np.array_equal(now, before):
                return now
            before = now
        raise AssertionError("it does not come to rest")

    def wait_until(self, holds: Callable[[], bool], what: str) -> None:
        """Wait until the page has come so far. What is looked at takes work of its own: less and less often."""
        ends, pause = time.monotonic() + MOST_WAIT, 50
        while time.monotonic() < ends:
            if holds():
                return
            self.page.wait_for_timeout(pause)
            pause = min(400, pause + 50)
        self.fail(f"waited too long for {what}")
