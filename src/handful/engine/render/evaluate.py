"""Computing a planned picture, with what is already known taken from the cache."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Callable

import cv2

from handful.engine.kinds import Unstable
from handful.engine.picture import Tile
from handful.engine.render.cache import Cache
from handful.engine.render.nodes import Node, Value
from handful.engine.render.plan import PlanError


class Stopped(Exception):
    """The picture is not needed any more."""


_NO_ROOM = (
    "This picture needs more memory than there is; a smaller one needs less, and so do fewer layers that look at "
    "others, shorter margins of blurs and glows, and grids of less detail."
)


class NoRoom(PlanError):
    """There is not enough memory for a picture, with whatever else is under way."""

    def __init__(self) -> None:
        super().__init__(_NO_ROOM)

    def __reduce__(self) -> tuple[type[NoRoom], tuple[()]]:
        """It goes to another process as it is."""
        return NoRoom, ()


def _never() -> bool:
    return False


def evaluate(node: Node, cache: Cache, should_stop: Callable[[], bool] = _never) -> Tile:
    """The picture of a node. `should_stop` is asked between nodes; raises `Stopped` if it says so, and `PlanError`
    where a source with memory comes to what cannot be, and `NoRoom` where there is not enough memory.

    Whatever the cache does not keep is held until its last use within this picture, so that
    nothing is computed twice for it.
    """
    order, known = _to_compute(node, cache)
    uses = Counter(before.key for each in order for before in each.inputs)
    for each in order:
        if should_stop():
            raise Stopped
        begun = time.perf_counter()
        try:
            value = _computed(each, [known[before.key] for before in each.inputs], cache)
        except Unstable as error:
            raise PlanError(str(error)) from error
        cache.costs.learn(each.work, time.perf_counter() - begun)
        cache.put(each.key, value, each.lasts)
        known[each.key] = value
        for before in each.inputs:
            uses[before.key] -= 1
            if uses[before.key] == 0 and before.key != node.key:
                del known[before.key]
    found = known[node.key]
    assert isinstance(found, Tile)
    return found


def _computed(node: Node, inputs: list[Value], cache: Cache) -> Value:
    """The value of a node; where there is not enough memory, all that is only kept is let go of and it is tried again."""
    value: Value
    for has_let_go in (False, True):
        try:
            value = node.compute(inputs)
            break
        except (MemoryError, cv2.error) as error:
            if not _lacks_memory(error):
                raise
            if has_let_go:
                raise NoRoom from error
        cache.let_go()
    return value


def _lacks_memory(error: Exception) -> bool:
    return isinstance(error, MemoryError) or getattr(error, "code", None) == cv2.Error.StsNoMem


def _to_compute(node: Node, cache: Cache) -> tuple[list[Node], dict[str, Value]]:
    """The nodes to compute, each after its inputs, and the values already known for them."""
    order: list[Node] = []
    known: dict[str, Value] = {}
    seen: set[str] = set()
    waiting = [(node, False)]
    while waiting:
        each, is_ready = waiting.pop()
        if is_ready:
            order.append(each)
            continue
        if each.key in seen:
            continue
        seen.add(each.key)
        value = cache.get(each.key, each.lasts)
        if value is not None:
            known[each.key] = value
            continue
        waiting.append((each, True))
        waiting.extend((before, False) for before in reversed(each.inputs))
    return order, known
