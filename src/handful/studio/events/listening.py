"""The streams of events that pages hold open, and the one connection to the database that feeds them all."""

from __future__ import annotations

import asyncio
import json
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from typing import NamedTuple
from weakref import WeakKeyDictionary

import psycopg
from procrastinate.contrib.django import connector_params

from handful.studio.events.service import CHANNEL

MOST_STREAMS_OF_A_PERSON = 20
"""The oldest beyond that end: pages of one browser share a stream, so these are many browsers."""

LEAST_PAUSE, MOST_PAUSE = 0.2, 5.0
"""Seconds until the database is asked again for its events, each time twice as long."""


class Told(NamedTuple):
    """What has changed, which, and how often by now; `all` where something may have been missed."""

    what: str
    id: str = ""
    at: int = 0


ALL = Told("all")


class Stream:
    """What a page has not been told yet: each thing once, however often it has changed."""

    def __init__(self) -> None:
        self._waiting: dict[tuple[str, str], Told] = {}
        self._some = asyncio.Event()
        self.is_over = False

    def put(self, told: Told) -> None:
        """Something has changed."""
        self._waiting[told.what, told.id] = told
        self._some.set()

    def end(self) -> None:
        """Nobody is told anything more."""
        self.is_over = True
        self._some.set()

    async def next(self, seconds: float) -> list[Told]:
        """What has changed since the last time, waited for as long; nothing then."""
        try:
            await asyncio.wait_for(self._some.wait(), seconds)
        except TimeoutError:
            return []
        found = list(self._waiting.values())
        self._waiting.clear()
        self._some.clear()
        return found


class Streams:
    """All streams of one event loop."""

    def __init__(self) -> None:
        self._of: dict[int, list[Stream]] = defaultdict(list)
        self._listener: asyncio.Task[None] | None = None

    @contextmanager
    def joined(self, person: int) -> Iterator[Stream]:
        """A stream of what concerns a person, which ends with the block. Whoever joins is told at first to look at
        all, since they may have missed something before."""
        stream = Stream()
        theirs = self._of[person]
        theirs.append(stream)
        for oldest in theirs[: max(0, len(theirs) - MOST_STREAMS_OF_A_PERSON)]:
            oldest.end()
        if self._listener is None or self._listener.done():
            self._listener = asyncio.ensure_future(self._listen())
        else:
            stream.put(ALL)
        try:
            yield stream
        finally:
            theirs.remove(stream)
            if not theirs:
                self._of.pop(person, None)
            if not self._of and self._listener is not None:
                self._listener.cancel()

    async def _listen(self) -> None:
        pause = LEAST_PAUSE
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(
                    **connector_params(), autocommit=True
                ) as connection:
                    await connection.execute(f"LISTEN {CHANNEL}")
                    pause = LEAST_PAUSE
                    self._pass_on(None, ALL)
                    async for notice in connection.notifies():
                        about = json.loads(notice.payload)
                        self._pass_on(
                            about["person"], Told(about["what"], about["id"], about["at"])
                        )
            except psycopg.OperationalError:
                await asyncio.sleep(pause)
                pause = min(MOST_PAUSE, 2 * pause)

    def _pass_on(self, person: int | None, told: Told) -> None:
        """To a person, or to all."""
        for of, streams in self._of.items():
            if person in (None, of):
                for stream in streams:
                    stream.put(told)


_streams: WeakKeyDictionary[asyncio.AbstractEventLoop, Streams] = WeakKeyDictionary()


def streams() -> Streams:
    """The streams of the event loop that runs."""
    return _streams.setdefault(asyncio.get_running_loop(), Streams())
