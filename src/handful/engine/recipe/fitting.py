"""Fitting a recipe to a canvas of another size: every place goes with it, and no length does."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from functools import partial
from typing import Any

from handful.engine.kinds import Kind, limits, sources, steps
from handful.engine.named import NAMED

Data = dict[str, Any]
Ratio = tuple[float, float]

_STILL = re.compile(r"\bstill\b")
_PLACES = 1
"""Decimals of a px that are kept."""


def fitted(recipe: Mapping[str, Any], width: int, height: int) -> Data:
    """A recipe as plain data on a canvas of another size.

    What is declared as a place is moved in proportion, also where it moves; ways from a place, widths
    and radii stay. It must be a recipe that can be read.
    """
    canvas = {"width": 1920, "height": 1080} | dict(recipe.get("canvas", {}))
    ratio = (width / canvas["width"], height / canvas["height"])
    canvas |= {"width": width, "height": height}

    kinds = {each["id"]: each["source"]["kind"] for each in recipe.get("layers", [])}

    def layer(written: Data) -> Data:
        source = _node(written["source"], sources(), ratio)
        original = sources().get(kinds.get(source.get("of"), ""))
        if original is not None and source.get("own"):
            source["own"] = _settings(source["own"], original, ratio, only_written=True)
        return written | {
            "source": source,
            "steps": [_step(each, ratio) for each in written.get("steps", [])],
            "limits": [_node(each, limits(), ratio) for each in written.get("limits", [])],
        }

    parts: dict[str, Callable[[Data], Data]] = {
        "points": lambda point: point | {"at": _moved(point["at"], ratio)},
        "tracks": lambda track: track | {"marks": [_mark(mark, ratio) for mark in track["marks"]]},
        **{what: partial(_settings, kind=kind, ratio=ratio) for what, kind in NAMED.items()},
        "layers": layer,
        "finish": lambda step: _step(step, ratio),
    }
    changed = {
        name: [change(dict(each)) for each in recipe[name]]
        for name, change in parts.items()
        if name in recipe
    }
    return {**recipe, "canvas": canvas, **changed}


def _step(written: Data, ratio: Ratio) -> Data:
    changed = _node(written, steps(), ratio)
    if "limits" in written:
        changed["limits"] = [_node(each, limits(), ratio) for each in written["limits"]]
    return changed


def _node(written: Data, known: Mapping[str, type[Kind]], ratio: Ratio) -> Data:
    return _settings(written, known[written["kind"]], ratio)


def _settings(written: Data, kind: type[Kind], ratio: Ratio, only_written: bool = False) -> Data:
    """A node with its places moved: also those which stand at their defaults."""
    changed = dict(written)
    for setting in kind.settings:
        if only_written and setting.name not in written:
            continue
        if setting.is_place:
            value = written.get(setting.name, setting.default)
            changed[setting.name] = _moved(value, ratio)
        elif setting.type == "pieces" and setting.of is not None and setting.name in written:
            changed[setting.name] = [
                _settings(piece, setting.of, ratio) for piece in written[setting.name]
            ]
    return changed


def _moved(written: Any, ratio: Ratio) -> Any:
    """A place, still or moving, in proportion; whatever stays with another place stays with it."""
    if not isinstance(written, dict):
        return _pair(written, ratio)
    changed = dict(written)
    match written.get("moves"):
        case "follow":
            if written.get("offset") is not None:
                changed["offset"] = _pair(written["offset"], ratio)
        case "keys":
            changed["keys"] = [
                key | {"value": _pair(key["value"], ratio)} for key in written["keys"]
            ]
        case "formula":
            changed["value"] = _moved(written["value"], ratio)
            texts = written["formula"]
            axes = [texts, texts] if isinstance(texts, str) else texts
            changed["formula"] = [_scaled(text, r) for text, r in zip(axes, ratio, strict=True)]
        case _:
            for name in ("start", "end", "per_second", "value", "amount", "offset"):
                if isinstance(written.get(name), (list, tuple, dict)):
                    changed[name] = _moved(written[name], ratio)
    return changed


def _scaled(formula: str, ratio: float) -> str:
    """What a formula gives for a place before, times the ratio."""
    if ratio == 1:
        return formula
    return f"({_STILL.sub(f'(still / {ratio:g})', formula)}) * {ratio:g}"


def _pair(pair: Any, ratio: Ratio) -> list[float]:
    return [round(part * by, _PLACES) for part, by in zip(pair, ratio, strict=True)]


def _mark(mark: Any, ratio: Ratio) -> list[float]:
    frame, x, y, *sure = mark
    return [frame, *_pair((x, y), ratio), *sure]
