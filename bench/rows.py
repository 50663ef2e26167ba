"""What a measurement says, and how it is taken."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from statistics import median


@dataclass(frozen=True)
class Row:
    """One line of the table. `ratio` is measured to reference, in the sense that `aim` states."""

    name: str
    measured: str
    reference: str
    ratio: float
    aim: str
    holds: bool


def seconds_of(action: Callable[[], object], times: int) -> list[float]:
    """How long an action takes, each time, after one that does not count."""
    action()
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        action()
        taken.append(time.perf_counter() - begun)
    return taken


def milliseconds(seconds: float) -> str:
    """As the table shows it."""
    return f"{1000 * seconds:.1f} ms"


def median_seconds(action: Callable[[], object], times: int) -> float:
    """The median of several."""
    return median(seconds_of(action, times))


COPY_MS = 4.5
"""What a copy of a 1920 x 1080 picture takes where aims in milliseconds are meant."""


def judged(name: str, taken: float, copying: float, aim: float, beside: str = "") -> Row:
    """A row for an aim in milliseconds, held as copies of a picture in the same run."""
    copies, most = taken / copying, aim / COPY_MS
    reference = f"{milliseconds(copying)} a copy" + (f"; {beside}" if beside else "")
    return Row(name, milliseconds(taken), reference, copies, f"≤ {most:.3g} copies", copies <= most)
