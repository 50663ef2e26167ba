"""The JSON Schema of the recipe document."""

from __future__ import annotations

from typing import Any

from handful.engine.recipe.document import Recipe

_REFERENCE = "#/$defs/"


def recipe_schema() -> dict[str, Any]:
    """JSON Schema (2020-12). Definitions are named by their titles, as `KeysPoint`."""
    schema = Recipe.model_json_schema()
    names: dict[str, str] = {}
    for name, definition in schema["$defs"].items():
        title = str(definition.get("title", name))
        taken = sum(given.rstrip("0123456789") == title for given in names.values())
        names[name] = f"{title}{taken + 1}" if taken else title
    renamed: dict[str, Any] = _renamed(schema, names)
    definitions = {names[name]: part for name, part in renamed["$defs"].items()}
    return {**definitions["Recipe"], "$defs": definitions}


def _renamed(part: Any, names: dict[str, str]) -> Any:
    if isinstance(part, list):
        return [_renamed(each, names) for each in part]
    if isinstance(part, dict):
        return {key: _renamed(each, names) for key, each in part.items()}
    if isinstance(part, str) and part.startswith(_REFERENCE):
        return _REFERENCE + names[part.removeprefix(_REFERENCE)]
    return part
