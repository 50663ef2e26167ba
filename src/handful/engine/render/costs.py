"""What pictures cost, told before they are computed: by what the same work took, a px, when it was done last."""

from __future__ import annotations

from collections import OrderedDict, deque
from collections.abc import Iterable
from statistics import median_low
from threading import Lock
from typing import TYPE_CHECKING, NamedTuple

from handful.engine.render.nodes import Node, Work

if TYPE_CHECKING:
    from handful.engine.render.cache import Cache

SECONDS_A_PX = 3e-8
"""What work is taken to cost that was never done."""

FIXED_PX = 50_000
"""As much as so many px cost, work costs beside its px."""

_REMEMBERED = 5
"""Of so many times it was done the middle one counts: the first may have waited for a kernel to be compiled."""

_MOST_KINDS = 2_000


class Cost(NamedTuple):
    """Seconds that go with the px of a picture, and those that it takes however small it is."""

    by_px: float
    fixed: float

    def at(self, times: float) -> float:
        """Seconds of a picture so many times smaller, across and down."""
        return self.by_px / times**2 + self.fixed


class Costs:
    """Seconds a px of each kind of work, learnt as it is done. Threads may share it."""

    def __init__(self) -> None:
        self._rates: OrderedDict[str, deque[float]] = OrderedDict()
        self._lock = Lock()

    def learn(self, work: Work, seconds: float) -> None:
        """That work was done, and how long it took."""
        with self._lock:
            rates = self._rates.setdefault(work.what, deque(maxlen=_REMEMBERED))
            rates.append(seconds / (work.px + FIXED_PX))
            self._rates.move_to_end(work.what)
            if len(self._rates) > _MOST_KINDS:
                self._rates.popitem(last=False)

    def of(self, work: Work) -> Cost:
        """What it is likely to take."""
        with self._lock:
            rates = list(self._rates.get(work.what, ()))
        # Of few the default is one too, and the lower one counts: one that was slow by chance frightens nobody.
        known = rates if len(rates) > 2 else [SECONDS_A_PX, *rates]
        rate = median_low(known)
        return Cost(rate * work.px, rate * FIXED_PX)


def cost_of(nodes: Iterable[Node], cache: Cache) -> Cost:
    """What pictures are likely to take beside what is kept of them; without the states that they come from,
    which are gone through while something else is shown."""
    seen: set[str] = set()
    waiting, by_px, fixed = list(nodes), 0.0, 0.0
    while waiting:
        node = waiting.pop()
        if node.key in seen or cache.has(node.key):
            continue
        seen.add(node.key)
        if node.work.is_state:
            continue
        cost = cache.costs.of(node.work)
        by_px, fixed = by_px + cost.by_px, fixed + cost.fixed
        waiting.extend(node.inputs)
    return Cost(by_px, fixed)
