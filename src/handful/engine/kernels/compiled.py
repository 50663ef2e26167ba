"""How a kernel is compiled, and how its rows are shared out over threads.

Kernels are compiled without relaxed floating point, so that a picture is the same to the bit
whatever the vector width of the machine.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor, wait
from contextlib import contextmanager
from functools import lru_cache
from itertools import count
from typing import Any, TypeVar, cast

from numba import config, njit
from numba.core import event
from numba.core.compiler_lock import global_compiler_lock

from handful.engine.kernels import stamped

stamped.use()

F = TypeVar("F", bound=Callable[..., Any])

_CORES = os.cpu_count() or 1
_LEAST_ROWS = 32
_BANDS_A_THREAD = 4
"""Enough bands to balance the threads where rows differ, few enough to hide the hand-over."""

_MOST_BY_ONESELF = 100_000
"""Places where little is done with each, some nanoseconds of work: a second thread would begin when they are nearly done."""

NEAR_ROWS = 48
"""Rows of a picture that stay near the processor while several kernels pass over them."""


def compiled(function: F) -> F:
    """Compile with numba, kept in the on-disk cache, running without the interpreter lock.

    The four channels of a px are worked on side by side, which changes no result.
    """
    return _compiled(function, side_by_side=True)


def compiled_along(function: F) -> F:
    """The same for a kernel whose loops go along floats in a row: as many of those are worked on side by side
    as the machine can. Where channels are looked for first, such loops are left one by one."""
    return _compiled(function, side_by_side=False)


def compiled_in(function: F) -> F:
    """For what a loop calls for each px with whole arrays: it becomes a part of the kernel that calls it. A call
    would count who holds each array, which two threads do in turns."""
    return cast(F, njit(nogil=True, error_model="numpy", inline="always")(function))


def _compiled(function: F, side_by_side: bool) -> F:
    made = njit(cache=True, nogil=True, error_model="numpy")(function)
    plain = made.compile

    def compile_so(signature: Any) -> Any:
        with global_compiler_lock:
            before, config.SLP_VECTORIZE = config.SLP_VECTORIZE, int(side_by_side)
            try:
                return plain(signature)
            finally:
                config.SLP_VECTORIZE = before

    made.compile = compile_so
    return cast(F, made)


@contextmanager
def compiling_told(tell: Callable[[int], None]) -> Iterator[None]:
    """Within the block `tell` hears, as a kernel begins to be compiled that is not in the cache, how many those
    are by now."""
    counting = count(1)

    class Heard(event.Listener):
        def on_start(self, event: event.Event) -> None:
            tell(next(counting))

        def on_end(self, event: event.Event) -> None:
            pass

    with event.install_listener("numba:compile", Heard()):
        yield


def thread_count() -> int:
    """Threads that kernels may use: `HANDFUL_THREADS`, or one for each core."""
    return max(1, int(os.environ.get("HANDFUL_THREADS", "0")) or _CORES)


def even_share(rows: int) -> int:
    """Rows of a band where all are as much work: two bands for each thread, as one core may be slower than another."""
    return -(-rows // (2 * thread_count()))


def worth_a_hand(rows: int, columns: int) -> int:
    """Rows of a band where little is done with each of so many places: a few of them are sooner done than handed over."""
    return max(even_share(rows), _MOST_BY_ONESELF // max(1, columns))


@lru_cache(maxsize=1)
def _pool(threads: int) -> ThreadPoolExecutor:
    return ThreadPoolExecutor(threads, thread_name_prefix="band")


def in_bands(
    kernel: Callable[..., None], rows: int, *arguments: Any, band: int | None = None
) -> None:
    """Run `kernel(first_row, last_row, *arguments)` over `rows` rows, in bands over the threads.

    Each row is computed by exactly one call and no row reads what another writes, so the
    result does not depend on the number of threads. `band` fixes how many rows a call gets.

    Whoever calls works too, and threads that have not begun by the end are not waited for: little work is soon done
    however many others have some.
    """
    threads = thread_count()
    if band is None:
        band = max(_LEAST_ROWS, -(-rows // (threads * _BANDS_A_THREAD))) if threads > 1 else rows
    if threads == 1 or rows <= band:
        for y in range(0, rows, max(1, band)):
            kernel(y, min(rows, y + band), *arguments)
        return
    starts = iter(range(0, rows, band))

    def work() -> None:
        for y in starts:
            kernel(y, min(rows, y + band), *arguments)

    pool = _pool(threads - 1)
    helpers = [pool.submit(work) for _ in range(min(threads, -(-rows // band)) - 1)]
    try:
        work()
    finally:
        late = [helper for helper in helpers if not helper.cancel()]
        wait(late)
    for helper in late:
        helper.result()
