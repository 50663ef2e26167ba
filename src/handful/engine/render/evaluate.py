"""Computing a planned picture, with what is already known taken from the cache."""

from __future__ import annotations

from collections.abc import Callable

from handful.engine.picture import Tile
from handful.engine.render.cache import Cache
from handful.engine.render.plan import Node


class Stopped(Exception):
    """The picture is not needed any more."""


def _never() -> bool:
    return False


def evaluate(node: Node, cache: Cache, should_stop: Callable[[], bool] = _never) -> Tile:
    """The picture of a node. `should_stop` is asked between nodes; raises `Stopped` if it says so."""
    known = cache.get(node.key)
    if known is not None:
        return known
    inputs = [evaluate(before, cache, should_stop) for before in node.inputs]
    if should_stop():
        raise Stopped
    tile = node.compute(inputs)
    cache.put(node.key, tile)
    return tile
