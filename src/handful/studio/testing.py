"""How the tests are run and counted."""

from __future__ import annotations

import faulthandler
import os
import signal
import sys
import tempfile
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType
from typing import Any

from django.apps import AppConfig
from django.db import connections
from django.db.backends.base.base import BaseDatabaseWrapper
from django.db.models.signals import post_migrate
from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestResult, RemoteTestRunner
from django.test.utils import iter_test_cases  # type: ignore[attr-defined] # the stubs leave it out

LONGEST_SECONDS, ALL_SECONDS = 900, 2700
"""For which a test, or what is done between two, may last, and all of them: four times what they take."""


class TookTooLong(Exception):
    """What waits in vain is ended where it waits; what all threads did then is on standard error."""


@contextmanager
def _at_most(seconds: int) -> Iterator[None]:
    """What takes longer within the block raises `TookTooLong`."""

    def end(_: int, __: FrameType | None) -> None:
        faulthandler.dump_traceback(sys.__stderr__ or 2)
        raise TookTooLong(f"This has not ended in {seconds} seconds.")

    before = signal.signal(signal.SIGALRM, end)
    left, _ = _set_clock(seconds)
    try:
        yield
    finally:
        _set_clock(left)
        signal.signal(signal.SIGALRM, before)


def _set_clock(seconds: float) -> tuple[float, float]:
    """It goes off after so many seconds, and again each time that as many have passed: what is raised may be lost once, where
    the interpreter clears away. How many were left before, and how often it went."""
    return signal.setitimer(signal.ITIMER_REAL, seconds, seconds)


class Limited(RemoteTestResult):
    """What becomes of tests in one of several processes. The clock begins anew with each of them."""

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        _set_clock(LONGEST_SECONDS)
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        super().stopTest(test)
        _set_clock(LONGEST_SECONDS)


class LimitedRunner(RemoteTestRunner):
    """Runs what one of several processes has, a class of tests at a time."""

    resultclass = Limited

    def run(self, test: unittest.TestSuite) -> Any:
        with _at_most(LONGEST_SECONDS):
            return super().run(test)


class Shared(ParallelTestSuite):
    """Tests that several processes share. A process that is killed takes what it was at with it, and would be waited for
    without end."""

    runner_class = LimitedRunner

    def run(self, result: unittest.TestResult, debug: bool = False) -> Any:
        self.told: set[str] = set()
        try:
            with _at_most(ALL_SECONDS):
                return super().run(result)
        except TookTooLong:
            missing = {test.id() for test in iter_test_cases(self.subsuites)} - self.told
            print("Nothing has been heard of:", *missing, sep="\n", file=sys.stderr, flush=True)
            raise

    def handle_event(self, result: unittest.TestResult, tests: list[Any], event: Any) -> None:
        self.told.update(test.id() for test in tests)
        super().handle_event(result, tests, event)


class Told(unittest.TextTestResult):
    """What fails is told at once, not only at the end, which may not come."""

    told = 0, 0
    """How many errors and failures have been."""

    def stopTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        super().stopTest(test)
        errors, failures = self.told
        self.told = len(self.errors), len(self.failures)
        self.printErrorList("ERROR", self.errors[errors:])
        self.printErrorList("FAIL", self.failures[failures:])


class Runner(DiscoverRunner):
    """Django's runner, closing with one line that counts. What tests leave lying in folders for the
    time being goes at the end, whichever process left it."""

    parallel_test_suite = Shared

    def get_resultclass(self) -> type[unittest.TextTestResult]:
        return super().get_resultclass() or Told

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
