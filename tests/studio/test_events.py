"""Events: told when a transaction ends well, to whom they concern, at once, and again after a database that went."""

from __future__ import annotations

import asyncio
import contextlib
import json
import time
from collections.abc import AsyncIterator, Coroutine
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar
from unittest import mock
from uuid import UUID, uuid4

from asgiref.sync import sync_to_async
from django.db import connection, connections, transaction
from django.test import AsyncClient, TransactionTestCase

from handful.studio.events import api
from handful.studio.events.listening import ALL, MOST_STREAMS_OF_A_PERSON, Stream, Told, streams
from handful.studio.events.service import tell
from handful.studio.renders import service as renders
from handful.studio.shots import service as shots
from tests.studio.base import person, shot_of, small_recipe

PATIENCE = 60.0
T = TypeVar("T")


def _run(work: Coroutine[Any, Any, T]) -> T:
    """Run to its end in a thread of its own: a browser of other tests may have a loop in this one."""

    async def and_close() -> T:
        try:
            return await work
        finally:
            await sync_to_async(connections.close_all)()

    with ThreadPoolExecutor(1) as pool:
        return pool.submit(asyncio.run, and_close()).result()


class Telling(TransactionTestCase):
    """What is heard on a stream, which has first been told to look at all."""

    def setUp(self) -> None:
        self.ada = person("Ada")

    async def _joined(self, who: int, until: contextlib.AsyncExitStack) -> Stream:
        stream = until.enter_context(streams().joined(who))
        self.assertEqual(await stream.next(PATIENCE), [ALL])
        return stream

    def _hear(self, does: Any, who: int | None = None) -> list[Told]:
        """What Ada is told of what is done, before somebody else's event that comes after it."""

        async def heard() -> list[Told]:
            async with contextlib.AsyncExitStack() as until:
                stream = await self._joined(who or self.ada.id, until)
                await sync_to_async(does)()
                end = uuid4()
                await sync_to_async(tell)(who or self.ada.id, "shot", end)
                found: list[Told] = []
                while not any(told.id == str(end) for told in found):
                    more = await stream.next(PATIENCE)
                    self.assertTrue(more, "nothing is told")
                    found += more
                return [told for told in found if told.id != str(end)]

        return _run(heard())

    def test_a_save_and_which_one(self) -> None:
        shot = shot_of(self.ada)

        def save() -> None:
            shots.save_recipe(self.ada, shot.id, 1, small_recipe(seed=5))

        self.assertEqual(self._hear(save), [Told("shot", str(shot.id), 2)])

    def test_what_changes_a_list(self) -> None:
        shot = shot_of(self.ada)
        for does in (shots.delete_shot, shots.restore_shot):
            self.assertEqual(
                self._hear(lambda does=does: does(self.ada, shot.id)), [Told("shot", str(shot.id))]
            )
        [told] = self._hear(lambda: shots.duplicate_shot(self.ada, shot.id))
        self.assertNotEqual(told.id, str(shot.id))

    def test_a_render_from_order_to_end(self) -> None:
        shot = shot_of(self.ada)
        made: list[Any] = []

        def order() -> None:
            made.append(renders.order_render(self.ada, shot.id, 1, 2, 1, "png"))

        [ordered] = self._hear(order)
        self.assertEqual(ordered, Told("render", str(made[0].id)))
        self.assertEqual(self._hear(lambda: renders.cancel_render(self.ada, made[0].id)), [ordered])
        self.assertEqual(self._hear(lambda: renders.retry_render(self.ada, made[0].id)), [ordered])

    def test_somebody_elses_is_not_told(self) -> None:
        boris = person("Boris")
        self.assertEqual(self._hear(lambda: tell(boris.id, "shot", uuid4())), [])

    def test_what_is_taken_back_is_not_told(self) -> None:
        def in_vain() -> None:
            with contextlib.suppress(ZeroDivisionError), transaction.atomic():
                tell(self.ada.id, "shot", uuid4())
                raise ZeroDivisionError

        self.assertEqual(self._hear(in_vain), [])

    def test_what_changes_often_is_told_once(self) -> None:
        async def heard() -> list[Told]:
            async with contextlib.AsyncExitStack() as until:
                stream = await self._joined(self.ada.id, until)
                for at in range(5):
                    stream.put(Told("shot", "x", at))
                return await stream.next(PATIENCE)

        self.assertEqual(_run(heard()), [Told("shot", "x", 4)])

    def test_after_a_database_that_went_away_all_is_looked_at(self) -> None:
        """Its connection is ended; what was told meanwhile is not known."""

        async def heard() -> list[Told]:
            async with contextlib.AsyncExitStack() as until:
                stream = await self._joined(self.ada.id, until)
                await sync_to_async(self._end_listeners)()
                again = await stream.next(PATIENCE)
                await sync_to_async(tell)(self.ada.id, "shot", UUID(int=7))
                return again + await stream.next(PATIENCE)

        self.assertEqual(_run(heard()), [ALL, Told("shot", str(UUID(int=7)))])

    def _end_listeners(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE query LIKE 'LISTEN%%'"
                " AND datname = current_database()"
            )
            self.assertTrue(cursor.fetchall())

    def test_the_oldest_of_too_many_ends(self) -> None:
        async def ended() -> list[bool]:
            with contextlib.ExitStack() as until:
                found = [
                    until.enter_context(streams().joined(self.ada.id))
                    for _ in range(MOST_STREAMS_OF_A_PERSON + 1)
                ]
                return [stream.is_over for stream in found]

        self.assertEqual(_run(ended()), [True] + [False] * MOST_STREAMS_OF_A_PERSON)

    def test_nobody_listens_for_nobody(self) -> None:
        """With the last stream the connection to the database goes."""

        async def left() -> int:
            async with contextlib.AsyncExitStack() as until:
                await self._joined(self.ada.id, until)
            end = time.monotonic() + PATIENCE
            while (count := await sync_to_async(self._listeners)()) and time.monotonic() < end:
                await asyncio.sleep(0.05)
            return count

        self.assertEqual(_run(left()), 0)

    def _listeners(self) -> int:
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT count(*) FROM pg_stat_activity WHERE query LIKE 'LISTEN%%'"
                " AND datname = current_database()"
            )
            return int(cursor.fetchone()[0])


