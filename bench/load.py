"""Many people at once on the demo as it runs: how long each of them waits, and what memory is held meanwhile."""

from __future__ import annotations

import copy
import http.client
import json
import os
import random
import re
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from http.cookies import SimpleCookie
from pathlib import Path
from statistics import median
from typing import Any, NamedTuple
from urllib.parse import urlsplit

from bench.rows import Row
from bench.shots import change_one
from bench.start import running_demo
from handful.studio.preview.service import CACHE_BYTES

PEOPLE, SECONDS = 20, 40.0
MOST_WAIT, MOST_LIST = 2.0, 0.300
MINUTES = 60.0
"""Of mixed work; `HANDFUL_MINUTES` says otherwise."""

SHOTS = ("Mast strike", "Lamp sweep", "Tide feed", "Depth bell", "Diver's bubble", "Out of the fog")
"""Of the demo, what rests on no frame before."""

ROOM_BYTES = 600 * 2**20
SCALES = (1 / 8, 1 / 6, 1 / 4, 1 / 3, 1 / 2)
LOOKED_AT, HAND = 0.062, 0.03
"""Seconds within which a bench wants a picture while somebody drags, and from one move of the hand to the next."""


def load() -> Iterator[Row]:
    """Twenty who drag at once, each at their own shot, while somebody opens the list of shots."""
    with running_demo() as address:
        _ready(address)
        people = [_Person(address, turn) for turn in range(PEOPLE)]
        for person in people:
            person.open()
        ends, before = time.monotonic() + SECONDS, _processors()
        with ThreadPoolExecutor(PEOPLE + 1) as pool:
            lists = pool.submit(_listed, _Person(address, 0), ends)
            waited = [
                wait for part in pool.map(lambda each: each.drag(ends), people) for wait in part
            ]
        listed = lists.result()
        after = _processors()
    taken = (after.stolen - before.stolen) / max(1, after.all - before.all)
    late = sorted(waited)[int(0.95 * len(waited))]
    yield Row(
        f"{PEOPLE} people drag at once: the longest wait for a picture", f"{max(waited):.2f} s",
        f"median {median(waited):.2f} s, 95th {late:.2f} s, {len(waited)} pictures, {taken:.0%} of the time stolen",
        max(waited) / MOST_WAIT,
        f"<= {MOST_WAIT:g} s", max(waited) <= MOST_WAIT,
    )  # fmt: skip
    yield Row(
        "  the list of shots meanwhile, the longest", f"{1000 * max(listed):.0f} ms",
        f"median {1000 * median(listed):.0f} ms, {len(listed)} times", max(listed) / MOST_LIST,
        f"<= {1000 * MOST_LIST:.0f} ms", max(listed) <= MOST_LIST,
    )  # fmt: skip


def memory() -> Iterator[Row]:
    """An hour in which people drag, jump, play, read px and open lists: the most that is held."""
    minutes = float(os.environ.get("HANDFUL_MINUTES", MINUTES))
    most_bytes = CACHE_BYTES + ROOM_BYTES
    with running_demo() as address:
        _ready(address)
        people = [_Person(address, turn) for turn in range(6)]
        ends = time.monotonic() + 60 * minutes
        with ThreadPoolExecutor(len(people) + 1) as pool:
            held = pool.submit(_held, address, ends)
            for done in [pool.submit(each.work, ends) for each in people]:
                done.result()
        computing, serving = held.result()
    for name, found in (("computes", computing), ("serves", serving)):
        usual, most = median(found), max(found)
        yield Row(
            f"{minutes:g} minutes of mixed work: what {name} holds", f"{usual / 2**20:.0f} MiB",
            f"{most / 2**20:.0f} MiB at the most, {found[-1] / 2**20:.0f} MiB at the end", usual / most_bytes,
            f"<= {most_bytes / 2**20:.0f} MiB as a rule and at the end", max(usual, found[-1]) <= most_bytes,
        )  # fmt: skip


class _Processors(NamedTuple):
    """Ticks of all processors since the machine began, and those that its host gave to others meanwhile."""

    all: int
    stolen: int


def _processors() -> _Processors:
    """By the first line of `/proc/stat`, see proc(5)."""
    ticks = [int(part) for part in Path("/proc/stat").read_text().split("\n", 1)[0].split()[1:9]]
    return _Processors(sum(ticks), ticks[7])


