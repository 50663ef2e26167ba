"""How the tests are run and counted."""

from __future__ import annotations

import os
import tempfile
import unittest
from typing import Any

from django.apps import AppConfig
from django.db import connections
from django.db.backends.base.base import BaseDatabaseWrapper
from django.db.models.signals import post_migrate
from django.test.runner import DiscoverRunner, ParallelTestSuite


class Runner(DiscoverRunner):
    """Django's runner, closing with one line that counts. What tests leave lying in folders for the
    time being goes at the end, whichever process left it."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
        self.folder = tempfile.TemporaryDirectory(
            prefix="handful-tests-", ignore_cleanup_errors=True
        )
        os.chmod(self.folder.name, 0o755)
        tempfile.tempdir = self.folder.name
        post_migrate.connect(_empty_the_queue, dispatch_uid="empty the queue")

    def teardown_test_environment(self, **kwargs: Any) -> None:
        tempfile.tempdir = None
        self.folder.cleanup()
        super().teardown_test_environment(**kwargs)

    def build_suite(self, *arguments: Any, **kwargs: Any) -> unittest.TestSuite:
        """Where several processes share the tests, classes that say that they `last` begin first: one that began last
        would be waited for alone."""
        suite = super().build_suite(*arguments, **kwargs)
        if isinstance(suite, ParallelTestSuite):
            suite.subsuites.sort(key=lambda part: not _lasts(part))
        return suite

    def run_suite(self, suite: unittest.TestSuite, **kwargs: Any) -> Any:
        result = super().run_suite(suite, **kwargs)
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        self.counts = (max(0, result.testsRun - failed - skipped), failed, skipped)
        return result

    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
        for connection, live, _ in old_config:
            end_other_sessions(connection, live)
        super().teardown_databases(old_config, **kwargs)
        if hasattr(self, "counts"):
            passed, failed, skipped = self.counts
            print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)


def _empty_the_queue(sender: AppConfig, using: str, **_: Any) -> None:
    """What empties the database after a test leaves the jobs, whose tables are not Django's own: it says when it has
    emptied the others."""
    if sender.label != "procrastinate":
        return
    with connections[using].cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs")


def _lasts(part: unittest.TestSuite) -> bool:
    return any(getattr(test, "lasts", False) for test in part)


def end_other_sessions(connection: BaseDatabaseWrapper, live: str) -> None:
    """End the sessions of server threads and workers that tests left in the middle of something, in a
    database made for the tests and its copies for several processes; never in the one called `live`."""
    if connection.settings_dict["NAME"] == live:
        return
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity"
            " WHERE datname ~ ('^' || current_database() || '(_[0-9]+)?$')"
            " AND pid <> pg_backend_pid()"
        )
