"""What sources with memory have gone through already, so that a bench can tell it and show something meanwhile."""

from __future__ import annotations

from typing import NamedTuple

from handful.engine.recipe import Recipe
from handful.engine.render.cache import Cache
from handful.engine.render.media import NO_MEDIA, Media
from handful.engine.render.nodes import Node
from handful.engine.render.plan import plan

_MOST_TRIES = 3


class Remembered(NamedTuple):
    """The frames up to one at which everything with memory knows its state; and of how many states that lead
    there how many are known."""

    frames: tuple[int, ...]
    known: int
    states: int


def remembered(node: Node, cache: Cache) -> Remembered:
    """What is known of all the states that lead to a picture."""
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
    frames = tuple(sorted(frame for frame, known in by_frame.items() if all(known)))
    every = [known for states in by_frame.values() for known in states]
    return Remembered(frames, sum(every), len(every))


def nearest_known(
    recipe: Recipe, frame: int, scale: float, cache: Cache, media: Media = NO_MEDIA
) -> int | None:
    """The frame of a shot nearest before one whose picture needs no more states, or nothing."""
    known = remembered(plan(recipe, frame, scale, media=media), cache).frames
    tried = [each for each in reversed(known) if recipe.canvas.first <= each < frame]
    for each in tried[:_MOST_TRIES]:
        if not _needs_states(plan(recipe, each, scale, media=media), cache):
            return each
    return None


def _needs_states(node: Node, cache: Cache) -> bool:
    """Whether a state is still to be computed for a picture."""
    waiting, seen = [node], set()
    while waiting:
        each = waiting.pop()
        if each.key in seen or cache.has(each.key, each.lasts):
            continue
        if each.frame is not None:
            return True
        seen.add(each.key)
        waiting.extend(each.inputs)
    return False
