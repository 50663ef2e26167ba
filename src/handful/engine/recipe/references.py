"""What parts of a recipe name one another: whether it is there, and whether it ends."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Iterator, Mapping
from typing import Any, NamedTuple

from pydantic import BaseModel, ValidationError

from handful.engine.kinds import Kind, Setting, Timed, limits, sources, steps
from handful.engine.named import NAMED
from handful.engine.recipe.document import Layer, LimitNode, Recipe, SourceNode
from handful.engine.recipe.fields import Node
from handful.engine.recipe.problems import Problem
from handful.engine.values import Follow, Like, Move

MOST_LAYERS_DEEP = 8
MOST_POINTS_DEEP = 4
MOST_LIKES_DEEP = 16
MOST_PICTURES = 2000
"""Pictures of layers that a frame may ask for, with copies, trails and shutters multiplied out."""


def with_own(source: SourceNode, own: Mapping[str, Any]) -> SourceNode:
    """A source with some settings replaced. Raises pydantic's `ValidationError`."""
    written = source.model_dump() | dict(own)
    return type(source).model_validate(written)


def kind_of(node: Node) -> type[Kind]:
    """The declaration of a source, step or limit in a recipe."""
    if isinstance(node, SourceNode):
        return sources()[node.kind]
    return limits()[node.kind] if isinstance(node, LimitNode) else steps()[node.kind]


class Use(NamedTuple):
    """A setting where it is written: its path, its declaration, and what is written."""

    path: str
    setting: Setting
    written: Any


def uses_in(path: str, node: BaseModel, kind: type[Kind]) -> Iterator[Use]:
    """Every setting of a node, and those of its pieces."""
    for setting in kind.settings:
        written = getattr(node, setting.name)
        here = f"{path}.{setting.name}"
        yield Use(here, setting, written)
        if setting.type == "pieces" and setting.of is not None:
            for i, piece in enumerate(written):
                yield from uses_in(f"{here}[{i}]", piece, setting.of)


def moves_in(path: str, written: Any) -> Iterator[tuple[str, Move]]:
    """A way of moving, and those of what it rests on, with their paths."""
    while isinstance(written, Move):
        yield path, written
        written = getattr(written, "value", None)
        path += ".value"


def reference_problems(recipe: Recipe) -> Iterator[Problem]:
    """Everything named that is not there, or that leads back to itself."""
    checker = _Checker(recipe)
    found = list(checker.named())
    yield from found
    if not found:
        yield from checker.endless()


