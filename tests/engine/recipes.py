"""Recipes for the tests of the engine."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from handful.engine import Recipe, read_recipe
from handful.engine.kinds import Kind, Setting
from handful.engine.values import Point
from handful.engine.values.moves.move import plain

K = TypeVar("K", bound=Kind)

DEMO = Path(__file__).parents[2] / "demo" / "recipes" / "mast-strike.json"


class _Graded:
    """A plate of smooth colours."""

    mark = "graded"

    def plate(self, frame: int) -> _Graded:
        return self

    def read(self, width: int, height: int) -> NDArray[np.uint8]:
        across, down = np.linspace(0, 255, width), np.linspace(0, 255, height)
        levels = np.broadcast_arrays(across[None, :], down[:, None], 128)
        return np.stack(levels, axis=2).astype(np.uint8)


GRADED = _Graded()


def demo_data() -> dict[str, Any]:
    """The demo shot's recipe as plain data, to be changed."""
    data: dict[str, Any] = json.loads(DEMO.read_text())
    return data


def small(*layers: dict[str, Any], **more: Any) -> Recipe:
    """A recipe on a canvas of 320 x 180."""
    canvas = {"width": 320, "height": 180, "rate": 25, "first": 1, "last": 50}
    return read_recipe(
        {"version": 3, "name": "Small", "canvas": canvas, "layers": list(layers)} | more
    )


def as_it_comes(kind: type[K], **settings: Any) -> K:
    """A kind with its defaults as plain values, but for some settings."""
    defaults = {
        known.name: _plain(known)
        for known in kind.settings
        if not (isinstance(known.default, dict) and "moves" in known.default)
    }
    return kind(**(defaults | settings))


def _plain(known: Setting) -> Any:
    match known.type:
        case "named":
            return None
        case "point":
            return Point(*known.default)
        case "pieces":
            return tuple(known.default)
    return plain(known.default)


def bolt_layer(
    name: str = "bolt", steps: list[Any] | None = None, **settings: Any
) -> dict[str, Any]:
    """A layer with a bolt across the small canvas."""
    source = {"kind": "bolt", "start": [30, 40], "end": [290, 140], **settings}
    return {"id": name, "name": name, "source": source, "steps": steps or [], "blend": "add"}
