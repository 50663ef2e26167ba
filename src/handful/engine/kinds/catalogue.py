"""All kinds as JSON, for the interface, the guide and whoever writes recipes by hand."""

from __future__ import annotations

import dataclasses
import inspect
from collections.abc import Mapping
from typing import Any

from handful.engine.kinds.declaration import Kind
from handful.engine.kinds.registry import limits, sources, steps
from handful.engine.kinds.setting import Setting
from handful.engine.values import MOVES

FAMILIES = (
    "energy", "flare", "layers", "light", "blur", "warp", "place", "matte", "colour", "time",
)  # fmt: skip
"""In which order families are offered; others come after them."""


def catalogue() -> dict[str, Any]:
    """Sources, steps, limits, what is shared by name, and ways of moving: all that each declares.

    Sources and steps are in the order in which they are offered.
    """
    return {
        "sources": [_entry(kind) for kind in _offered(sources())],
        "steps": [_entry(kind) for kind in _offered(steps())],
        "limits": [_entry(kind) for kind in limits().values()],
        "named": [_entry(kind) for kind in _named()],
        "moves": [
            {"name": name, "help": move.help, "suits": sorted(move.suits)}
            for name, move in MOVES.items()
        ],
    }


def _offered(kinds: Mapping[str, type[Kind]]) -> list[type[Kind]]:
    def place(kind: type[Kind]) -> tuple[int, str]:
        known = kind.family in FAMILIES
        return FAMILIES.index(kind.family) if known else len(FAMILIES), kind.family

    return sorted(kinds.values(), key=place)


def _named() -> list[type[Kind]]:
    """What sources, steps and limits name, as sways and paths, in the order of their names."""
    kinds = [*sources().values(), *steps().values(), *limits().values()]
    found: set[type[Kind]] = {
        setting.of
        for kind in kinds
        for setting in kind.settings
        if setting.type == "named" and setting.of is not None
    }
    return sorted(found, key=lambda kind: kind.name)


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


def summary(kind: type[Kind]) -> str:
    """The first paragraph of what a kind says of itself."""
    return inspect.cleandoc(kind.__doc__ or "").split("\n\n")[0].replace("\n", " ")


def _setting(known: Setting) -> dict[str, Any]:
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
    return listed | {"of": named, "moves": list(known.moves), "pieces": pieces}