class _Checker:
    def __init__(self, recipe: Recipe) -> None:
        self.recipe = recipe
        self.layers = {layer.id: layer for layer in recipe.layers}
        self.points = {point.name: point for point in recipe.points}
        self.names: dict[Any, Iterable[str]] = {
            kind: [each.name for each in getattr(recipe, what)] for what, kind in NAMED.items()
        }
        self.tracks = [track.name for track in recipe.tracks]
        self.elements = {element.name: element.recipe for element in recipe.elements}
        self.counts: dict[str, int] = {}
        self.leads: dict[str, list[tuple[str, int]]] = {}

    def named(self) -> Iterator[Problem]:
        """What is named and is not there, or is not of the sort that is asked for."""
        for i, point in enumerate(self.recipe.points):
            yield from self._moves(f"points[{i}].at", point.at, "point")
        for use in self._uses():
            yield from self._use(use)
        for i, layer in enumerate(self.recipe.layers):
            path = f"layers[{i}]"
            yield from self._moves(f"{path}.opacity", layer.opacity, "number")
            yield from _out_of_bounds(f"{path}.opacity", layer.opacity, 0, 100)
            yield from self._membership(path, layer)
            yield from self._copies(f"{path}.source", layer.source)

    def endless(self) -> Iterator[Problem]:
        """What leads back to itself, goes too deep, or asks for too much."""
        points = [
            (f"points[{i}].at", point.name, list(_followed(point.at)))
            for i, point in enumerate(self.recipe.points)
        ]
        yield from _loops(points, MOST_POINTS_DEEP, "points that follow points")
        yield from _loops(self._likes(), MOST_LIKES_DEEP, "settings that are like settings")
        layers = [
            (f"layers[{i}]", layer.id, [name for name, _ in self._leads_to(layer)])
            for i, layer in enumerate(self.recipe.layers)
        ]
        loops = list(_loops(layers, MOST_LAYERS_DEEP, "layers made from layers"))
        yield from loops
        if not loops:
            yield from self._too_many()

    def _uses(self) -> Iterator[Use]:
        for what, kind in NAMED.items():
            for i, each in enumerate(getattr(self.recipe, what)):
                yield from uses_in(f"{what}[{i}]", each, kind)
        for i, layer in enumerate(self.recipe.layers):
            for path, node in nodes_in(f"layers[{i}]", layer):
                yield from uses_in(path, node, kind_of(node))
        for path, node in nodes_of_steps("finish", self.recipe.finish):
            yield from uses_in(path, node, kind_of(node))

    def _use(self, use: Use) -> Iterator[Problem]:
        path, setting, written = use
        if isinstance(written, Move):
            yield from self._moves(path, written, setting.type)
            if setting.type == "number":
                assert setting.least is not None and setting.most is not None
                yield from _out_of_bounds(path, written, setting.least, setting.most)
        if setting.type == "layer" and written:
            yield from _missing(path, "layer", written, self.layers)
        if setting.type == "element" and written:
            yield from _missing(path, "element", written, self.elements)
        if setting.type == "named" and written:
            assert setting.of is not None
            yield from _missing(path, setting.of.name, written, self.names[setting.of])

    def _moves(self, path: str, written: Any, sort: str) -> Iterator[Problem]:
        for place, move in moves_in(path, written):
            if isinstance(move, Follow) and move.point is not None:
                yield from _missing(f"{place}.point", "point", move.point, self.points)
            elif isinstance(move, Follow):
                yield from _missing(f"{place}.track", "track", move.track or "", self.tracks)
            elif isinstance(move, Like):
                yield from self._like(f"{place}.setting", move, sort)

    def _like(self, path: str, move: Like[Any, Any, Any], sort: str) -> Iterator[Problem]:
        reference = move.setting
        layer = self.layers.get(reference.layer)
        if layer is None:
            yield from _missing(f"{path}.layer", "layer", reference.layer, self.layers)
            return
        nodes: dict[str, Node] = {step.id: step for step in layer.steps}
        nodes["source"] = layer.source
        node = nodes.get(reference.of)
        if node is None:
            yield from _missing(f"{path}.of", "step", reference.of, nodes)
            return
        known = {setting.name: setting.type for setting in kind_of(node).settings}
        fitting = [name for name, type_ in known.items() if type_ == sort]
        if known.get(reference.setting) != sort:
            yield from _missing(f"{path}.setting", f"{sort} setting", reference.setting, fitting)

    def _membership(self, path: str, layer: Layer) -> Iterator[Problem]:
        if layer.within is None:
            return
        groups = [known.id for known in self.recipe.layers if known.source.kind == "group"]
        yield from _missing(f"{path}.within", "group", layer.within, groups)

    def _copies(self, path: str, node: SourceNode) -> Iterator[Problem]:
        """Settings that a copy names of the other layer's source."""
        original = self.layers.get(getattr(node, "of", ""))
        if original is None:
            return
        known = kind_of(original.source).settings
        for use in uses_in(path, node, kind_of(node)):
            if use.setting.type == "text" and use.written and getattr(node, "spots", ()):
                points = [setting.name for setting in known if setting.type == "point"]
                yield from _missing(use.path, "point setting", use.written, points)
            if use.setting.type == "own" and use.written:
                yield from self._own(use.path, original.source, use.written)

    def _own(self, path: str, source: SourceNode, own: dict[str, Any]) -> Iterator[Problem]:
        known = [setting.name for setting in kind_of(source).settings]
        unknown = [name for name in own if name not in known]
        for name in unknown:
            yield from _missing(path, "setting", name, known)
        if unknown:
            return
        try:
            changed = with_own(source, own)
        except ValidationError as error:
            for detail in error.errors(include_url=False):
                place = "".join(f".{part}" for part in detail["loc"][:1])
                yield Problem(f"{path}{place}", f"It cannot be used: {detail['msg']}.")
            return
        for use in uses_in(path, changed, kind_of(changed)):
            yield from self._use(use)

    def _likes(self) -> list[tuple[str, Any, list[Any]]]:
        """Each setting of a layer that is like another, or that another is like: which those are."""
        found: dict[Any, tuple[str, list[Any]]] = {}
        for i, layer in enumerate(self.recipe.layers):
            nodes = [(f"layers[{i}].source", "source", layer.source)]
            nodes += [(f"layers[{i}].steps[{j}]", s.id, s) for j, s in enumerate(layer.steps)]  # type: ignore[misc]
            for path, of, node in nodes:
                for setting in kind_of(node).settings:
                    ways = moves_in("", getattr(node, setting.name))
                    keys = [_like_key(move) for _, move in ways if isinstance(move, Like)]
                    if keys:
                        here = f"{path}.{setting.name}"
                        found[(layer.id, of, setting.name)] = (here, keys)
        ends = {key for _, keys in found.values() for key in keys if key not in found}
        return [
            *((path, key, keys) for key, (path, keys) in found.items()),
            *(("", key, []) for key in sorted(ends)),
        ]

    def _leads_to(self, layer: Layer) -> list[tuple[str, int]]:
        """The layers that a layer's picture is made from, and how often."""
        if layer.id in self.leads:
            return self.leads[layer.id]
        found = [(known.id, 1) for known in self.recipe.layers if known.within == layer.id]
        for _, node in nodes_in("", layer):
            times = 1
            if node is layer.source:
                times = len(getattr(node, "spots", ())) or getattr(node, "count", 1)
            for setting in kind_of(node).settings:
                if setting.type == "layer" and getattr(node, setting.name):
                    found.append((getattr(node, setting.name), times))
        self.leads[layer.id] = found
        return found

    def pictures(self) -> int:
        """The pictures of layers that a frame asks for."""
        total = sum(self._pictures_of(layer) for layer in self.recipe.layers if not layer.within)
        for step in self.recipe.finish:
            total *= _moments_of(step)
        return total

    def _pictures_of(self, layer: Layer) -> int:
        if layer.id not in self.counts:
            count = 1 + sum(
                times * self._pictures_of(self.layers[name])
                for name, times in self._leads_to(layer)
            )
            placed = self.elements.get(getattr(layer.source, "of", ""))
            if kind_of(layer.source) is sources()["element"] and placed is not None:
                count += getattr(layer.source, "count", 1) * _Checker(placed).pictures()
            for step in layer.steps:
                count *= _moments_of(step)
            if layer.shutter.angle > 0:
                count *= layer.shutter.samples
            self.counts[layer.id] = count
        return self.counts[layer.id]

    def _too_many(self) -> Iterator[Problem]:
        total, layers = self.pictures(), self.recipe.layers
        if total > MOST_PICTURES:
            most = max(range(len(layers)), key=lambda i: self._pictures_of(layers[i]))
            yield Problem(
                f"layers[{most}]",
                f"A frame would need {total} pictures of layers, and may need {MOST_PICTURES}. "
                "Use fewer copies, moments of a trail or shutter samples.",
            )


