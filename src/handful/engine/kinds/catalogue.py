"""All kinds as JSON, for the interface, the guide and whoever writes recipes by hand."""

from __future__ import annotations

import dataclasses
import inspect
from typing import Any

from handful.engine.kinds.declaration import Kind
from handful.engine.kinds.registry import sources, steps
from handful.engine.values import MOVES


def catalogue() -> dict[str, Any]:
    """Sources, steps and ways of moving, each with all that its declaration says."""
    return {
        "sources": [_entry(kind) for kind in sources().values()],
        "steps": [_entry(kind) for kind in steps().values()],
        "moves": [
            {"name": name, "help": move.help, "suits": sorted(move.suits)}
            for name, move in MOVES.items()
        ],
    }


def _entry(kind: type[Kind]) -> dict[str, Any]:
    return {
        "name": kind.name,
        "title": kind.name.capitalize(),
        "family": kind.family,
        "help": inspect.cleandoc(kind.__doc__ or "").split("\n\n")[0].replace("\n", " "),
        "says": kind.says,
        "settings": [
            dataclasses.asdict(known) | {"moves": list(known.moves)} for known in kind.settings
        ],
    }
