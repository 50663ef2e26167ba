"""What must be computed for a frame: nodes from the result back to the sources.

Planning resolves moving values, asks each step how far it reaches so that what comes before it
is drawn with enough margin, and gives each node a key made of all that its picture depends on.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from hashlib import blake2b
from typing import Any, NamedTuple

from handful.engine.colour.transfer import colour_from_hex
from handful.engine.kinds import At, Kind, Setting, Source, Step, sources, steps
from handful.engine.mix import Part, mixed, with_cover
from handful.engine.picture import Region, Tile
from handful.engine.recipe.document import Layer, Recipe
from handful.engine.recipe.fields import Node as Written
from handful.engine.render.edition import edition
from handful.engine.values import Point, Surroundings, value_at

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
    moment = recipe.moment(frame)
    nowhere = Surroundings(moment, {})
    points = {point.name: value_at(point.at, nowhere) for point in recipe.points}
    planner = _Planner(recipe, Surroundings(moment, points), scale)
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
    around: Surroundings
    scale: float

    def result(self, region: Region) -> Node:
        chain = [step for step in self.recipe.finish if step.on]
        made = [_made(steps()[step.kind], step, self.around) for step in chain]
        wanted = self._wanted(region, made)
        node = self._mixed(wanted[0])
        for step, written, part in zip(made, chain, wanted[1:], strict=True):
            node = self._step(node, step, written.id, "finish", part)
        rule = self.recipe.cover
        return _node(
            "cover",
            (rule, region),
            (node,),
            lambda inputs: Tile(with_cover(inputs[0].within(region), rule), region),
        )

    def layer(self, layer: Layer, region: Region) -> Node:
        chain = [step for step in layer.steps if step.on]
        made = [_made(steps()[step.kind], step, self.around) for step in chain]
        wanted = self._wanted(region, made)
        source = _made(sources()[layer.source.kind], layer.source, self.around)
        node = self._source(source, layer.id, wanted[0])
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
        shown = [layer for layer in self.recipe.layers if self._shows(layer)]
        nodes = tuple(self.layer(layer, region) for layer in shown)
        ways = [(layer.blend, self._opacity(layer)) for layer in shown]

        def mix(inputs: list[Tile]) -> Tile:
            return mixed([Part(tile, *way) for tile, way in zip(inputs, ways, strict=True)], region)

        return _node("mix", (region, ways), nodes, mix)

    def _shows(self, layer: Layer) -> bool:
        frame = self.around.moment.frame
        begins = layer.first is None or frame >= layer.first
        ends = layer.last is None or frame <= layer.last
        return layer.on and begins and ends and self._opacity(layer) > 0

    def _opacity(self, layer: Layer) -> float:
        return min(100.0, max(0.0, float(value_at(layer.opacity, self.around)))) / 100


def _node(what: str, about: object, inputs: tuple[Node, ...], compute: Callable[..., Tile]) -> Node:
    digest = blake2b(digest_size=16)
    digest.update(repr((edition(), what, about)).encode())
    for before in inputs:
        digest.update(before.key.encode())
    return Node(digest.hexdigest(), inputs, compute)


def _made(kind: type[Kind], written: Written, around: Surroundings) -> Any:
    """A kind with every setting resolved to a plain value at the moment."""
    values: Mapping[str, Any] = {
        setting.name: _plain(setting, value_at(getattr(written, setting.name), around))
        for setting in kind.settings
    }
    return kind(**values)


def _plain(setting: Setting, value: Any) -> Any:
    match setting.type:
        case "number":
            assert setting.least is not None and setting.most is not None
            return min(float(setting.most), max(float(setting.least), float(value)))
        case "colour":
            return colour_from_hex(value)
        case "point":
            return Point(float(value[0]), float(value[1]))
    return value
