"""What sources with memory have gone through already, so that a bench can tell it and show something meanwhile."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from handful.engine.render.cache import Cache
from handful.engine.render.nodes import Node, Value


class Remembered(NamedTuple):
    """The frames up to one at which everything with memory knows its state; and of how many states that lead
    there how many are known."""

    frames: tuple[int, ...]
    known: int
    states: int


def remembered(node: Node, cache: Cache, frame: int) -> Remembered:
    """What is known of all the states that lead to a picture on a frame."""
    by_frame: dict[int, list[bool]] = {}
    seen: set[tuple[str, int | None]] = set()
    waiting = [node]
    while waiting:
        each = waiting.pop()
        # A copy that is ahead shares states, at other frames.
        if (each.key, each.frame) in seen:
            continue
        seen.add((each.key, each.frame))
        if each.frame is not None:
            is_known = cache.has(each.key, each.lasts)
            by_frame.setdefault(each.frame, []).append(is_known)
        waiting.extend(each.inputs)
    held = sorted(by_frame)
    # Where time goes slowly, a state stands for some frames, up to that of the next.
    frames = tuple(
        each
        for at, later in zip(
            held, [*held[1:], max(frame, held[-1]) + 1] if held else (), strict=True
        )
        if all(by_frame[at])
        for each in range(at, later)
    )
    every = [known for states in by_frame.values() for known in states]
    return Remembered(frames, sum(every), len(every))


class Instead(Cache):
    """A cache in which the last states that are known stand in for those that a picture would need; what is made
    of them is not kept."""

    def __init__(self, behind: Cache, states: Mapping[str, Value]) -> None:
        super().__init__(0)
        self._behind = behind
        self._states = states

    def get(self, key: str, lasts: bool = False) -> Value | None:
        """What is under a key, or stands in for it."""
        found = self._states.get(key)
        return self._behind.get(key, lasts) if found is None else found

    def put(self, key: str, value: Value, lasts: bool = False) -> None:
        """Nothing is kept: a key would name what it is not."""


def standing_in(nodes: Sequence[Node], cache: Cache) -> tuple[Instead, int] | None:
    """For some pictures, the last states on the way to those that are needed; and the earliest frame that one of
    them is at. Nothing if there is a source of which no state is known."""
    states: dict[str, Value] = {}
    frames: list[int] = []
    seen: set[str] = set()
    waiting = list(nodes)
    while waiting:
        each = waiting.pop()
        if each.key in seen or cache.has(each.key, each.lasts):
            continue
        seen.add(each.key)
        if each.frame is None:
            waiting.extend(each.inputs)
            continue
        before: Node | None = each
        value = None
        while before is not None and value is None:
            before = next((node for node in before.inputs if node.frame is not None), None)
            value = before and cache.get(before.key, before.lasts)
        if before is None or before.frame is None or value is None:
            return None
        states[each.key] = value
        frames.append(before.frame)
    return (Instead(cache, states), min(frames)) if frames else None
