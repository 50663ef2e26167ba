"""The computation of Handful: from recipes to pictures. No interface, no database."""

from handful.engine.recipe import Recipe, RecipeError, load_recipe, read_recipe
from handful.engine.render import Cache, render_frame

__all__ = ["Cache", "Recipe", "RecipeError", "load_recipe", "read_recipe", "render_frame"]
