"""What kind of picture each layer of a recipe makes, and where one comes that is not taken."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import suppress
from typing import Any, cast

from pydantic import ValidationError

from handful.engine.kinds import Bends, Source, Step
from handful.engine.picture import PictureKind
from handful.engine.recipe.document import Layer, Recipe, SourceNode, StepNode
from handful.engine.recipe.problems import Problem
from handful.engine.recipe.references import kind_of, nodes_in, nodes_of_steps, uses_in, with_own

_SPOKEN: dict[PictureKind, str] = {"light": "light", "height": "a height", "offsets": "offsets"}


def bends(layer: Layer) -> bool:
    """Whether a layer bends those below it."""
    return issubclass(kind_of(layer.source), Bends)


class Made:
    """The kinds of picture of a recipe's layers. No layer may be made from itself."""

    def __init__(self, recipe: Recipe) -> None:
        self._recipe = recipe
        self._layers = {layer.id: layer for layer in recipe.layers}
        self._known: dict[str, PictureKind] = {}

    def of(self, layer: str, own: Mapping[str, Any] | None = None) -> PictureKind:
        """Of a layer by its id, with some settings of its source replaced; light where there is none."""
        if layer not in self._layers:
            return "light"
        if own:
            original = self._layers[layer]
            with suppress(ValidationError):  # which is told where it is written
                return self.of_source(original, with_own(original.source, own))
        if layer not in self._known:
            self._known[layer] = self.of_source(self._layers[layer], self._layers[layer].source)
        return self._known[layer]

    def of_source(self, layer: Layer, source: SourceNode) -> PictureKind:
        """Of a layer, if this were its source."""
        kind = cast(type[Source], kind_of(source))
        return kind.makes(source, _Others(self, layer.id))

    def result(self) -> PictureKind:
        """Of the finished picture: light, unless all layers that show are heights, or offsets."""
        return self.members(None)

    def members(self, group: str | None) -> PictureKind:
        """Of a group's picture, or the whole recipe's: light, unless all in it are of one other kind. What
        bends is not in it."""
        kinds = {
            self.of(layer.id)
            for layer in self._recipe.layers
            if layer.within == group and layer.on and not bends(layer)
        }
        return kinds.pop() if len(kinds) == 1 else "light"

    def problems(self) -> Iterator[Problem]:
        """Steps and settings that are given a kind of picture that they do not take."""
        for i, layer in enumerate(self._recipe.layers):
            path = f"layers[{i}]"
            yield from self._steps(f"{path}.steps", layer.steps, self.of(layer.id))
            yield from self._copied(f"{path}.source.of", layer)
            for place, node in nodes_in(path, layer):
                yield from self._named(place, node)
        yield from self._steps("finish", self._recipe.finish, self.result())
        for place, node in nodes_of_steps("finish", self._recipe.finish):
            yield from self._named(place, node)

    def _copied(self, path: str, layer: Layer) -> Iterator[Problem]:
        """Steps that come along with another layer, of which this one makes another kind of picture."""
        named = getattr(layer.source, "of", "")
        if getattr(layer.source, "own", None) and named in self._layers:
            made = self.of(layer.id)
            if made != self.of(named):
                for problem in self._steps(path, self._layers[named].steps, made):
                    yield problem._replace(path=path)

    def _steps(self, path: str, steps: list[StepNode], made: PictureKind) -> Iterator[Problem]:
        for i, step in enumerate(steps):
            takes = cast(type[Step], kind_of(step)).takes
            if made not in takes and step.on:
                wanted = " or ".join(_SPOKEN[kind] for kind in takes)
                yield Problem(
                    f"{path}[{i}]",
                    f"The step {step.kind} takes {wanted}, and here comes {_SPOKEN[made]}. Take it "
                    "out, or have the layer make light.",
                )

    def _named(self, path: str, node: SourceNode | StepNode) -> Iterator[Problem]:
        for use in uses_in(path, node, kind_of(node)):
            if use.setting.type != "layer" or use.written not in self._layers:
                continue
            made = self.of(use.written)
            if made not in use.setting.takes:
                wanted = " or ".join(_SPOKEN[kind] for kind in use.setting.takes)
                yield Problem(
                    use.path,
                    f"It takes a layer that makes {wanted}; {use.written!r} makes {_SPOKEN[made]}.",
                )


class _Others:
    """What a source may ask about the layers that it is made of."""

    def __init__(self, made: Made, layer: str) -> None:
        self._made = made
        self._layer = layer

    def of(self, layer: str, own: Mapping[str, Any] | None = None) -> PictureKind:
        return self._made.of(layer, own)

    def members(self) -> PictureKind:
        return self._made.members(self._layer)