def _moments_of(step: Node) -> int:
    kind = kind_of(step)
    return kind.how_many(step) if issubclass(kind, Timed) else 1


def nodes_in(path: str, layer: Layer) -> Iterator[tuple[str, Any]]:
    """A layer's source, its steps and all limits, each with its path."""
    yield f"{path}.source", layer.source
    yield from nodes_of_steps(f"{path}.steps", layer.steps)
    for i, limit in enumerate(layer.limits):
        yield f"{path}.limits[{i}]", limit


def nodes_of_steps(path: str, chain: Iterable[Any]) -> Iterator[tuple[str, Any]]:
    """Steps and their limits, each with its path."""
    for i, step in enumerate(chain):
        yield f"{path}[{i}]", step
        for j, limit in enumerate(step.limits):
            yield f"{path}[{i}].limits[{j}]", limit


def _out_of_bounds(path: str, written: Any, least: float, most: float) -> Iterator[Problem]:
    """Values in a way of moving that the setting could not have."""
    for place, move in moves_in(path, written):
        for name, value in move.stills():
            if value < least:
                yield Problem(f"{place}.{name}", f"{value:g} is less than {least:g}.", least)
            if value > most:
                yield Problem(f"{place}.{name}", f"{value:g} is more than {most:g}.", most)


def _followed(written: Any) -> Iterator[str]:
    for _, move in moves_in("", written):
        if isinstance(move, Follow) and move.point is not None:
            yield move.point


def _like_key(move: Like[Any, Any, Any]) -> tuple[str, str, str]:
    return move.setting.layer, move.setting.of, move.setting.setting


def _missing(path: str, what: str, name: str, known: Iterable[str]) -> Iterator[Problem]:
    names = list(known)
    if name in names:
        return
    close = difflib.get_close_matches(name, names, 1)
    yield Problem(path, f"No {what} is called {name!r}.", close[0] if close else None)


def _loops(links: list[tuple[str, Any, list[Any]]], most_deep: int, what: str) -> Iterator[Problem]:
    """Problems of links that lead back to where they began, or are more than so many deep."""
    leads = {key: list(to) for _, key, to in links}
    paths = {key: path for path, key, _ in links}
    depths: dict[Any, int] = {}
    for start in leads:
        loop = _walk(start, leads, depths)
        if loop:
            way = " → ".join(_spoken(key) for key in loop)
            yield Problem(paths[loop[0]], f"It leads back to itself: {way}.")
            return
    for key, depth in depths.items():
        if depth > most_deep:
            yield Problem(paths[key], f"It is {depth} deep in {what}; {most_deep} is the most.")
            return


def _walk(start: Any, leads: dict[Any, list[Any]], depths: dict[Any, int]) -> list[Any] | None:
    """The loop that is met on the way from `start`, if any; depths of all that was finished."""
    waiting: list[tuple[Any, Iterator[Any]]] = [(start, iter(leads.get(start, ())))]
    trail = [start]
    while waiting:
        key, rest = waiting[-1]
        if key in depths:
            waiting.pop()
            trail.pop()
            continue
        following = next((to for to in rest if to in leads and to not in depths), None)
        if following is None:
            depths[key] = 1 + max((depths[to] for to in leads[key] if to in depths), default=0)
            waiting.pop()
            trail.pop()
        elif following in trail:
            return [*trail[trail.index(following) :], following]
        else:
            waiting.append((following, iter(leads[following])))
            trail.append(following)
    return None


def _spoken(key: Any) -> str:
    return key if isinstance(key, str) else " ".join(key)
