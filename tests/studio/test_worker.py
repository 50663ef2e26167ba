"""The worker as a process of its own: killed in the middle of a render, and taken over from."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from functools import partial

from django.db import connection
from django.test import TransactionTestCase

from handful.studio.renders.models import Render
from handful.studio.renders.service import order_render
from tests.studio.base import person, shot_of, small_recipe, use_temporary_folders

MOST_SECONDS = 300
CANVAS = {"width": 640, "height": 360, "rate": 25, "first": 1, "last": 60}


class Killed(TransactionTestCase):
    lasts = True

    def setUp(self) -> None:
        self.root = use_temporary_folders(self)
        self.workers: list[subprocess.Popen[bytes]] = []
        self.addCleanup(self._kill_all)

    def _worker(self, *words: str) -> subprocess.Popen[bytes]:
        facts = connection.settings_dict
        url = "postgresql://{USER}:{PASSWORD}@{HOST}:{PORT}/{NAME}".format(**facts)
        env = os.environ | {
            "HANDFUL_DATABASE_URL": url,
            "HANDFUL_RENDERS": str(self.root / "renders"),
        }
        command = [sys.executable, "-m", "handful.studio.manage", "work", *words]
        worker = subprocess.Popen(command, env=env)
        self.workers.append(worker)
        return worker

    def _kill_all(self) -> None:
        for worker in self.workers:
            worker.kill()
            worker.wait()

    def _wait(self, what: str, holds: Callable[[], bool]) -> None:
        end = time.monotonic() + MOST_SECONDS
        while not holds():
            self.assertLess(time.monotonic(), end, f"waited too long for {what}")
            connection.queries_log.clear()
            time.sleep(0.02)

    def _has(self, render: Render, least: int) -> bool:
        return render.frames.count() >= least

    def _order(self) -> Render:
        recipe = small_recipe(canvas=CANVAS)
        recipe["layers"][0]["steps"] = [{"kind": "glow", "id": "glow"}]
        shot = shot_of(person("Ada"), **recipe)
        return order_render(shot.owner, shot.id, 1, 60, 1.0, "exr")

    def test_nothing_is_lost_or_done_twice(self) -> None:
        """SIGKILL in the middle; another worker finishes without touching what was written."""
        render = self._order()
        first = self._worker()
        self._wait("some frames", lambda: render.frames.count() >= 5)
        first.send_signal(signal.SIGKILL)
        first.wait()
        before = {
            frame.file: (render.folder / frame.file).stat().st_mtime_ns
            for frame in render.frames.all()
        }
        self.assertLess(len(before), 60, "the worker was killed too late to show anything")
        self._worker()
        self._wait("the end", lambda: Render.objects.get(id=render.id).state == "done")
        self.assertEqual(sorted(render.frames.values_list("frame", flat=True)), list(range(1, 61)))
        for name, written in before.items():
            self.assertEqual((render.folder / name).stat().st_mtime_ns, written, name)
        names = sorted(
            path.name for path in render.folder.iterdir() if not path.name.startswith(".")
        )
        self.assertEqual(names, [f"spark.{frame:04d}.exr" for frame in range(1, 61)])

    def test_asked_to_stop_it_hands_the_rest_back(self) -> None:
        """SIGTERM: the worker ends within seconds, and the next one goes on at once."""
        render = self._order()
        first = self._worker()
        self._wait("some frames", lambda: render.frames.count() >= 3)
        first.send_signal(signal.SIGTERM)
        self.assertEqual(first.wait(20), 0)
        count = render.frames.count()
        self.assertLess(count, 60)
        self._worker("--until-empty")
        self._wait("the end", lambda: Render.objects.get(id=render.id).state == "done")
        self.assertEqual(render.frames.count(), 60)

    def test_a_database_that_goes_away(self) -> None:
        """All of the worker's sessions are ended, as by a restart, three times in the middle: it goes on by
        itself, and what was written is there once."""
        render = self._order()
        worker = self._worker()
        for least in (4, 14, 24):
            self._wait("some frames", partial(self._has, render, least))
            with connection.cursor() as cursor:
                cursor.execute(
                    "SELECT count(pg_terminate_backend(pid)) FROM pg_stat_activity"
                    " WHERE datname = current_database() AND pid <> pg_backend_pid()"
                )
                self.assertGreaterEqual(cursor.fetchone()[0], 1)
        self._wait("the end", lambda: Render.objects.get(id=render.id).state == "done")
        self.assertIsNone(worker.poll())
        self.assertEqual(sorted(render.frames.values_list("frame", flat=True)), list(range(1, 61)))
