"""How the tests are run and counted."""

from __future__ import annotations

import unittest
from typing import Any

from django.test.runner import DiscoverRunner


class Runner(DiscoverRunner):
    """Django's runner, closing with one line that counts."""

    def run_suite(self, suite: unittest.TestSuite, **kwargs: Any) -> Any:
        result = super().run_suite(suite, **kwargs)
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        self.counts = (max(0, result.testsRun - failed - skipped), failed, skipped)
        return result

    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
        super().teardown_databases(old_config, **kwargs)
        if hasattr(self, "counts"):
            passed, failed, skipped = self.counts
            print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)
