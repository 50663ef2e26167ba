"""Resolving a recipe at a moment: moving values become plain ones, and kinds get their settings."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from handful.engine.colour.transfer import Colour, colour_from_hex
from handful.engine.kinds import Kind, Setting, Source, Step, sources, steps
from handful.engine.recipe.document import Layer, Recipe, StepNode
from handful.engine.recipe.fields import Node
from handful.engine.values import Moment, Point, Surroundings, value_at

FINISH = "finish"
"""What stands in the place of a layer for the steps on the mixed result."""


class Resolver:
    """A recipe at one moment."""

    def __init__(self, recipe: Recipe, moment: Moment) -> None:
        self.recipe = recipe
        self.moment = moment

    @cached_property
    def points(self) -> dict[str, Point]:
        """Where each named point is."""
        return {
            point.name: value_at(point.at, self._around("points", point.name))
            for point in self.recipe.points
        }

    def source(self, layer: Layer) -> Source:
        """The layer's source with plain settings."""
        kind = sources()[layer.source.kind]
        made: Source = self._made(kind, layer.source, layer, "source")
        return made

    def step(self, written: StepNode, layer: Layer | None) -> Step:
        """A step with plain settings; without a layer it is one of the finish."""
        made: Step = self._made(steps()[written.kind], written, layer, written.id)
        return made

    def opacity(self, layer: Layer) -> float:
        """How much of the layer is mixed in now, from 0 to 1: nothing where it does not show."""
        level = self.life(layer)
        if not layer.on or level is None:
            return 0.0
        around = self._around(layer.id, "opacity", life=level)
        opacity = float(value_at(layer.opacity, around)) / 100
        if layer.life.drives == "opacity":
            opacity *= level
        return min(1.0, max(0.0, opacity))

    def life(self, layer: Layer) -> float | None:
        """How far the layer's life has come, from 0 to 1, or nothing outside its frames."""
        canvas = self.recipe.canvas
        first = canvas.first if layer.first is None else layer.first
        last = canvas.last if layer.last is None else layer.last
        if not first <= self.moment.frame <= last:
            return None
        return layer.life.at(self.moment.frame, first, last)

    def _made(self, kind: type[Kind], written: Node, layer: Layer | None, place: str) -> Any:
        owner = FINISH if layer is None else layer.id
        level = 1.0 if layer is None else self.life(layer) or 0.0
        values = {}
        for setting in kind.settings:
            around = self._around(owner, place, setting.name, life=level, points=self.points)
            values[setting.name] = _plain(setting, value_at(getattr(written, setting.name), around))
        return kind(**values)

    def _around(
        self, *place: str, life: float = 1.0, points: dict[str, Point] | None = None
    ) -> Surroundings:
        return Surroundings(self.moment, points or {}, life, (self.recipe.seed, *place))


def _plain(setting: Setting, value: Any) -> Any:
    """A value within the bounds of its setting."""
    match setting.type:
        case "number":
            assert setting.least is not None and setting.most is not None
            return min(float(setting.most), max(float(setting.least), float(value)))
        case "colour":
            return value if isinstance(value, Colour) else colour_from_hex(value)
        case "point":
            return Point(float(value[0]), float(value[1]))
    return value
