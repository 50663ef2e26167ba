"""What the benchmark command prints, and what its exit code says."""

import io
import json
import sys
from contextlib import redirect_stdout
from unittest import TestCase, mock

from bench import __main__ as command
from bench.rows import Row, milliseconds, seconds_of

GOOD = Row("quick", "1.0 ms", "2.0 ms elsewhere", 0.5, "faster", True)
BAD = Row("slow", "9.0 ms", "2.0 ms elsewhere", 4.5, "faster", False)


class Table(TestCase):
    def _run(self, *words: str) -> tuple[int, str]:
        benches = {"good": lambda: iter([GOOD]), "bad": lambda: iter([BAD])}
        with (
            mock.patch.dict(command.BENCHES, benches, clear=True),
            mock.patch.object(sys, "argv", ["bench", *words]),
            redirect_stdout(io.StringIO()) as printed,
        ):
            return command.main(), printed.getvalue()

    def test_rows(self) -> None:
        code, printed = self._run("good")
        self.assertEqual(code, 0)
        for part in ("quick", "1.0 ms", "2.0 ms elsewhere", "0.5", "faster", "yes"):
            self.assertIn(part, printed)
        self.assertNotIn("slow", printed)

    def test_a_missed_aim_is_told(self) -> None:
        code, printed = self._run()
        self.assertEqual(code, 1)
        self.assertIn("no", printed)

    def test_json(self) -> None:
        code, printed = self._run("--json", "bad")
        self.assertEqual(code, 1)
        self.assertEqual(json.loads(printed)[0]["ratio"], 4.5)

    def test_first_run_does_not_count(self) -> None:
        calls: list[int] = []
        self.assertEqual(len(seconds_of(lambda: calls.append(1), 3)), 3)
        self.assertEqual(len(calls), 4)
        self.assertEqual(milliseconds(0.0123), "12.3 ms")
