"""The document that makes an element: its form, its reading, and its problems in plain words."""

from handful.engine.recipe.document import Canvas, Layer, NamedPoint, Recipe, spans
from handful.engine.recipe.problems import Problem, RecipeError
from handful.engine.recipe.reading import load_recipe, read_recipe
from handful.engine.recipe.schema import recipe_schema
from handful.engine.recipe.trying import with_step

__all__ = [
    "Canvas",
    "Layer",
    "NamedPoint",
    "Problem",
    "Recipe",
    "RecipeError",
    "load_recipe",
    "read_recipe",
    "recipe_schema",
    "spans",
    "with_step",
]
