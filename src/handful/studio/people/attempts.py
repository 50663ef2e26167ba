"""Attempts to sign in: whoever guesses has to wait longer and longer, and holds up nobody else.

Counted is by name and address together, so that nobody is locked out by what others try from elsewhere;
and by address alone, so that nobody goes through names. The web server is one process and counts by itself.
"""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore, Lock
from typing import NamedTuple

FREE_ATTEMPTS, FREE_FROM_AN_ADDRESS = 5, 50
LONGEST_SECONDS = 300.0
FORGOTTEN_AFTER = 900.0
MOST_KNOWN = 20_000
AT_ONCE, PATIENCE_SECONDS = 2, 5.0


class _Failed(NamedTuple):
    times: int
    last: float


class Attempts:
    """Failed attempts by name and address, and by address."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._failed: OrderedDict[tuple[str, str], _Failed] = OrderedDict()
        self._lock = Lock()
        self._hashing = BoundedSemaphore(AT_ONCE)

    def wait(self, name: str, address: str) -> float:
        """Seconds until the next attempt may be made; 0 if it may be made now."""
        with self._lock:
            return max(
                self._wait((name.casefold(), address), FREE_ATTEMPTS),
                self._wait(("", address), FREE_FROM_AN_ADDRESS),
            )

    def failed(self, name: str, address: str) -> None:
        """An attempt was made that failed."""
        with self._lock:
            for who in ((name.casefold(), address), ("", address)):
                self._failed[who] = _Failed(self._count(who) + 1, self._clock())
                self._failed.move_to_end(who)
            while len(self._failed) > MOST_KNOWN:
                self._failed.popitem(last=False)

    def succeeded(self, name: str, address: str) -> None:
        """Whoever signs in begins anew."""
        with self._lock:
            self._failed.pop((name.casefold(), address), None)

    @contextmanager
    def turn(self) -> Iterator[bool]:
        """Hashing takes time: few at once, and whether it is one's turn before patience ends."""
        got = self._hashing.acquire(timeout=PATIENCE_SECONDS)
        try:
            yield got
        finally:
            if got:
                self._hashing.release()

    def _count(self, who: tuple[str, str]) -> int:
        known = self._failed.get(who)
        if known is None or self._clock() - known.last > FORGOTTEN_AFTER:
            return 0
        return known.times

    def _wait(self, who: tuple[str, str], free: int) -> float:
        more = self._count(who) - free
        if more < 0:
            return 0.0
        pause = min(LONGEST_SECONDS, 2.0 ** min(more + 1, 20))
        return max(0.0, self._failed[who].last + pause - self._clock())


attempts = Attempts()
