"""All that a recipe can be made of as JSON, for the interface, the guide and whoever writes recipes
by hand."""

from __future__ import annotations

import dataclasses
import inspect
from collections.abc import Mapping
from typing import Any

from pydantic import BaseModel

from handful.engine.kinds import Kind, Setting, limits, sources, steps
from handful.engine.mix import COVER_RULES, blends
from handful.engine.named import NAMED
from handful.engine.recipe.document import OPACITY, Shutter
from handful.engine.values import MOVES, Life, Move
from handful.engine.values.moves.fields import fields_of

FAMILIES = (
    "energy", "flare", "fire", "particles", "shock", "water", "liquid", "cloth", "texture", "layers", "light", "blur", "warp", "place", "matte", "colour", "time",
)  # fmt: skip
"""In which order families are offered; others come after them."""


def catalogue() -> dict[str, Any]:
    """Sources, steps, limits, what is shared by name, what a layer has beside them, ways of moving,
    blends and cover rules: all that each declares.

    Sources and steps are in the order in which they are offered.
    """
    return {
        "sources": [_entry(kind) for kind in _offered(sources())],
        "steps": [_entry(kind) for kind in _offered(steps())],
        "limits": [_entry(kind) for kind in limits().values()],
        "named": [
            _entry(kind) | {"listed": what, "by_hand": getattr(kind, "by_hand", False)}
            for what, kind in NAMED.items()
        ],
        "layer": {
            "opacity": _setting(OPACITY),
            "life": _part(Life),
            "shutter": _part(Shutter),
        },
        "moves": [_move(name, move) for name, move in MOVES.items()],
        "blends": list(blends()),
        "cover_rules": list(COVER_RULES),
    }


def _offered(kinds: Mapping[str, type[Kind]]) -> list[type[Kind]]:
    def place(kind: type[Kind]) -> tuple[int, str]:
        known = kind.family in FAMILIES
        return FAMILIES.index(kind.family) if known else len(FAMILIES), kind.family

    return sorted(kinds.values(), key=place)


def _entry(kind: type[Kind]) -> dict[str, Any]:
    return {
        "name": kind.name,
        "title": kind.name.capitalize(),
        "family": kind.family,
        "help": summary(kind),
        "says": kind.says,
        "outline": getattr(kind, "outline", ""),
        "example": getattr(kind, "example", {}),
        "settings": [_setting(known) for known in kind.settings],
    }


def _move(name: str, move: type[Move]) -> dict[str, Any]:
    return {
        "name": name,
        "help": move.help,
        "says": move.says,
        "mark": move.mark,
        "carried": list(move.carried),
        "dragged": move.dragged,
        "fields": [field._asdict() for field in fields_of(move)],
    }


def _part(model: type[BaseModel]) -> dict[str, Any]:
    """What a layer has beside its source and steps, as if it were a kind: of its numbers that have a
    unit, as they are read from a recipe."""
    schema = model.model_json_schema()
    settings = [
        Setting(
            name,
            "whole" if known["type"] == "integer" else "number",
            known["default"],
            known["description"],
            known["unit"],
            known["minimum"],
            known["maximum"],
            known.get("usual"),
        )
        for name, known in schema["properties"].items()
        if "unit" in known
    ]
    return {
        "name": model.__name__.lower(),
        "title": model.__name__,
        "family": "layer",
        "help": summary(model),
        "says": schema["says"],
        "outline": "",
        "example": {},
        "settings": [_setting(known, moves=()) for known in settings],
    }


def summary(kind: type[Any]) -> str:
    """The first paragraph of what a kind says of itself."""
    return inspect.cleandoc(kind.__doc__ or "").split("\n\n")[0].replace("\n", " ")


def _setting(known: Setting, moves: tuple[str, ...] | None = None) -> dict[str, Any]:
    listed = {field.name: getattr(known, field.name) for field in dataclasses.fields(known)}
    of: type[Kind] | None = known.of
    pieces = None
    if known.type == "pieces" and of is not None:
        pieces = {
            "says": of.says,
            "pictured": getattr(of, "pictured", ""),
            "settings": [_setting(inner) for inner in of.settings],
        }
    named = of.name if of is not None else None
    return listed | {
        "of": named,
        "moves": list(known.moves if moves is None else moves),
        "pieces": pieces,
    }