class Streamed(TransactionTestCase):
    """The stream as a page reads it: server-sent events of the HTML standard."""

    def test_lines(self) -> None:
        ada = person("Ada")

        async def lines() -> list[str]:
            client = AsyncClient()
            await client.aforce_login(ada)
            answer = await client.get("/api/v1/events")
            self.assertEqual(answer["Content-Type"], "text/event-stream")
            self.assertEqual(answer["Cache-Control"], "no-store")
            content: AsyncIterator[bytes] = getattr(answer, "streaming_content")  # noqa: B009
            found = [(await anext(content)).decode() for _ in range(2)]
            await sync_to_async(tell)(ada.id, "render", UUID(int=3), 4)
            found.append((await anext(content)).decode())
            with mock.patch.object(api, "SILENT_SECONDS", 0.05):
                found.append((await anext(content)).decode())
            await content.aclose()  # type: ignore[attr-defined]
            return found

        here, first, told, still = _run(lines())
        self.assertTrue(here.startswith(":") and here.endswith("\n\n"))
        self.assertEqual(json.loads(first.removeprefix("data: ")), ALL._asdict())
        self.assertEqual(json.loads(told.removeprefix("data: ")), {"what": "render", "id": str(UUID(int=3)), "at": 4})  # fmt: skip
        self.assertTrue(still.startswith(":") and still.endswith("\n\n"))

    def test_nobody_is_told_nothing(self) -> None:
        async def status() -> int:
            return int((await AsyncClient().get("/api/v1/events")).status_code)

        self.assertEqual(_run(status()), 401)
