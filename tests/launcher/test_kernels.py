"""Compiling in several processes: how far it is, its failure, its end, and that it goes on beside a running program."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from unittest import TestCase, mock

from launcher import kernels
from launcher.installing import Stamp
from launcher.kernels import Compiling, InTheBackground, compile_kernels
from launcher.places import Trouble

PROGRAM = """#!/bin/sh
# stands in for the interpreter: -m handful.engine.cli warm-up --turn K --of N
echo "1 of 4"
while [ ! -e "{go}" ]; do sleep 0.05; done
echo "some words of a library"
{end}
"""


class Kernels(TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.go = self.folder / "go"
        self.share = self.folder / "compiling"
        self.stamp = Stamp("kernels", [])
        self.stamp.path = self.folder / "stamp"
        here = {"stamp": lambda: self.stamp, "PYTHON": self.folder / "python"}
        self.enterContext(mock.patch.dict(vars(kernels), here))
        self.said: list[str] = []
        self.enterContext(mock.patch.object(kernels, "say", self.said.append))
        self.enterContext(mock.patch("os.cpu_count", return_value=2))
        self._ends("echo 4 of 4")

    def _ends(self, end: str) -> None:
        program = self.folder / "python"
        program.write_text(PROGRAM.format(go=self.go, end=end))
        program.chmod(0o755)

    def _until(self, holds: Callable[[], bool]) -> None:
        end = time.monotonic() + 10
        while not holds():
            self.assertLess(time.monotonic(), end, "waited too long")
            time.sleep(0.02)

    def test_how_far_it_is(self) -> None:
        """Each of two processes has told that it has done a quarter; then all of it is done, and remembered."""
        compiling = Compiling()
        self.addCleanup(compiling.stop)
        self.assertEqual(compiling.share(), 0)
        self._until(lambda: compiling.look(0.1) and compiling.share() == 0.25)
        self.assertFalse(self.stamp.holds())
        self.go.touch()
        self._until(lambda: not compiling.look(0.1))
        self.assertEqual(compiling.share(), 1)
        self.assertTrue(self.stamp.holds())

    def test_a_failure_says_what_was_said(self) -> None:
        self._ends("echo no memory is left; exit 3")
        self.go.touch()
        with self.assertRaisesRegex(Trouble, "(?s)compiling the kernels.*no memory is left"):
            compile_kernels()
        self.assertFalse(self.stamp.holds())

    def test_once_is_enough(self) -> None:
        self.go.touch()
        compile_kernels()
        self.go.unlink()  # another time it would wait for ever
        compile_kernels()
        self.assertEqual(self.said, ["Compiling the kernels …"])

    def test_beside_a_running_program(self) -> None:
        """The share is there for the program to tell while it is under way, and gone once it is done."""
        background = InTheBackground(self.share)
        self.addCleanup(background.stop)

        def has_told() -> bool:
            background.look_after()
            return self.share.read_text() == "0.250"

        self._until(has_told)
        self.go.touch()

        def is_done() -> bool:
            background.look_after()
            return not self.share.exists()

        self._until(is_done)
        self.assertIn("The kernels are compiled.", self.said)

    def test_a_failure_beside_a_running_program_ends_only_itself(self) -> None:
        self._ends("exit 3")
        self.go.touch()
        background = InTheBackground(self.share)

        def is_done() -> bool:
            background.look_after()
            return not self.share.exists()

        self._until(is_done)
        self.assertIn("It failed while compiling", self.said[-1])

    def test_what_a_killed_launcher_left_is_told_no_longer(self) -> None:
        self.share.write_text("0.500")
        self.stamp.set()
        InTheBackground(self.share).look_after()
        self.assertFalse(self.share.exists())

    def test_stopped_in_the_middle(self) -> None:
        background = InTheBackground(self.share)
        begun = time.monotonic()
        background.stop()
        self.assertLess(time.monotonic() - begun, 3)
        self.assertFalse(self.share.exists())
        self.assertFalse(self.stamp.holds())
