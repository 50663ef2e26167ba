"""How tests are run: what they do to the database when they are over, what begins first, and that none is waited for
without end."""

import io
import multiprocessing
import time
import unittest
from contextlib import redirect_stderr
from typing import Any
from unittest.mock import Mock, patch

import psycopg
from django.db import connection
from django.test import SimpleTestCase, TransactionTestCase
from procrastinate.contrib.django.models import ProcrastinateJob

from handful.studio.demo.tasks import shoot_plate
from handful.studio.testing import (
    LimitedRunner,
    Runner,
    Shared,
    Told,
    TookTooLong,
    end_other_sessions,
)
from tests.studio.base import other_session


class Sessions(TransactionTestCase):
    def test_none_is_ended_in_a_live_database(self) -> None:
        """Only in one that was made for the tests, and not the tests' own."""
        live = str(connection.settings_dict["NAME"])
        with psycopg.connect(**other_session(), autocommit=True) as other:
            end_other_sessions(connection, live)
            self.assertEqual(other.execute("SELECT 1").fetchone(), (1,))
            end_other_sessions(connection, f"not {live}")
            with self.assertRaises(psycopg.OperationalError):
                other.execute("SELECT 1")
        connection.ensure_connection()
        self.assertTrue(connection.is_usable())


class Queue(TransactionTestCase):
    def _leaves_a_job(self) -> None:
        self.assertEqual(ProcrastinateJob.objects.count(), 0)
        shoot_plate.defer(scene="loft-dust", canvas={})
        self.assertEqual(ProcrastinateJob.objects.count(), 1)

    def test_no_job_is_left(self) -> None:
        """Whatever a test before has left in the queue is gone; this is one of two that each leave one."""
        self._leaves_a_job()

    def test_nor_here(self) -> None:
        self._leaves_a_job()


class Order(SimpleTestCase):
    def test_what_lasts_begins_first(self) -> None:
        runner = Runner(parallel=2, verbosity=0)
        suite: Any = runner.build_suite(["tests.studio.test_testing", "tests.studio.test_worker"])
        classes = [type(next(iter(part))).__name__ for part in suite.subsuites]
        self.assertEqual(classes[0], "Killed")
        self.assertLessEqual({"Order", "Queue", "Sessions"}, set(classes[1:]))


class _Waits(unittest.TestCase):
    def first(self) -> None:
        time.sleep(0.7)

    def second(self) -> None:
        time.sleep(0.7)

    def for_good(self) -> None:
        time.sleep(60)


class _WaitsAfterwards(_Waits):
    @classmethod
    def tearDownClass(cls) -> None:
        time.sleep(60)


class _Fails(unittest.TestCase):
    def here(self) -> None:
        self.fail("three pins too many")

    def in_a_part(self) -> None:
        with self.subTest(part="rods"):
            raise ValueError("two rods too few")


@patch("handful.studio.testing.LONGEST_SECONDS", 1)
@patch("handful.studio.testing.faulthandler", Mock())
class Limits(SimpleTestCase):
    def _told(self, *tests: unittest.TestCase) -> list[tuple[str, Any]]:
        events = LimitedRunner().run(unittest.TestSuite(tests)).events
        return [(each[0], each[2:]) for each in events if each[0] not in ("startTest", "stopTest")]

    def test_each_has_its_own_clock(self) -> None:
        told = self._told(_Waits("first"), _Waits("second"))
        self.assertEqual([how for how, _ in told], ["addSuccess", "addSuccess"])

    def test_one_that_waits_in_vain_is_ended_and_the_next_goes_on(self) -> None:
        began = time.monotonic()
        told = self._told(_Waits("for_good"), _Waits("second"))
        self.assertEqual([how for how, _ in told], ["addError", "addSuccess"])
        self.assertIn("has not ended in 1 seconds", str(told[0][1]))
        self.assertLess(time.monotonic() - began, 10)

    def test_what_comes_after_the_last_too(self) -> None:
        told = self._told(_WaitsAfterwards("first"))
        self.assertEqual([how for how, _ in told], ["addSuccess", "addError"])

    def test_what_a_killed_process_was_at_is_named(self) -> None:
        """Its results never come, which is all that is seen of it."""
        pool = Mock()

        def none_yet(timeout: float) -> None:
            time.sleep(timeout)
            raise multiprocessing.TimeoutError

        pool.imap_unordered.return_value.next = none_yet
        suite = Shared([unittest.TestSuite([_Waits("first")])], processes=2)
        told = io.StringIO()
        with (
            patch("handful.studio.testing.ALL_SECONDS", 1),
            patch("multiprocessing.Pool", return_value=pool),
            patch.object(Shared, "initialize_suite"),
            redirect_stderr(told),
            self.assertRaises(TookTooLong),
        ):
            suite.run(unittest.TestResult())
        self.assertIn("_Waits.first", told.getvalue())


class Failures(SimpleTestCase):
    def test_are_told_at_once(self) -> None:
        said = io.StringIO()
        told = Told(unittest.runner._WritelnDecorator(said), descriptions=True, verbosity=1)
        unittest.TestSuite([_Waits("first")]).run(told)
        self.assertEqual(said.getvalue(), ".")
        unittest.TestSuite([_Fails("here"), _Fails("in_a_part")]).run(told)
        for line in ("three pins too many", "two rods too few"):
            self.assertEqual(said.getvalue().count(f"Error: {line}"), 1)