class _Person:
    """Somebody at a bench: a session with the server, and a shot."""

    def __init__(self, address: str, turn: int) -> None:
        there = urlsplit(address)
        self._link = http.client.HTTPConnection(there.hostname or "", there.port, timeout=300)
        self._cookies: SimpleCookie = SimpleCookie()
        self._said = ""
        self._choose = random.Random(turn)
        self._bench, self._order = f"bench {turn}", 0
        self.call("GET", "/api/v1/people/me")
        self.call("POST", "/api/v1/people/continue-as-demo-artist", {})
        known = json.loads(self.call("GET", "/api/v1/shots"))
        shots = sorted(
            (shot for shot in known if shot["name"] in SHOTS),
            key=lambda shot: SHOTS.index(shot["name"]),
        )
        self._recipe = json.loads(
            self.call("GET", f"/api/v1/shots/{shots[turn % len(shots)]['id']}")
        )["recipe"]

    def call(self, method: str, path: str, body: object = None) -> bytes:
        """What the server answers. Raises `RuntimeError` where it refuses."""
        headers = {"Content-Type": "application/json", "Cookie": self._said}
        if "csrftoken" in self._cookies:
            headers["X-CSRFToken"] = self._cookies["csrftoken"].value
        self._link.request(method, path, None if body is None else json.dumps(body), headers)
        answer = self._link.getresponse()
        found = answer.read()
        for cookie in answer.headers.get_all("Set-Cookie") or ():
            self._cookies.load(cookie)
            self._said = "; ".join(f"{name}={one.value}" for name, one in self._cookies.items())
        if answer.status >= 400:
            raise RuntimeError(f"{method} {path}: {answer.status} {found[:300]!r}")
        return found

    def open(self) -> None:
        """See the shot once, as whoever opens it."""
        self._look(self._recipe, self._frame(), SCALES[2])

    def drag(self, ends: float) -> list[float]:
        """Change one setting after the other, each until its picture is there, as large as it may be in time; how long
        each took."""
        taken, scale = [], SCALES[2]
        recipe = copy.deepcopy(self._recipe)
        while time.monotonic() < ends:
            recipe = recipe if self._choose.random() < 0.9 else copy.deepcopy(self._recipe)
            change_one(recipe, self._choose)
            begun = time.perf_counter()
            if not self._look(recipe, self._frame(), scale, hasty=True):
                continue
            taken.append(time.perf_counter() - begun)
            place = SCALES.index(scale) + (
                1 if taken[-1] < 0.5 * LOOKED_AT else -1 if taken[-1] > LOOKED_AT else 0
            )
            scale = SCALES[min(len(SCALES) - 1, max(0, place))]
            time.sleep(HAND)
        return taken

    def work(self, ends: float) -> None:
        """Whatever somebody does at a bench, one thing after the other."""
        ways: list[Callable[[], object]] = [
            lambda: self.drag(time.monotonic() + 5),
            lambda: self._look(self._recipe, self._frame(), 0.5),
            self._play,
            lambda: self.call("GET", "/api/v1/shots"),
            lambda: self.call(
                "POST", "/api/v1/preview/px", {"recipe": self._recipe, "frame": self._frame(), "scale": 0.25, "x": 900, "y": 500}
            ),
        ]  # fmt: skip
        while time.monotonic() < ends:
            self._choose.choice(ways)()

    def _frame(self) -> int:
        canvas = self._recipe["canvas"]
        return self._choose.randint(canvas["first"], canvas["last"])

    def _look(self, recipe: dict[str, Any], frame: int, scale: float, hasty: bool = False) -> bool:
        """Whether there was a picture; a change that the recipe refuses has none."""
        self._order += 1
        asked = {
            "bench": self._bench, "order": self._order, "recipe": recipe,
            "picture": {"frame": frame, "scale": scale}, "hasty": hasty,
        }  # fmt: skip
        try:
            self.call("POST", "/api/v1/preview/look", asked)
        except RuntimeError as error:
            if ": 422 " not in str(error):
                raise
            return False
        return True

    def _play(self) -> None:
        """Twelve frames one after the other."""
        self._order += 1
        first = self._frame()
        frames = range(first, min(self._recipe["canvas"]["last"], first + 12))
        asked = {
            "bench": self._bench, "order": self._order, "recipe": self._recipe,
            "pictures": [{"frame": frame, "scale": 0.5} for frame in frames],
        }  # fmt: skip
        for address in json.loads(self.call("POST", "/api/v1/preview", asked))["addresses"]:
            self.call("GET", f"/api/v1/preview/{address}.jpg")


def _listed(person: _Person, ends: float) -> list[float]:
    """How long the list of shots took, each time."""
    taken = []
    while time.monotonic() < ends:
        begun = time.perf_counter()
        person.call("GET", "/api/v1/shots")
        taken.append(time.perf_counter() - begun)
        time.sleep(0.4)
    return taken


def _held(address: str, ends: float) -> tuple[list[int], list[int]]:
    """Bytes that the process that computes held and the one that serves, every other second."""
    held: dict[str, list[int]] = {"computing": [], "serving": []}
    while time.monotonic() < ends:
        text = _metrics(address)
        for process, found in held.items():
            if match := re.search(rf'handful_memory_bytes{{process="{process}"}} (\d+)', text):
                found.append(int(match[1]))
        time.sleep(2)
    return held["computing"], held["serving"]


def _metrics(address: str) -> str:
    there = urlsplit(address)
    link = http.client.HTTPConnection(there.hostname or "", there.port, timeout=300)
    link.request("GET", "/api/v1/metrics")
    text = link.getresponse().read().decode()
    link.close()
    return text


def _ready(address: str) -> None:
    """Wait until all is compiled, and what computes has begun."""
    while "handful_memory_bytes" not in _metrics(address):
        time.sleep(1)
    there = urlsplit(address)
    while True:
        link = http.client.HTTPConnection(there.hostname or "", there.port, timeout=60)
        link.request("GET", "/api/v1/ready")
        found = json.loads(link.getresponse().read())
        link.close()
        if found["compiling"] is None:
            return
        time.sleep(2)
