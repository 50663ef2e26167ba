"""Changes to recipes that need a rule."""

from __future__ import annotations

from handful.engine.recipe.changes.names import Data
from handful.engine.recipe.changes.operations import AnyChange, Change, Changed
from handful.engine.recipe.reading import read_recipe
from handful.engine.recipe.upgrading import upgraded

__all__ = ["AnyChange", "Change", "Changed", "changed_by"]


def changed_by(recipe: Data, change: Change) -> Changed:
    """A recipe after a change, and what the change made.

    What is wrong with a recipe elsewhere, as a formula that is being written, does not stand in the
    way and stays. Raises `RecipeError` if what the change names is not there, or the recipe is so
    written that it cannot be changed.
    """
    try:
        return change.apply(upgraded(recipe))
    except (KeyError, TypeError, ValueError, AttributeError):
        read_recipe(recipe)
        raise
