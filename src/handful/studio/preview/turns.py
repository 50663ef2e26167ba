"""Taking turns at computing: a few pictures at a time share all threads, the most wanted goes first, and of those that
are wanted alike the one of whoever has had least lately."""

from __future__ import annotations

import math
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from itertools import count
from threading import Condition
from typing import NamedTuple

AT_ONCE, SOON, LATER = 0, 1, 2
"""A picture that a person waits for; those beside it; those that only make a list prettier."""

LEAST_SECONDS = 0.25
"""For which a turn is held before somebody else who has had less goes on meanwhile."""

FORGOTTEN_IN = 10.0
"""Seconds in which what somebody has had counts half as much."""

_MOST_PEOPLE = 1_000


class _Ticket(NamedTuple):
    """One that waits: how much it is wanted, for whom, and since when."""

    rank: int
    person: str
    number: int


class _Had(NamedTuple):
    """Seconds of turns that somebody has had, as they counted at a time."""

    seconds: float
    at: float


class Turns:
    """Whoever waits with the lowest rank comes next, of equal ones who has had least, and then who waits longest."""

    def __init__(self, clock: Callable[[], float] = time.monotonic, at_once: int = 1) -> None:
        self._at_once = at_once
        self._changed = Condition()
        self._clock = clock
        self.waiting: set[_Ticket] = set()
        self._tickets = count()
        self._had: OrderedDict[str, _Had] = OrderedDict()
        self._holders: list[Turn] = []

    @contextmanager
    def turn(self, rank: int, person: str = "", alone: bool = False) -> Iterator[Turn]:
        """Wait for a turn and hold it; while nobody else holds one, if it is to be alone."""
        turn = Turn(self, rank, person, alone)
        turn.wait()
        try:
            yield turn
        finally:
            turn.end()

    def are_wanted(self) -> bool:
        """Whether anybody waits for a turn, or holds one."""
        return bool(self.waiting or self._holders)

    def crowd(self, rank: int) -> int:
        """How many wait that are wanted as much as that, or more."""
        with self._changed:
            return sum(each.rank <= rank for each in self.waiting)

    def had(self, person: str, now: float | None = None) -> float:
        """Seconds that somebody has had, of which old ones count less."""
        seconds, at = self._had.get(person, _Had(0.0, 0.0))
        return seconds * math.pow(
            0.5, ((self._clock() if now is None else now) - at) / FORGOTTEN_IN
        )

    def _has_room(self, alone: bool) -> bool:
        """Whether one more may begin."""
        if alone or any(each.is_alone for each in self._holders):
            return not self._holders
        return len(self._holders) < self._at_once

    def _next(self) -> _Ticket:
        """All are judged at one moment: what somebody has had is the same for all that they wait for."""
        now = self._clock()
        return min(
            self.waiting, key=lambda each: (each.rank, self.had(each.person, now), each.number)
        )


class Turn:
    """One's turn, which can be lent to others in the middle. It has had company where others held theirs meanwhile."""

    def __init__(self, turns: Turns, rank: int, person: str, alone: bool) -> None:
        self._turns = turns
        self.is_alone = alone
        self.has_company = False
        self._ticket = _Ticket(rank, person, next(turns._tickets))
        self._since = 0.0

    def wait(self) -> None:
        """Until it is one's own."""
        turns = self._turns
        with turns._changed:
            turns.waiting.add(self._ticket)
            while not turns._has_room(self.is_alone) or turns._next() != self._ticket:
                turns._changed.wait()
            turns.waiting.remove(self._ticket)
            turns._holders.append(self)
            if len(turns._holders) > 1:
                for each in turns._holders:
                    each.has_company = True
            self._since = turns._clock()
            turns._changed.notify_all()  # there may be room for one more

    def end(self) -> None:
        """It is somebody else's."""
        turns = self._turns
        with turns._changed:
            had = turns.had(self._ticket.person) + self._held()
            turns._had[self._ticket.person] = _Had(had, turns._clock())
            turns._had.move_to_end(self._ticket.person)
            while len(turns._had) > _MOST_PEOPLE:
                turns._had.popitem(last=False)
            turns._holders.remove(self)
            turns._changed.notify_all()

    def give_way(self) -> None:
        """Let those go first who should, and go on afterwards: whoever is wanted more, or has had less by more than
        what a turn lasts at least."""
        if self._should_give_way():
            self.end()
            self.wait()

    def _should_give_way(self) -> bool:
        turns = self._turns
        with turns._changed:
            if not turns.waiting:
                return False
            first = turns._next()
            if not self.is_alone and len(turns._holders) < turns._at_once:
                return False
            if first.rank != self._ticket.rank:
                return first.rank < self._ticket.rank
            held = self._held()
            has_had = turns.had(self._ticket.person) + held
            return held > LEAST_SECONDS and turns.had(first.person) + LEAST_SECONDS < has_had

    def _held(self) -> float:
        return self._turns._clock() - self._since
