"""Rows shared out over threads."""

from threading import Event
from unittest import TestCase, mock

import numpy as np

from handful.engine.kernels import compiled
from handful.engine.kernels.compiled import even_share, in_bands


class InBands(TestCase):
    def test_each_row_once_on_any_number_of_threads(self) -> None:
        for threads in (1, 2, 5):
            for rows in (0, 1, 33, 1000):
                with (
                    self.subTest(threads=threads, rows=rows),
                    mock.patch.object(compiled, "thread_count", return_value=threads),
                ):
                    for band in (None, 1, 7, max(1, even_share(rows))):
                        times = np.zeros(rows, np.int64)

                        def count(first: int, last: int, times: np.ndarray = times) -> None:
                            times[first:last] += 1

                        in_bands(count, rows, band=band)
                        self.assertTrue((times == 1).all())

    def test_threads_that_are_busy_elsewhere_are_not_waited_for(self) -> None:
        free, rows = Event(), np.zeros(8, np.int64)

        def count(first: int, last: int) -> None:
            rows[first:last] += 1

        with mock.patch.object(compiled, "thread_count", return_value=2):
            busy = compiled._pool(1).submit(free.wait, 20)
            in_bands(count, len(rows), band=1)
            self.assertFalse(busy.done())
            free.set()
            busy.result()
        self.assertEqual(rows.tolist(), [1] * 8)

    def test_what_fails_on_any_thread_is_told_once_all_have_ended(self) -> None:
        for at in range(6):
            going: list[int] = []

            def work(first: int, last: int, at: int = at, going: list[int] = going) -> None:
                going.append(first)
                try:
                    if first == at:
                        raise ArithmeticError(first)
                finally:
                    going.remove(first)

            with (
                self.subTest(at=at),
                mock.patch.object(compiled, "thread_count", return_value=3),
                self.assertRaises(ArithmeticError),
            ):
                in_bands(work, 6, band=1)
            self.assertEqual(going, [])
