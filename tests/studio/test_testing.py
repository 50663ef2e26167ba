"""What the tests do to the database when they are over."""

from typing import Any

import psycopg
from django.db import connection
from django.test import SimpleTestCase, TransactionTestCase

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


class Order(SimpleTestCase):
    def test_what_lasts_begins_first(self) -> None:
        runner = Runner(parallel=2, verbosity=0)
        suite: Any = runner.build_suite(["tests.studio.test_testing", "tests.studio.test_worker"])
        classes = [type(next(iter(part))).__name__ for part in suite.subsuites]
        self.assertEqual(classes[0], "Killed")
        self.assertEqual(set(classes[1:3]), {"Order", "Sessions"})
