"""Taking turns: what is wanted most goes first, nobody takes more than their share, and what is long gives way."""

from __future__ import annotations

import threading
import time
from collections import Counter
from collections.abc import Callable
from itertools import count
from unittest import TestCase

from handful.studio.preview.turns import AT_ONCE, FORGOTTEN_IN, LATER, LEAST_SECONDS, SOON, Turns


class Turning(TestCase):
    """With a clock that stands still unless it is set."""

    def setUp(self) -> None:
        self.now = 0.0
        self.turns = Turns(lambda: self.now)
        self.done: list[str] = []
        self.threads: list[threading.Thread] = []

    def _begin(self, work: Callable[[], None]) -> None:
        """Somebody else begins, and waits by the time this is over."""
        waiting = len(self.turns.waiting)
        self.threads.append(threading.Thread(target=work))
        self.threads[-1].start()
        end = time.monotonic() + 10
        while len(self.turns.waiting) == waiting:
            self.assertLess(time.monotonic(), end)

    def _comes(self, name: str, rank: int = AT_ONCE, person: str = "") -> None:
        def work() -> None:
            with self.turns.turn(rank, person):
                self.done.append(name)

        self._begin(work)

    def _has_had(self, person: str, seconds: float) -> None:
        with self.turns.turn(AT_ONCE, person):
            self.now += seconds

    def _all_done(self) -> list[str]:
        for thread in self.threads:
            thread.join(10)
            self.assertFalse(thread.is_alive(), "somebody still waits")
        return self.done

    def test_of_what_one_person_waits_for_the_earliest_goes_first(self) -> None:
        """By a clock that goes on with each look at it, while what was had counts less and less."""
        ticks = count()
        self.turns = Turns(lambda: 0.001 * next(ticks))
        names = [f"look {i}" for i in range(12)]
        with self.turns.turn(AT_ONCE, "Ada"):
            for _ in range(1000):
                next(ticks)
        with self.turns.turn(AT_ONCE, "Ada"):
            for name in names:
                self._comes(name, AT_ONCE, "Ada")
        self.assertEqual(self._all_done(), names)

    def test_how_many_wait(self) -> None:
        with self.turns.turn(AT_ONCE, "Ada"):
            self.assertEqual(self.turns.crowd(LATER), 0)
            for name, rank in (("look", AT_ONCE), ("strip", SOON), ("list", LATER)):
                self._comes(name, rank)
            self.assertEqual([self.turns.crowd(rank) for rank in (AT_ONCE, SOON, LATER)], [1, 2, 3])
        self._all_done()

    def test_as_many_at_once_as_there_are_cores(self) -> None:
        """Two work and a third waits; it goes on as soon as one of them is over, and nobody gives way while there is
        room."""
        self.turns = Turns(lambda: self.now, at_once=2)
        with self.turns.turn(AT_ONCE, "Ada") as first:
            with self.turns.turn(AT_ONCE, "Grace"):
                self._comes("third", AT_ONCE, "Hedy")
                self.assertEqual(self.done, [])
            self.assertEqual(self._all_done(), ["third"])
            self.now += 10
            first.give_way()

    def test_alone(self) -> None:
        """It begins once nobody holds a turn, those who come meanwhile wait for it, and it gives way as others do."""
        self.turns = Turns(lambda: self.now, at_once=2)

        def work() -> None:
            with self.turns.turn(AT_ONCE, "Ada", alone=True) as turn:
                self.assertFalse(turn.has_company)
                self.done.append("alone")
                self._comes("later", AT_ONCE, "Hedy")
                self.assertEqual(self.done, ["first", "alone"])
                self.now += 10
                turn.give_way()
                self.done.append("alone again")

        with self.turns.turn(AT_ONCE, "Grace") as first:
            self._begin(work)
            self.assertFalse(first.has_company)
            self.done.append("first")
        self.assertEqual(self._all_done(), ["first", "alone", "later", "alone again"])

    def test_company(self) -> None:
        """Both have had it who held turns at one time, and none who only waited."""
        self.turns = Turns(lambda: self.now, at_once=2)
        with self.turns.turn(AT_ONCE, "Ada") as first:
            self.assertFalse(first.has_company)
            with self.turns.turn(AT_ONCE, "Grace") as second:
                self.assertTrue(second.has_company)
            self.assertTrue(first.has_company)

    def test_the_most_wanted_goes_first(self) -> None:
        """Of those that came while one worked, the most wanted is next, and of equals the earliest."""
        with self.turns.turn(AT_ONCE):
            for name, rank in (
                ("list", LATER),
                ("strip", SOON),
                ("strip 2", SOON),
                ("look", AT_ONCE),
            ):
                self._comes(name, rank)
        self.assertEqual(self._all_done(), ["look", "strip", "strip 2", "list"])

    def test_who_has_had_least_goes_first(self) -> None:
        """Whoever asks for much comes after those who do not, but never after what is wanted less."""
        self._has_had("greedy", 5)
        self._has_had("modest", 1)
        with self.turns.turn(AT_ONCE):
            self._comes("greedy", person="greedy")
            self._comes("strip of a newcomer", SOON, "newcomer")
            self._comes("modest", person="modest")
            self._comes("newcomer", person="newcomer")
        self.assertEqual(self._all_done(), ["newcomer", "modest", "greedy", "strip of a newcomer"])

    def test_what_one_had_is_forgotten(self) -> None:
        self._has_had("greedy", 8)
        self.assertAlmostEqual(self.turns.had("greedy"), 8)
        self.now += 2 * FORGOTTEN_IN
        self.assertAlmostEqual(self.turns.had("greedy"), 2)

    def test_what_is_wanted_less_gives_way_at_once(self) -> None:
        with self.turns.turn(LATER, "a") as turn:
            turn.give_way()
            self._comes("picture")
            self._comes("another list", LATER)
            turn.give_way()
            self.done.append("list")
        self.assertEqual(self._all_done(), ["picture", "list", "another list"])

    def test_what_is_long_gives_way_to_others(self) -> None:
        """Another person's picture comes in the middle, once the first has had its least; one of the same person does
        not, and neither does one that is wanted less."""
        with self.turns.turn(AT_ONCE, "a") as turn:
            self._comes("of the same", person="a")
            self._comes("of another", person="b")
            self._comes("a strip of another", SOON, "c")
            self.now += LEAST_SECONDS
            turn.give_way()
            self.assertEqual(self.done, [])
            self.now += LEAST_SECONDS
            turn.give_way()
            self.assertEqual(self.done, ["of another"])
            self.done.append("long")
        self.assertEqual(
            self._all_done(), ["of another", "long", "of the same", "a strip of another"]
        )

    def test_a_failure_ends_a_turn(self) -> None:
        with self.assertRaises(ZeroDivisionError), self.turns.turn(AT_ONCE):
            raise ZeroDivisionError
        self._has_had("next", 1)


