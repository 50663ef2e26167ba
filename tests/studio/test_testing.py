"""What the tests do to the database when they are over."""

from typing import Any

import psycopg
from django.db import connection
from django.test import SimpleTestCase, TransactionTestCase
from procrastinate.contrib.django.models import ProcrastinateJob

from handful.studio.demo.tasks import shoot_plate
from handful.studio.testing import Runner, end_other_sessions
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
        self.assertEqual(set(classes[1:4]), {"Order", "Queue", "Sessions"})
