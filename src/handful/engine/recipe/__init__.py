"""The document that makes an element: its form, its reading, and its problems in plain words."""

from handful.engine.recipe.catalogue import catalogue
from handful.engine.recipe.changes import AnyChange, changed_by
from handful.engine.recipe.document import Canvas, Layer, NamedPoint, Recipe, spans
from handful.engine.recipe.first import first_recipe
from handful.engine.recipe.fitting import fitted
from handful.engine.recipe.problems import NoRecipe, Problem, RecipeError
from handful.engine.recipe.reading import load_recipe, read_recipe
from handful.engine.recipe.schema import recipe_outline, recipe_schema
from handful.engine.recipe.together import brought_together
from handful.engine.recipe.trying import looked_at_alone, with_step
from handful.engine.recipe.upgrading import VERSION, upgraded

__all__ = [
    "VERSION",
    "AnyChange",
    "Canvas",
    "Layer",
    "NamedPoint",
    "NoRecipe",
    "Problem",
    "Recipe",
    "RecipeError",
    "brought_together",
    "catalogue",
    "changed_by",
    "first_recipe",
    "fitted",
    "load_recipe",
    "looked_at_alone",
    "read_recipe",
    "recipe_outline",
    "recipe_schema",
    "spans",
    "upgraded",
    "with_step",
]