class Crowd(TestCase):
    def test_twenty_at_once_and_one_that_is_heavy(self) -> None:
        """Twenty people drag, each asking for a small picture as soon as they have the one before; one of them asks for
        what takes as long as all others together. Each of the others waits about a round of all, and the heavy one is
        done in the end."""
        turns = Turns()
        small, nodes = 0.004, 60
        counts: Counter[int] = Counter()
        longest: Counter[int] = Counter()
        ending = threading.Event()
        self.addCleanup(ending.set)
        heavy_done = threading.Event()

        def drags(person: int) -> None:
            while not ending.is_set():
                asked = time.monotonic()
                with turns.turn(AT_ONCE, str(person)):
                    longest[person] = max(longest[person], int(1000 * (time.monotonic() - asked)))
                    time.sleep(small)
                counts[person] += 1

        def heavy() -> None:
            with turns.turn(AT_ONCE, "heavy") as turn:
                for _ in range(nodes):
                    time.sleep(small)
                    turn.give_way()
            heavy_done.set()

        threads = [threading.Thread(target=drags, args=(person,)) for person in range(19)]
        threads.append(threading.Thread(target=heavy))
        for thread in threads:
            thread.start()
        self.assertTrue(heavy_done.wait(20), "the heavy one starves")
        time.sleep(0.5)
        ending.set()
        for thread in threads:
            thread.join(10)
        self.assertGreater(min(counts.values()), 0.5 * max(counts.values()))
        self.assertLess(max(longest.values()), 2000)
