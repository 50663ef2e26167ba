"""Computing in a process of its own: it may end, and the server goes on."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from multiprocessing import current_process
from pathlib import Path
from unittest import mock

from django.test import SimpleTestCase

from handful.engine import everything, read_recipe
from handful.engine.render import PlanError, Stopped
from handful.engine.render.view import View
from handful.studio.preview import apart
from handful.studio.preview.apart import Apart, Away, Ended
from handful.studio.preview.placings import Wanted
from handful.studio.preview.service import Preview, Unplaced
from tests.studio.base import small_recipe
from tests.studio.slow_to_load import Slow
from tests.studio.working import Working

MOST_SECONDS = 180


def _is_there(process: int) -> bool:
    """Whether a process goes on; one that has ended and is waited for does not."""
    with suppress(OSError):
        return Path(f"/proc/{process}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    return False


class Parent(SimpleTestCase):
    """A test that begins processes, as one that shares the tests with others may not by itself."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        how = current_process()._config  # type: ignore[attr-defined] # there is no other way to say it
        cls.enterClassContext(mock.patch.dict(how, {"daemon": False}))


class WarmingUp(SimpleTestCase):
    def test_it_lets_others_go_first(self) -> None:
        """It goes on between two kernels only once nobody waits; what is computed before then is another's."""
        preview = Preview()
        with mock.patch.object(apart, "_here", [preview]), ThreadPoolExecutor(1) as pool:
            self.assertFalse(apart._let_others_go_first())
            with preview._turns.turn(0):
                self.assertTrue(preview.is_asked())
                waits = pool.submit(apart._let_others_go_first)
                time.sleep(0.3)
                self.assertFalse(waits.done())
            self.assertFalse(waits.result(5))
            with preview._planning():
                self.assertTrue(preview.is_asked())
            self.assertFalse(preview.is_asked())

    def test_it_asks_between_two_kernels(self) -> None:
        """The process asks as it warms up, and what warms up is asked for each of what is in its recipes."""
        with (
            mock.patch.dict(os.environ),
            mock.patch.object(apart, "compiling", return_value=None),
            mock.patch.object(apart, "warm_up") as warming,
            mock.patch("gc.freeze"),
        ):
            os.environ.pop("HANDFUL_COLD", None)
            apart._warm_up()
        warming.assert_called_once_with(apart._let_others_go_first)
        may_go = mock.Mock(return_value=False)
        few = read_recipe(small_recipe())
        with mock.patch.object(everything, "everything", return_value=[few]):
            everything.warm_up(may_go)
        self.assertGreater(may_go.call_count, 2)


