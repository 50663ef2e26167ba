"""Pictures and states already computed, by key, within a budget of bytes."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock

import numpy as np
from numpy.typing import NDArray

from handful.engine.render.costs import Costs
from handful.engine.render.lasting import Lasting
from handful.engine.render.nodes import Value


class Cache:
    """Keeps the values used last, up to `budget` bytes, and on disk those that are to last. It may be
    shared by threads."""

    def __init__(self, budget: int, lasting: Lasting | None = None) -> None:
        self.budget = budget
        self.lasting = lasting
        self.held = 0
        self.misses = 0
        self.costs = Costs()
        self._values: OrderedDict[str, Value] = OrderedDict()
        self._lock = Lock()

    def get(self, key: str, lasts: bool = False) -> Value | None:
        """What is under a key, if it is still here; one that lasts may be on disk."""
        with self._lock:
            value = self._values.get(key)
            if value is not None:
                self._values.move_to_end(key)
                return value
            self.misses += 1
        if not lasts or self.lasting is None:
            return None
        state = self.lasting.get(key)
        if state is not None:
            self._hold(key, state)
        return state

    def has(self, key: str, lasts: bool = False) -> bool:
        """Whether something is under a key, without using it."""
        with self._lock:
            if key in self._values:
                return True
        return lasts and self.lasting is not None and self.lasting.has(key)

    def put(self, key: str, value: Value, lasts: bool = False) -> None:
        """Keep a value, which must not be written to from now on; the oldest make room for it."""
        self._hold(key, value)
        if lasts and self.lasting is not None:
            self.lasting.put(key, value)

    def let_go(self) -> None:
        """Keep nothing in memory; what lasts stays on disk."""
        with self._lock:
            self._values.clear()
            self.held = 0

    def _hold(self, key: str, value: Value) -> None:
        for array in _arrays(value):
            array.flags.writeable = False
        size = _bytes_behind(value)
        if size > self.budget:
            return
        with self._lock:
            old = self._values.pop(key, None)
            if old is not None:
                self.held -= _bytes_behind(old)
            self._values[key] = value
            self.held += size
            while self.held > self.budget:
                _, dropped = self._values.popitem(last=False)
                self.held -= _bytes_behind(dropped)


def _arrays(value: Value) -> list[NDArray[np.generic]]:
    return [part for part in value if isinstance(part, np.ndarray)]


def _bytes_behind(value: Value) -> int:
    """What keeping it keeps in memory: a view holds the whole array that it looks into."""
    return sum(max(array.nbytes, int(getattr(array.base, "nbytes", 0))) for array in _arrays(value))
