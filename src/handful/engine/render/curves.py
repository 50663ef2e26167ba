"""What moving values are on every frame of a shot: the curves that a person sees and edits."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, NamedTuple

from handful.engine.kinds import Kind
from handful.engine.named import NAMED
from handful.engine.recipe import Layer, Recipe
from handful.engine.recipe.references import kind_of, moves_in
from handful.engine.render.plan import PlanError
from handful.engine.render.resolve import Resolver, Take
from handful.engine.values import Follow, Move, Surroundings
from handful.engine.values.moves.move import axes

MOST_SAMPLES = 600
"""Frames of a long shot are thinned to so many."""

Where = tuple[str | int, ...]
"""A place in a recipe from its outside in: names of fields, names or ids of what has one, and
numbers of what has none, as in `("layers", "main", "steps", "glow", "lobes", 0, "radius")`."""

_LISTS = {kind: what for what, kind in NAMED.items()}


class Curve(NamedTuple):
    """A moving value: where it is, what it is called, the frames looked at, and its numbers on each.

    A number has one value a frame, a point two and a colour three, in linear light.
    """

    where: Where
    says: str
    frames: list[float]
    values: list[tuple[float, ...]]


def curves(recipe: Recipe, layer_id: str | None) -> list[Curve]:
    """The curves of all that moves in a layer, or in the finish if none is named: of its opacity,
    source, steps and limits in the order of its cards, of several alike in them, and then of the
    points, and what else has a name, that they name.

    Raises `PlanError` if there is no such layer.
    """
    layer = next((layer for layer in recipe.layers if layer.id == layer_id), None)
    if layer is None and layer_id is not None:
        raise PlanError(f"there is no layer {layer_id!r}")
    canvas = recipe.canvas
    stride = -(-canvas.length // MOST_SAMPLES)
    frames = [float(frame) for frame in range(canvas.first, canvas.last + 1, stride)]
    return [
        Curve(moving.where, moving.says, frames, [axes(moving.at(frame)) for frame in frames])
        for moving in _Finder(recipe).moving_in(layer)
    ]


class _Moving(NamedTuple):
    where: Where
    says: str
    at: Callable[[float], Any]


class _Finder:
    """Finds what moves, and takes note of what it names on the way."""

    def __init__(self, recipe: Recipe) -> None:
        self.recipe = recipe
        self.resolver = Resolver(recipe)
        self.points: dict[str, None] = {}
        self.shared: dict[tuple[type[Kind], str], None] = {}

    def moving_in(self, layer: Layer | None) -> Iterator[_Moving]:
        """All that moves in a layer or in the finish, and in what it names."""
        for where, says, node, place in _parts(self.recipe, layer):

            def around(frame: float, place: str = place) -> Surroundings:
                return self.resolver.around(layer, Take.of(frame), place)

            yield from self._within(where, says, node, kind_of(node), around)
        if layer is not None:
            yield from self._opacity(layer)
        yield from self._named()

    def _within(
        self,
        where: Where,
        says: str,
        node: Any,
        kind: type[Kind],
        around: Callable[[float], Surroundings],
    ) -> Iterator[_Moving]:
        """What moves among the settings of a node and of its pieces."""
        for setting in kind.settings:
            written = getattr(node, setting.name)
            here = (*where, setting.name)
            called = setting.name.replace("_", " ")
            if setting.type == "pieces" and setting.of is not None:
                one = called.removesuffix("s")
                for i, piece in enumerate(written):
                    yield from self._within(
                        (*here, i), f"{says}{one} {i + 1}, ", piece, setting.of, _inner(around, setting.name, i)
                    )  # fmt: skip
            elif setting.type == "named" and written and setting.of is not None:
                self.shared[(setting.of, written)] = None
            elif isinstance(written, Move):
                self._note(written)

                def at(frame: float, setting: Any = setting, written: Any = written) -> Any:
                    return self.resolver.plain_value(setting, written, around(frame))

                yield _Moving(here, says + called, at)

    def _opacity(self, layer: Layer) -> Iterator[_Moving]:
        if isinstance(layer.opacity, Move):
            self._note(layer.opacity)
            yield _Moving(
                ("layers", layer.id, "opacity"),
                "opacity",
                lambda frame: 100 * self.resolver.unlived_opacity(layer, Take.of(frame)),
            )

    def _named(self) -> Iterator[_Moving]:
        """What moves in the points and all else that was named, and in what those name."""
        done: set[Any] = set()
        while True:
            shared = [key for key in self.shared if key not in done]
            points = [name for name in self.points if name not in done]
            if not shared and not points:
                return
            done.update(shared, points)
            for kind, name in shared:
                field = _LISTS[kind]
                node = next(each for each in getattr(self.recipe, field) if each.name == name)

                def around(frame: float, kind: type[Kind] = kind, name: str = name) -> Surroundings:
                    return self.resolver.around_shared(frame, kind.name, name)

                yield from self._within((field, name), f"{name}: ", node, kind, around)
            for name in points:
                at = next(point.at for point in self.recipe.points if point.name == name)
                self._note(at)
                if isinstance(at, Move):

                    def place(frame: float, name: str = name) -> Any:
                        return self.resolver.point(name, frame)

                    yield _Moving(("points", name, "at"), f"point {name}", place)

    def _note(self, written: Any) -> None:
        for _, move in moves_in("", written):
            if isinstance(move, Follow) and move.point is not None:
                self.points[move.point] = None


def _inner(
    around: Callable[[float], Surroundings], name: str, i: int
) -> Callable[[float], Surroundings]:
    """Of one piece, which has random numbers of its own."""

    def inside(frame: float) -> Surroundings:
        outer = around(frame)
        return outer._replace(seeds=(*outer.seeds, name, i))

    return inside


def _parts(recipe: Recipe, layer: Layer | None) -> Iterator[tuple[Where, str, Any, str]]:
    """Source, steps and limits: where each is, how what moves in it is called, and its place."""
    where: Where = ("finish",)
    chain = recipe.finish
    if layer is not None:
        where, chain = ("layers", layer.id, "steps"), layer.steps
        yield ("layers", layer.id, "source"), "", layer.source, "source"
    for step in chain:
        yield (*where, step.id), f"{step.kind}: ", step, step.id
        for i, limit in enumerate(step.limits):
            says = f"{step.kind}, {limit.kind}: "
            yield (*where, step.id, "limits", i), says, limit, f"{step.id}/limit {i}"
    if layer is not None:
        for i, limit in enumerate(layer.limits):
            yield (
                ("layers", layer.id, "limits", i), f"{limit.kind}: ", limit, f"limits/limit {i}"
            )  # fmt: skip
