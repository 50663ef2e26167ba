"""The parts of a running program: each begins anew when it ends by itself, and ends with the launcher."""

from __future__ import annotations

import ctypes
import os
import signal
import subprocess
import time
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path

from launcher.places import DATA, ROOT, say

LEAST_PAUSE, MOST_PAUSE = 1.0, 30.0
"""Seconds until a part that ended is begun anew, each time twice as long."""

STEADY_AFTER = 60.0
"""Seconds for which a part runs before an end counts as its first again."""

_MOST_STOP_SECONDS, _MOST_LEFT_SECONDS = 10, 3
_DIE_WITH_PARENT = 1  # PR_SET_PDEATHSIG of prctl(2)


class Part:
    """A process that is kept going, of a program and its words, in a folder."""

    def __init__(
        self, title: str, log: str, words: Sequence[str], env: dict[str, str], place: Path = ROOT
    ) -> None:
        self.title = title
        self.log = DATA / "log" / f"{log}.log"
        self._words, self._env, self._place = list(words), env, place
        self._pause = LEAST_PAUSE
        self._due: float | None = None
        self._process = self._begin()

    def runs(self) -> bool:
        """Whether it runs now."""
        return self._process.poll() is None

    def look_after(self) -> None:
        """Begin it anew where it has ended, a while after that."""
        now = time.monotonic()
        if self.runs():
            if now - self._begun > STEADY_AFTER:
                self._pause = LEAST_PAUSE
        elif self._due is None:
            say(
                f"The {self.title} stopped by itself; it begins anew in {self._pause:g} s. Its log: {self.log}"
            )
            self._due = now + self._pause
            self._pause = min(MOST_PAUSE, 2 * self._pause)
        elif now >= self._due:
            self._due = None
            self._process = self._begin()

    def ask_to_stop(self) -> None:
        """Ask it to end."""
        if self.runs():
            self._process.terminate()

    def stop(self) -> None:
        """Wait for its end, and make one if it takes too long."""
        try:
            self._process.wait(_MOST_STOP_SECONDS)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
        self._end_what_is_left()

    def _end_what_is_left(self) -> None:
        """What it has begun by itself ends soon after it, or is ended."""
        until = time.monotonic() + _MOST_LEFT_SECONDS
        with suppress(ProcessLookupError):
            while time.monotonic() < until:
                os.killpg(self._process.pid, 0)
                time.sleep(0.02)
            os.killpg(self._process.pid, signal.SIGKILL)

    def _begin(self) -> subprocess.Popen[bytes]:
        """In a process group of its own, so that Ctrl-C reaches only the launcher."""
        self._begun = time.monotonic()
        self.log.parent.mkdir(parents=True, exist_ok=True)
        with self.log.open("ab") as log:
            return subprocess.Popen(
                self._words, env=self._env, cwd=self._place, stdout=log, stderr=log,
                start_new_session=True, preexec_fn=end_with_parent,
            )  # fmt: skip


def end_with_parent() -> None:
    """In a process just made: end when the one that made it does, however that ends."""
    ctypes.CDLL(None).prctl(_DIE_WITH_PARENT, signal.SIGTERM)
