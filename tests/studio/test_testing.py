"""What the tests do to the database when they are over."""

import psycopg
from django.db import connection
from django.test import TransactionTestCase

from handful.studio.testing import end_other_sessions
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
