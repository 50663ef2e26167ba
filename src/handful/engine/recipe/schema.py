"""The JSON Schema of the recipe document, and its outline for those who learn kinds at run time."""

from __future__ import annotations

from typing import Any

from handful.engine.recipe.document import NamedCamera, NamedSway, Recipe, Shutter
from handful.engine.values import Life

_REFERENCE = "#/$defs/"

_OPEN = {str(part.model_json_schema()["title"]) for part in (NamedSway, NamedCamera, Life, Shutter)}
"""Parts that are made of declared settings, as nodes are."""


def _refers(name: str) -> dict[str, Any]:
    return {"$ref": _REFERENCE + name}


def _open(base: dict[str, Any], **properties: Any) -> dict[str, Any]:
    return {**base, "type": "object", "properties": properties, "required": [*properties]}


_NUMBER = {"type": "number"}
_TEXT = {"type": "string"}
_PAIR = {"type": "array", "prefixItems": [_NUMBER] * 2, "minItems": 2, "maxItems": 2}
_TRIPLE = {"type": "array", "prefixItems": [_NUMBER] * 3, "minItems": 3, "maxItems": 3}
_SETTINGS = {"additionalProperties": _refers("Value")}
_IN_A_MOVE = [
    *(_refers(name) for name in ("Plain", "Change", "Move", "Reference")),
    *({"type": "array", "items": each} for each in (_refers("Key"), _TEXT)),
]

_OF_ANY_KIND: dict[str, Any] = {
    "Plain": {"anyOf": [_NUMBER, _TEXT, {"type": "boolean"}, _PAIR]},
    "Change": {"anyOf": [_NUMBER, _PAIR, _TRIPLE]},
    "Move": _open({"additionalProperties": {"anyOf": _IN_A_MOVE}}, moves=_TEXT),
    "Piece": {"type": "object", **_SETTINGS},
    "Value": {
        "anyOf": [_refers("Plain"), _refers("Move"), {"type": "array", "items": _refers("Piece")}]
    },
    "Node": _open(_SETTINGS, kind=_TEXT),
}


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


def recipe_outline() -> dict[str, Any]:
    """Definitions of a recipe's parts, by their names, in which a node is of any kind.

    What a node, a move or a piece may hold is told by the catalogue, so here it is open: `Node`,
    `Step`, `Move`, `Piece`, `Value`, `Key`.
    """
    definitions = recipe_schema()["$defs"]
    found: dict[str, Any] = dict(_OF_ANY_KIND)
    key = definitions["KeyNumber"]
    properties = {**key["properties"], "value": _refers("Plain")}
    found["Key"] = {**key, "title": "Key", "properties": properties}
    step = next(part for part in definitions.values() if _is_step(part))
    own = {
        name: _outlined(step["properties"][name], definitions) for name in ("id", "on", "limits")
    }
    found["Step"] = {
        "allOf": [_refers("Node"), {"type": "object", "properties": own, "required": ["id"]}]
    }
    waiting = ["Recipe", "Reference", "Key", "Step"]
    while waiting:
        name = waiting.pop()
        if name in _OPEN:
            required = definitions[name].get("required", [])
            found[name] = _open(_SETTINGS, **dict.fromkeys(required, _TEXT))
        elif name not in found:
            found[name] = _outlined(definitions[name], definitions)
        waiting += [each for each in _named_in(found[name]) if each not in found]
    return found


def _is_step(part: dict[str, Any]) -> bool:
    return {"kind", "limits"} <= set(part.get("properties", {}))


def _outlined(part: Any, definitions: dict[str, Any]) -> Any:
    """With unions of kinds and of ways of moving as what they have in common, any choice as text."""
    if isinstance(part, list):
        return [_outlined(each, definitions) for each in part]
    if not isinstance(part, dict):
        return part
    one_of = [
        definitions[each["$ref"].removeprefix(_REFERENCE)]
        for each in part.get("oneOf", [])
        if "$ref" in each
    ]
    if any("moves" in each["properties"] for each in one_of):
        return _refers("Value")
    if any("kind" in each["properties"] for each in one_of):
        return _refers("Step" if all(map(_is_step, one_of)) else "Node")
    return {
        key: _outlined(each, definitions)
        for key, each in part.items()
        if key not in ("enum", "discriminator")
    }


def _named_in(part: Any) -> list[str]:
    if isinstance(part, dict):
        own = [part["$ref"].removeprefix(_REFERENCE)] if "$ref" in part else []
        return own + [name for each in part.values() for name in _named_in(each)]
    if isinstance(part, list):
        return [name for each in part for name in _named_in(each)]
    return []


def _renamed(part: Any, names: dict[str, str]) -> Any:
    if isinstance(part, list):
        return [_renamed(each, names) for each in part]
    if isinstance(part, dict):
        return {key: _renamed(each, names) for key, each in part.items()}
    if isinstance(part, str) and part.startswith(_REFERENCE):
        return _REFERENCE + names[part.removeprefix(_REFERENCE)]
    return part
