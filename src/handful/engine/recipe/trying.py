"""A recipe as it is looked at: with something tried in it, or with some layers alone."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping

from handful.engine.kinds import steps
from handful.engine.recipe.document import Layer, Recipe, StepNode
from handful.engine.recipe.fields import node_type
from handful.engine.recipe.made import Made
from handful.engine.recipe.problems import Problem, RecipeError

_TRIED = "tried"


def with_step(recipe: Recipe, layer: str | None, kind: str) -> Recipe:
    """A recipe with one more step, as it is to be shown, at the end of a layer's or of the finish.

    Raises `RecipeError` if there is no such kind or no such layer. What it looks
    at is another layer.
    """
    declared = steps().get(kind)
    if declared is None:
        raise RecipeError([Problem("step", f"There is no step called {kind!r}.")])
    made = Made(recipe)
    others = [known.id for known in recipe.layers if known.id != layer]
    looks_at = {
        setting.name: fitting[0]
        for setting in declared.settings
        if setting.type == "layer"
        and (fitting := [each for each in others if made.of(each) in setting.takes])
    }
    step = node_type(declared, StepNode)(kind=kind, id=_TRIED, **{**declared.example, **looks_at})
    if layer is None:
        return recipe.model_copy(update={"finish": [*recipe.finish, step]})
    if all(known.id != layer for known in recipe.layers):
        raise RecipeError([Problem("layer", f"There is no layer {layer!r}.")])
    layers = [
        known.model_copy(update={"steps": [*known.steps, step]}) if known.id == layer else known
        for known in recipe.layers
    ]
    return recipe.model_copy(update={"layers": layers})


def looked_at_alone(recipe: Recipe, ids: Collection[str]) -> Recipe:
    """A recipe of which only some layers show, with the groups that hold them and what those hold;
    itself if none of them is there."""
    layers = {layer.id: layer for layer in recipe.layers}
    chosen = set(ids) & set(layers)
    if not chosen:
        return recipe
    within = {layer.id: set(_groups_of(layer, layers)) for layer in recipe.layers}
    shows = chosen.union(*(within[name] for name in chosen))
    return recipe.model_copy(
        update={
            "layers": [
                layer
                if layer.id in shows or within[layer.id] & chosen
                else layer.model_copy(update={"on": False})
                for layer in recipe.layers
            ]
        }
    )


def _groups_of(layer: Layer, layers: Mapping[str, Layer]) -> Iterator[str]:
    while layer.within is not None:
        yield layer.within
        layer = layers[layer.within]
