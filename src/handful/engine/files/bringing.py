"""What a file brings into a recipe: a track, a camera, or the paths of a drawing."""

from __future__ import annotations

from typing import Any

from handful.engine.files.cameras import read_camera, tells_a_camera
from handful.engine.files.paths import read_paths
from handful.engine.files.tracks import read_track
from handful.engine.recipe import VERSION, read_recipe, upgraded
from handful.engine.recipe.changes.names import Data, free_name


def brought_in(recipe: Data, text: str, name: str) -> tuple[Data, list[str]]:
    """A recipe as plain data with what a text holds, and what that is called there: the paths of an SVG drawing, a camera
    where the first line of a CSV names its columns, a track of any other.

    What is wrong with the recipe elsewhere stays. Raises `RecipeError` with what is wrong with the text, and where, or a
    recipe that is so written that nothing can be added.
    """
    what, things = _read(text, name)
    read_recipe({"version": VERSION, "name": "Brought in", what: things})
    try:
        now = upgraded(recipe)
        known = [*now.get(what, [])]
        for thing in things:
            called = free_name(thing["name"], [each["name"] for each in known], " ")
            known.append(thing | {"name": called})
    except (KeyError, TypeError, ValueError, AttributeError):
        read_recipe(recipe)
        raise
    return {**now, what: known}, [each["name"] for each in known[-len(things) :]]


def _read(text: str, name: str) -> tuple[str, list[dict[str, Any]]]:
    """Under which of a recipe's lists it belongs, and what it is."""
    if text.lstrip("\ufeff \t\r\n").startswith("<"):
        return "paths", read_paths(text, name)
    if tells_a_camera(text):
        return "cameras", [read_camera(text, name)]
    return "tracks", [read_track(text, name).model_dump(mode="json")]
