"""Nodes: pictures and states to compute, each named by all that it depends on."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from hashlib import blake2b
from typing import Any, NamedTuple

from handful.engine.kinds import At, Pointwise, State, Step, changed
from handful.engine.mix import Part, mixed
from handful.engine.picture import PictureKind, Region, Tile, clear_tile, summed
from handful.engine.render.edition import edition

Value = Tile | State
"""A picture, or a state that pictures come from."""


class Work(NamedTuple):
    """What there is to do for a node: of what kind it is, and for how many px."""

    what: str
    px: int
    is_state: bool = False


class Node(NamedTuple):
    """One picture or state to compute. `key` names its content; `compute` takes the inputs' values. A state
    that `lasts` is worth keeping on disk, and that of a source with memory is at a `frame` of the shot. One that
    `fills` costs as much for each px, however many are asked for: a source that has no end is in it. `work` tells
    what computing it is like."""

    key: str
    inputs: tuple[Node, ...]
    compute: Callable[[list[Any]], Any]
    work: Work
    lasts: bool = False
    frame: int | None = None
    fills: bool = False


def nothing(region: Region, kind: PictureKind = "light") -> Node:
    """A picture with nothing in it."""
    return node_of("nothing", (region, kind), (), lambda _: clear_tile(region, kind))


def sum_of(nodes: Sequence[Node], shares: Sequence[float], region: Region) -> Node:
    """Heights or offsets added up on a region, each times its share."""
    return node_of(
        "sum", (region, shares), tuple(nodes), lambda tiles: summed(tiles, shares, region)
    )


class Around(NamedTuple):
    """Where a picture is known finely, and how many times as large the px of the one around it are."""

    inner: Region
    times: int


def applied(step: Step, at: At, tiles: list[Tile], moments: int, around: Around | None) -> Tile:
    """A step's picture, from those at the moments that it looks at, or from one and a coarser one around it, and from
    those of other layers.

    Nothing comes from nothing: a step never sees a picture without px.
    """
    if all(tile.region.empty for tile in tiles[:moments]):
        return clear_tile(at.wanted, tiles[0].kind)
    if around is not None:
        return step.apply_around(tiles[0], around.inner, tiles[1], around.times, at)
    return step.apply_to(tiles[:moments], at, tiles[moments:])


def run_over(run: Sequence[tuple[Pointwise, At]], tile: Tile) -> Tile:
    """A picture after pointwise steps in a row, in one pass."""
    return changed(tile, [step.changer(at) for step, at in run])


def mix_of(nodes: Sequence[Node], ways: Sequence[tuple[Any, ...]], region: Region) -> Node:
    """The pictures mixed on a region, each by its blend, how much of it shows, and what that acts on."""

    def mix(inputs: list[Tile]) -> Tile:
        return mixed([Part(tile, *way) for tile, way in zip(inputs, ways, strict=True)], region)

    return node_of("mix", (region, ways), tuple(nodes), mix)


def node_of(
    what: str, about: object, inputs: tuple[Node, ...], compute: Callable[..., Value]
) -> Node:
    """A node named by what is done, about what, and to which pictures."""
    digest = blake2b(digest_size=16)
    digest.update(repr((edition(), what, about)).encode())
    for before in inputs:
        digest.update(before.key.encode())
    fills = any(before.fills for before in inputs)
    return Node(digest.hexdigest(), inputs, compute, _work(what, about), fills=fills)


def _work(what: str, about: object) -> Work:
    """By what is drawn or done, where it is of one kind, and where; of steps in a row by the first."""
    parts = about if type(about) is tuple else (about,)
    parts = parts[0] if type(parts[0]) is tuple else parts
    places = [part.wanted if isinstance(part, At) else part for part in parts]
    region = next((place for place in places if isinstance(place, Region)), None)
    kind = "" if isinstance(places[0], Region) else type(places[0]).__name__
    px = 0 if region is None else max(0, region.width) * max(0, region.height)
    return Work(f"{what} {kind}", px, what == "state")