class Process(Parent):
    apart: Apart

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.apart = Apart(Working)
        cls.addClassCleanup(cls.apart.close)

    def _gone(self, process: int) -> None:
        end = time.monotonic() + MOST_SECONDS
        while _is_there(process):
            self.assertLess(time.monotonic(), end, "it goes on")
            time.sleep(0.02)

    def test_it_is_another_one_and_stays(self) -> None:
        process = self.apart.process()
        self.assertNotEqual(process, os.getpid())
        with ThreadPoolExecutor(4) as pool:
            self.assertEqual(set(pool.map(self.apart.last, [0.1] * 8)), {process})

    def test_connections_are_handed_on(self) -> None:
        """From one thread to the next, also after a refusal, and one for each of those at a time; none after its process."""
        apart = Apart(Working)
        self.addCleanup(apart.close)

        def by_itself(call: Callable[[], object]) -> None:
            with ThreadPoolExecutor(1) as pool:
                pool.submit(call).result()

        by_itself(apart.process)
        running = apart._running
        assert running is not None
        [first] = running.idle
        with suppress(Stopped):
            by_itself(lambda: apart.refuse(True))
        by_itself(apart.process)
        self.assertEqual(running.idle, [first])
        with ThreadPoolExecutor(3) as pool:
            self.assertEqual(set(pool.map(apart.last, [0.3] * 6)), {apart.process()})
        self.assertEqual(len(set(running.idle)), 3)
        with self.assertRaises(Ended):
            by_itself(apart.die)
        by_itself(apart.process)
        assert apart._running is not None
        self.assertEqual(len(apart._running.idle), 1)
        self.assertNotIn(apart._running.idle[0], running.idle)

    def test_it_gives_way(self) -> None:
        """To those who answer requests, where the processors or the memory are not enough for all."""
        process = Path(f"/proc/{self.apart.process()}")
        nicer = int(Path(process / "stat").read_text().rsplit(")", 1)[1].split()[16])
        self.assertEqual(nicer, min(19, os.nice(0) + 10))
        ended_first = int((process / "oom_score_adj").read_text())
        self.assertGreater(ended_first, int(Path("/proc/self/oom_score_adj").read_text()))

    def test_killed_in_the_middle_what_was_asked_comes_all_the_same(self) -> None:
        process = self.apart.process()
        with ThreadPoolExecutor(3) as pool:
            asked = [pool.submit(self.apart.last, 1.0) for _ in range(3)]
            time.sleep(0.3)
            os.kill(process, signal.SIGKILL)
            found = {each.result() for each in asked}
        self.assertEqual(len(found), 1, "one process is begun anew, not one for each")
        self.assertNotIn(process, found)
        self.assertEqual(self.apart.process(), found.pop())

    def test_what_ends_it_each_time_is_told_and_the_next_call_works(self) -> None:
        with self.assertRaisesRegex(Ended, "ended at this one, twice") as caught:
            self.apart.die()
        self.assertEqual(
            caught.exception.status, 422, "a bench asks by itself again where it is 500 or more"
        )
        self.assertNotEqual(self.apart.process(), os.getpid())

    def test_what_it_refuses_is_refused_here(self) -> None:
        process = self.apart.process()
        with self.assertRaisesRegex(PlanError, "no such frame"):
            self.apart.refuse(False)
        with self.assertRaises(Stopped):
            self.apart.refuse(True)
        self.assertEqual(self.apart.process(), process)

    def test_closed_it_is_gone_and_whoever_waits_is_told(self) -> None:
        apart = Apart(Working)
        process = apart.process()
        with ThreadPoolExecutor(1) as pool:
            waiting = pool.submit(apart.last, MOST_SECONDS)
            time.sleep(0.3)
            apart.close()
            with self.assertRaises(Away):
                waiting.result(MOST_SECONDS / 2)
        self._gone(process)
        with self.assertRaises(Away):
            apart.process()

    def test_closed_while_it_begins_it_is_gone_at_once(self) -> None:
        apart = Apart(Slow)
        slowly = mock.patch.dict(os.environ, LOADS_IN=str(MOST_SECONDS))
        with slowly, ThreadPoolExecutor(1) as pool:
            waiting = pool.submit(apart.process)
            time.sleep(1)
            begun = time.monotonic()
            apart.close()
            self.assertIsInstance(waiting.exception(MOST_SECONDS), Away)
        self.assertLess(time.monotonic() - begun, 5)

    def test_it_ends_with_its_server_even_if_that_is_killed(self) -> None:
        program = (
            "import sys, time\n"
            "from handful.studio.preview.apart import Apart\n"
            "from tests.studio.working import Working\n"
            "if __name__ == '__main__':\n"
            "    apart = Apart(Working)\n"
            "    print(apart.process(), flush=True)\n"
            "    time.sleep(600)\n"
        )
        words = [sys.executable, "-c", program]
        with subprocess.Popen(words, stdout=subprocess.PIPE, text=True) as server:
            assert server.stdout is not None
            self.addCleanup(server.kill)
            process = int(server.stdout.readline())
            was_there = _is_there(process)
            server.kill()
        self.assertTrue(was_there)
        self._gone(process)


class Pictures(Parent):
    def test_the_same_as_here(self) -> None:
        apart, here = Apart(Preview), Preview()
        self.addCleanup(apart.close)
        recipe, want = read_recipe(small_recipe()), Wanted(3, 1.0, None, View(), None)
        there = apart.look("1/bench", 1, recipe, want)
        self.assertEqual(there, here.look("1/bench", 1, recipe, want))
        self.assertEqual(apart.picture(there.address, "1/bench", 1), there.shown)
        with self.assertRaises(Unplaced):
            apart.picture(there.address, "2/bench", 1)
        self.assertEqual(apart.px(recipe, 3, 1.0, 8, 8, None), here.px(recipe, 3, 1.0, 8, 8, None))
