"""What moving values are on every frame of a shot: the curves that a person sees and edits."""

from __future__ import annotations

from typing import Any, NamedTuple

from handful.engine.recipe import Layer, Recipe
from handful.engine.recipe.references import kind_of
from handful.engine.render.plan import PlanError
from handful.engine.render.resolve import Resolver, Take
from handful.engine.values import Move, Reference
from handful.engine.values.moves.move import axes

MOST_SAMPLES = 600
"""Frames of a long shot are thinned to so many."""


class Curve(NamedTuple):
    """A moving setting: where it is, the frames looked at, and its numbers on each.

    `of` is `source`, a step's id, or `layer` for the layer's opacity. A number has one value a
    frame, a point two and a colour three, in linear light.
    """

    of: str
    setting: str
    frames: list[float]
    values: list[tuple[float, ...]]


def curves(recipe: Recipe, layer_id: str) -> list[Curve]:
    """The curves of a layer's moving settings, in the order of its cards.

    Raises `PlanError` if there is no such layer.
    """
    layer = next((layer for layer in recipe.layers if layer.id == layer_id), None)
    if layer is None:
        raise PlanError(f"there is no layer {layer_id!r}")
    canvas = recipe.canvas
    count = canvas.length
    stride = -(-count // MOST_SAMPLES)
    frames = [float(frame) for frame in range(canvas.first, canvas.last + 1, stride)]
    resolver = Resolver(recipe)
    found = []
    for of, node in _nodes(layer):
        for setting in kind_of(node).settings:
            if isinstance(getattr(node, setting.name), Move):
                reference = Reference(layer=layer_id, of=of, setting=setting.name)
                values = [axes(resolver.setting(reference, frame)) for frame in frames]
                found.append(Curve(of, setting.name, frames, values))
    if isinstance(layer.opacity, Move):
        values = [(100 * resolver.unlived_opacity(layer, Take.of(frame)),) for frame in frames]
        found.append(Curve("layer", "opacity", frames, values))
    return found


def _nodes(layer: Layer) -> list[tuple[str, Any]]:
    return [("source", layer.source), *((step.id, step) for step in layer.steps)]
