"""Taking turns at computing: one picture at a time uses all threads, and the most wanted goes first."""

from __future__ import annotations

import heapq
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import count
from threading import Condition

AT_ONCE, SOON, LATER = 0, 1, 2
"""A picture that a person waits for; those beside it; those that only make a list prettier."""


class Turns:
    """Whoever waits with the lowest rank comes next, and of equal ones whoever waits longest."""

    def __init__(self) -> None:
        self._changed = Condition()
        self.waiting: list[tuple[int, int]] = []
        """Ranks and numbers of those that wait, as a heap."""
        self._tickets = count()
        self._is_taken = False

    def is_held_up(self, rank: int) -> bool:
        """Whether somebody waits for a picture that is wanted more than one of a rank."""
        with self._changed:
            return bool(self.waiting) and self.waiting[0][0] < rank

    @contextmanager
    def turn(self, rank: int) -> Iterator[None]:
        """Wait for a turn and hold it."""
        with self._changed:
            ticket = (rank, next(self._tickets))
            heapq.heappush(self.waiting, ticket)
            while self._is_taken or self.waiting[0] != ticket:
                self._changed.wait()
            heapq.heappop(self.waiting)
            self._is_taken = True
        try:
            yield
        finally:
            with self._changed:
                self._is_taken = False
                self._changed.notify_all()
