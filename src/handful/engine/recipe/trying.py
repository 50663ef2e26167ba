"""A recipe with something tried in it."""

from __future__ import annotations

from handful.engine.kinds import steps
from handful.engine.recipe.document import Recipe, StepNode
from handful.engine.recipe.fields import node_type
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
    others = [known.id for known in recipe.layers if known.id != layer]
    looks_at = {
        setting.name: others[0]
        for setting in declared.settings
        if setting.type == "layer" and others
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
