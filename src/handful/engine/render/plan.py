"""What must be computed for a frame: nodes from the result back to the sources.

Planning resolves moving values, asks each step how far it reaches so that what comes before it
is drawn with enough margin, and gives each node a key made of all that its picture depends on.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from hashlib import blake2b
from typing import Any, NamedTuple

from handful.engine.kinds import At, Source, Step
from handful.engine.mix import Part, mixed, with_cover
from handful.engine.picture import Region, Tile
from handful.engine.recipe.document import Layer, Recipe
from handful.engine.render.edition import edition
from handful.engine.render.resolve import FINISH, Resolver

LEAST_SCALE, MOST_SCALE = 1 / 64, 4.0
MOST_PIXELS = 100_000_000
_REACH_STEP = 128


class PlanError(ValueError):
    """A frame, scale or layer that the recipe does not have."""


class Node(NamedTuple):
    """One picture to compute. `key` names its content; `compute` takes the inputs' pictures."""

    key: str
    inputs: tuple[Node, ...]
    compute: Callable[[list[Tile]], Tile]


def plan(recipe: Recipe, frame: float, scale: float = 1.0, layer: str | None = None) -> Node:
    """The node for the finished frame, or for one layer's own picture, on the scaled canvas.

    Raises `PlanError` for a frame outside the shot, a scale out of range or an unknown layer.
    """
    canvas = recipe.canvas
    if not canvas.first <= frame <= canvas.last:
        raise PlanError(f"frame {frame:g} is not within {canvas.first} to {canvas.last}")
    if not LEAST_SCALE <= scale <= MOST_SCALE:
        raise PlanError(f"scale {scale:g} is not within {LEAST_SCALE:g} to {MOST_SCALE:g}")
    region = canvas_region(recipe, scale)
    if region.width * region.height > MOST_PIXELS:
        raise PlanError(f"a picture of {region.width} × {region.height} px is too large")
    planner = _Planner(recipe, Resolver(recipe, recipe.moment(frame)), scale)
    if layer is None:
        return planner.result(region)
    for chosen in recipe.layers:
        if chosen.id == layer:
            return planner.canvas_cut(planner.layer(chosen, region), region)
    raise PlanError(f"there is no layer {layer!r}")


def canvas_region(recipe: Recipe, scale: float) -> Region:
    """The canvas in px at a scale, from its corner."""
    return Region(
        0,
        0,
        max(1, math.ceil(recipe.canvas.width * scale - 1e-6)),
        max(1, math.ceil(recipe.canvas.height * scale - 1e-6)),
    )


@dataclass(frozen=True)
class _Planner:
    recipe: Recipe
    resolved: Resolver
    scale: float

    def result(self, region: Region) -> Node:
        chain = [step for step in self.recipe.finish if step.on]
        made = [self.resolved.step(step, None) for step in chain]
        wanted = self._wanted(region, made)
        node = self._mixed(wanted[0])
        for step, written, part in zip(made, chain, wanted[1:], strict=True):
            node = self._step(node, step, written.id, FINISH, part)
        rule = self.recipe.cover
        return _node(
            "cover",
            (rule, region),
            (node,),
            lambda inputs: Tile(with_cover(inputs[0].within(region), rule), region),
        )

    def layer(self, layer: Layer, region: Region) -> Node:
        chain = [step for step in layer.steps if step.on]
        made = [self.resolved.step(step, layer) for step in chain]
        wanted = self._wanted(region, made)
        node = self._source(self.resolved.source(layer), layer.id, wanted[0])
        for step, written, part in zip(made, chain, wanted[1:], strict=True):
            node = self._step(node, step, written.id, layer.id, part)
        return node

    def canvas_cut(self, node: Node, region: Region) -> Node:
        return _node(
            "cut", (region,), (node,), lambda inputs: Tile(inputs[0].within(region), region)
        )

    def _wanted(self, region: Region, chain: list[Any]) -> list[Region]:
        """What each link must cover, from the source to the last step.

        Margins grow in steps, so that a small change of a reach leaves what comes before as it is.
        """
        wanted = [region]
        for step in reversed(chain):
            reach = math.ceil(step.reach() * self.scale)
            wanted.insert(0, wanted[0].grown(reach).aligned(_REACH_STEP) if reach else wanted[0])
        return wanted

    def _at(self, wanted: Region, *seeds: object) -> At:
        return At(wanted, self.scale, (self.recipe.seed, *seeds))

    def _source(self, source: Source, layer: str, wanted: Region) -> Node:
        at = self._at(wanted, layer)
        return _node("source", (source, at), (), lambda _: source.draw(at))

    def _step(self, before: Node, step: Step, name: str, layer: str, wanted: Region) -> Node:
        at = self._at(wanted, layer, name)
        return _node("step", (step, at), (before,), lambda inputs: step.apply(inputs[0], at))

    def _mixed(self, region: Region) -> Node:
        opacities = [(layer, self.resolved.opacity(layer)) for layer in self.recipe.layers]
        shown = [(layer, opacity) for layer, opacity in opacities if opacity > 0]
        nodes = tuple(self.layer(layer, region) for layer, _ in shown)
        ways = [(layer.blend, opacity) for layer, opacity in shown]

        def mix(inputs: list[Tile]) -> Tile:
            return mixed([Part(tile, *way) for tile, way in zip(inputs, ways, strict=True)], region)

        return _node("mix", (region, ways), nodes, mix)


def _node(what: str, about: object, inputs: tuple[Node, ...], compute: Callable[..., Tile]) -> Node:
    digest = blake2b(digest_size=16)
    digest.update(repr((edition(), what, about)).encode())
    for before in inputs:
        digest.update(before.key.encode())
    return Node(digest.hexdigest(), inputs, compute)
