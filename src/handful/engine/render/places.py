"""Where things are at a frame: what a person takes hold of on the picture."""

from __future__ import annotations

from typing import Any, NamedTuple

from handful.engine.kinds import Kind
from handful.engine.named import Path
from handful.engine.recipe import Recipe
from handful.engine.render.plan import PlanError
from handful.engine.render.resolve import Resolver, Take
from handful.engine.values import Point


class Places(NamedTuple):
    """Points and tracks by name, the vertices of paths by name, and the numbers and places that a layer's
    source, steps and limits have: `source`, a step's id, `limits/0`, or a step's id and `/0`; and those of their pieces,
    by the setting's name and which it is: `source/pegs/0`."""

    points: dict[str, Point]
    tracks: dict[str, Point]
    paths: dict[str, list[dict[str, Point]]]
    nodes: dict[str, dict[str, float | Point]]


def places(recipe: Recipe, frame: float, layer_id: str | None) -> Places:
    """All places of a recipe at a frame, and what a layer has, or the finish if none is named.

    Raises `PlanError` if there is no such layer.
    """
    layer = next((layer for layer in recipe.layers if layer.id == layer_id), None)
    if layer is None and layer_id is not None:
        raise PlanError(f"there is no layer {layer_id!r}")
    resolver = Resolver(recipe)
    take = Take.of(frame)
    found: dict[str, Kind] = {}
    if layer is not None:
        found["source"] = resolver.source(layer, take)
        for i, limit in enumerate(layer.limits):
            found[f"limits/{i}"] = resolver.limit(limit, layer, f"limits/limit {i}", take)
    for step in recipe.finish if layer is None else layer.steps:
        found[step.id] = resolver.step(step, layer, take)
        for i, limit in enumerate(step.limits):
            place = f"{step.id}/limit {i}"
            found[f"{step.id}/{i}"] = resolver.limit(limit, layer, place, take)
    return Places(
        {point.name: resolver.point(point.name, frame) for point in recipe.points},
        {track.name: resolver.track(track.name, frame) for track in recipe.tracks},
        {path.name: _vertices(resolver.path(path.name, frame)) for path in recipe.paths},
        {place: _plain(part) for name, kind in found.items() for place, part in _parts(name, kind)},
    )


def _parts(name: str, kind: Kind) -> list[tuple[str, Kind]]:
    """A kind and the pieces of its settings, by name."""
    pieces = [
        (f"{name}/{setting.name}/{i}", piece)
        for setting in kind.settings
        if setting.type == "pieces"
        for i, piece in enumerate(getattr(kind, setting.name))
    ]
    return [(name, kind), *pieces]


def _vertices(path: Path) -> list[dict[str, Point]]:
    return [{"at": v.at, "arriving": v.arriving, "leaving": v.leaving} for v in path.vertices]


def _plain(kind: Kind) -> dict[str, Any]:
    """The numbers and places among a kind's settings."""
    known = {setting.name: (setting.type, getattr(kind, setting.name)) for setting in kind.settings}
    return {name: value for name, (sort, value) in known.items() if sort in ("number", "point")}
