"""Recipes of earlier versions, brought to the newest when they are read.

Each version's changes are one function on plain data. What does not have the form that it should is
left as it is: reading says what is wrong with it.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Any

VERSION = 3

Data = dict[str, Any]


def upgraded(recipe: Data) -> Data:
    """The same recipe as its newest version would have it, with all that lies within it."""
    changed = dict(recipe)
    elements = changed.get("elements")
    if isinstance(elements, list):
        changed["elements"] = [_with_newest(element) for element in elements]
    for version, change in _CHANGES.items():
        if changed.get("version") == version:
            changed = change(changed)
    return changed


def _with_newest(element: Any) -> Any:
    if isinstance(element, dict) and isinstance(element.get("recipe"), dict):
        return {**element, "recipe": upgraded(element["recipe"])}
    return element


def _to_second(recipe: Data) -> Data:
    """Version 2: the step `echo` is called `trail`; in formulas the value underneath is `still`; what
    is looked at alone is not the recipe's; an element's place in time is in seconds."""
    rates = dict(_rates(recipe))
    layers = [
        _layer_of_second(layer, rates) if isinstance(layer, dict) else layer
        for layer in _listed(recipe, "layers")
    ]
    changed = {**recipe, "version": 2}
    if "layers" in recipe and isinstance(recipe["layers"], list):
        changed["layers"] = layers
    if isinstance(recipe.get("finish"), list):
        changed["finish"] = _trailing(recipe["finish"])
    renamed: Data = _each(changed, _still_in_formula)
    return {**renamed, "elements": recipe["elements"]} if "elements" in recipe else renamed


def _layer_of_second(layer: Data, rates: dict[str, float]) -> Data:
    changed = {name: value for name, value in layer.items() if name != "solo"}
    if isinstance(layer.get("steps"), list):
        changed["steps"] = _trailing(layer["steps"])
    source = layer.get("source")
    if isinstance(source, dict) and source.get("kind") == "element" and "frame" in source:
        seconds = _over(source["frame"], rates.get(str(source.get("of")), 25.0))
        rest = {name: value for name, value in source.items() if name != "frame"}
        changed["source"] = {**rest, "time": seconds}
    return changed


def _to_third(recipe: Data) -> Data:
    """Version 3: a fire burns and cools at the pace of its size, unless it is to do so in the times that are set."""
    layers = recipe.get("layers")
    if not isinstance(layers, list):
        return {**recipe, "version": 3}
    return {**recipe, "version": 3, "layers": [_paced_as_set(layer) for layer in layers]}


def _paced_as_set(layer: Any) -> Any:
    source = layer.get("source") if isinstance(layer, dict) else None
    if not isinstance(source, dict) or source.get("kind") != "fire":
        return layer
    return {**layer, "source": {**source, "paced": "as it is set"}}


def _rates(recipe: Data) -> Iterator[tuple[str, float]]:
    """The frames a second of each element."""
    for element in _listed(recipe, "elements"):
        if isinstance(element, dict) and isinstance(element.get("recipe"), dict):
            canvas = element["recipe"].get("canvas")
            rate = canvas.get("rate", 25) if isinstance(canvas, dict) else 25
            if isinstance(rate, (int, float)) and rate > 0:
                yield str(element.get("name")), float(rate)


def _over(written: Any, rate: float) -> Any:
    """A number of frames, still or moving, as seconds at a rate."""
    if isinstance(written, bool):
        return written
    if isinstance(written, (int, float)):
        return written / rate
    if not isinstance(written, dict):
        return written
    changed = dict(written)
    for name in ("start", "end", "per_second", "amount", "value", "offset", "scale"):
        is_seconds = name == "offset" and written.get("moves") != "like"
        if name in written and not is_seconds:
            changed[name] = _over(written[name], rate)
    if written.get("moves") == "like":
        changed.setdefault("scale", 1 / rate)
    if isinstance(written.get("keys"), list):
        changed["keys"] = [
            {**key, "value": _over(key["value"], rate)}
            if isinstance(key, dict) and "value" in key
            else key
            for key in written["keys"]
        ]
    if isinstance(written.get("formula"), str):
        frames = _VALUE.sub(f"(value * {rate:g})", written["formula"])
        changed["formula"] = f"({frames}) / {rate:g}"
    return changed


def _trailing(steps: list[Any]) -> list[Any]:
    return [
        {**step, "kind": "trail"} if isinstance(step, dict) and step.get("kind") == "echo" else step
        for step in steps
    ]


_VALUE = re.compile(r"\bvalue\b")


def _still_in_formula(part: Data) -> Data:
    if part.get("moves") != "formula" or "formula" not in part:
        return part
    texts = part["formula"]
    if isinstance(texts, str):
        return {**part, "formula": _VALUE.sub("still", texts)}
    if isinstance(texts, list):
        renamed = [_VALUE.sub("still", text) if isinstance(text, str) else text for text in texts]
        return {**part, "formula": renamed}
    return part


def _each(part: Any, change: Callable[[Data], Data]) -> Any:
    """Everything within, changed object by object."""
    if isinstance(part, list):
        return [_each(inner, change) for inner in part]
    if isinstance(part, dict):
        return change({name: _each(inner, change) for name, inner in part.items()})
    return part


def _listed(recipe: Data, name: str) -> list[Any]:
    listed = recipe.get(name)
    return listed if isinstance(listed, list) else []


_CHANGES: dict[int, Callable[[Data], Data]] = {1: _to_second, 2: _to_third}
"""By the version that they begin from, in order."""
