"""Resolving a recipe at a moment: moving values become plain ones, and kinds get their settings."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any, NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import Colour, colour_from_hex
from handful.engine.kinds import Kind, Limit, Setting, Source, Step, limits, sources, steps
from handful.engine.named import NAMED, Camera, Path
from handful.engine.recipe.document import Layer, LimitNode, Recipe, SourceNode, StepNode, spans
from handful.engine.values import (
    Follow,
    Like,
    Move,
    Point,
    Rate,
    Reference,
    Surroundings,
    between,
    steadied,
    value_at,
)

FINISH = "finish"
"""What stands in the place of a layer for the steps on the mixed result."""

K = TypeVar("K", bound=Kind)


class Take(NamedTuple):
    """As what a layer is drawn: at which moment, and what sets a copy apart.

    `frame` is the moment of what moves by itself and `now` that of the places it follows. `shown`
    is the frame that the picture is for: what shows on it does so for as long as its shutter is
    open. `salt` sets the random numbers of copies apart, `copy` counts them, and `life` is that of the copy
    where it is not the layer's own, and so is where it `begins`. `source` stands in for the layer's source. What runs on is
    set `back` by so many frames.
    """

    frame: float
    now: float
    shown: float
    salt: tuple[object, ...] = ()
    copy: int = 0
    life: float | None = None
    begins: int | None = None
    source: SourceNode | None = None
    back: float = 0.0

    @classmethod
    def of(cls, frame: float, back: float = 0.0) -> Take:
        """A frame as it is, no copy of anything."""
        return cls(frame, frame, frame, back=back)

    def later(self, by: float) -> Take:
        """The same so many frames later, on another frame."""
        return self.within(by)._replace(shown=self.shown + by)

    def within(self, by: float) -> Take:
        """The same so many frames later while the same frame is shown."""
        return self._replace(frame=self.frame + by, now=self.now + by)


class Limited(NamedTuple):
    """A limit with plain settings, and the place that sets its random numbers apart."""

    limit: Limit
    place: str


class Stepped(NamedTuple):
    """A step with plain settings, its place, and where it acts."""

    step: Step
    place: str
    limits: tuple[Limited, ...]


class Resolved(NamedTuple):
    """A layer as it is drawn at a moment, or the finish, which has no source: nothing in it moves."""

    layer: Layer | None
    take: Take
    source: Source | None
    chain: tuple[Stepped, ...]
    limits: tuple[Limited, ...]

    def before(self) -> Resolved:
        """The same without its last step."""
        return self._replace(chain=self.chain[:-1])

    def until(self, count: int) -> Resolved:
        """The same with its first steps only."""
        return self._replace(chain=self.chain[:count])


class Resolver:
    """A recipe whose moving values are asked for. It is also the scene that they look at."""

    def __init__(self, recipe: Recipe) -> None:
        self.recipe = recipe
        self._points = {point.name: point for point in recipe.points}
        self._tracks = {track.name: track for track in recipe.tracks}
        self._layers = {layer.id: layer for layer in recipe.layers}
        self._named: dict[type[Kind], dict[str, Any]] = {
            kind: {each.name: each for each in getattr(recipe, what)}
            for what, kind in NAMED.items()
        }
        self._known: dict[tuple[object, ...], Any] = {}

    def whole(self, layer: Layer | None, take: Take) -> Resolved:
        """A layer with all that is done to it, or the finish, at a moment."""
        steps = self.recipe.finish if layer is None else layer.steps
        chain = tuple(
            Stepped(
                self.step(written, layer, take),
                written.id,
                self._limits(written.limits, layer, take, written.id),
            )
            for written in steps
            if written.on
        )
        if layer is None:
            return Resolved(None, take, None, chain, ())
        source = self.source(layer, take).settled()
        return Resolved(
            layer, take, source, chain, self._limits(layer.limits, layer, take, "limits")
        )

    def _limits(
        self, written: Sequence[LimitNode], layer: Layer | None, take: Take, place: str
    ) -> tuple[Limited, ...]:
        names = [f"{place}/limit {i}" for i in range(len(written))]
        return tuple(
            Limited(self.limit(each, layer, name, take), name)
            for each, name in zip(written, names, strict=True)
        )

    def source(self, layer: Layer, take: Take) -> Source:
        """The layer's source with plain settings."""
        written = take.source or layer.source
        return self._made(sources()[written.kind], written, self.around(layer, take, "source"))

    def history(
        self, layer: Layer, take: Take, names: Sequence[str], frames: Sequence[float]
    ) -> list[tuple[Any, ...]]:
        """The plain values of some settings of a layer's source on other frames than the take's."""
        written = take.source or layer.source
        known = {name: setting_of(written, name) for name in names}
        now = self.around(layer, take, "source")
        still = {
            name: self._one(setting, written, now)
            for name, setting in known.items()
            if self._is_still(setting, getattr(written, name))
        }
        if len(still) == len(known):
            return [tuple(still[name] for name in names)] * len(frames)
        rows = []
        for frame in frames:
            then = self.around(layer, take.later(frame - take.frame), "source")
            rows.append(
                tuple(
                    still[name] if name in still else self._one(known[name], written, then)
                    for name in names
                )
            )
        return rows

    def _is_still(self, setting: Setting, written: Any) -> bool:
        """Whether it is the same on all frames: of pieces, and of what is named, all that is in them."""
        if setting.type == "pieces":
            return all(self._stands(setting.of, piece) for piece in written)
        if setting.type == "named":
            found = setting.of and self._named[setting.of].get(written)
            return found is None or self._stands(setting.of, found)
        return not isinstance(written, Move)

    def _stands(self, kind: type[Kind] | None, written: Any) -> bool:
        return kind is None or all(
            self._is_still(known, getattr(written, known.name)) for known in kind.settings
        )

    def step(self, written: StepNode, layer: Layer | None, take: Take) -> Step:
        """A step with plain settings; without a layer it is one of the finish."""
        return self._made(steps()[written.kind], written, self.around(layer, take, written.id))

    def limit(self, written: LimitNode, layer: Layer | None, place: str, take: Take) -> Limit:
        """A limit with plain settings, at its place among a layer's or a step's."""
        return self._made(limits()[written.kind], written, self.around(layer, take, place))

    def opacity(self, layer: Layer, take: Take) -> float:
        """How much of the layer is mixed in: nothing where it does not show, and above 1 where its
        life overshoots."""
        return self.shed(layer, take) if layer.on else 0.0

    def shed(self, layer: Layer, take: Take) -> float:
        """The same, also of a layer that is off and there for others to look at."""
        level = self.life(layer, take)
        if level is None:
            return 0.0
        opacity = self.unlived_opacity(layer, take._replace(life=level))
        return opacity * max(0.0, level) if layer.life.drives == "opacity" else opacity

    def unlived_opacity(self, layer: Layer, take: Take) -> float:
        """The layer's opacity as it is written, from 0 to 1, whatever its life makes of it."""
        around = self.around(layer, take, "opacity")
        return min(1.0, max(0.0, float(value_at(layer.opacity, around)) / 100))

    def life(self, layer: Layer, take: Take) -> float | None:
        """How far the layer's life has come, from 0 to 1, or nothing where it does not show.

        It shows or not for a whole frame: at a moment before its first or after its last one, while
        that frame's shutter is open, its life is as on that frame.
        """
        first, last = spans(self.recipe, layer)
        if not first <= take.shown <= last:
            return None
        level = layer.life.at(min(last, max(first, take.frame)), first, last)
        begun = layer.life.at(self.recipe.canvas.first, first, last)
        return level + (begun - level) * self.recipe.turned(take.frame)

    def point(self, name: str, frame: float, smoothing: float = 0.0) -> Point:
        """Where a named point is at a frame, steadied over so many frames to each side."""
        key = ("point", name, frame, smoothing)
        if key not in self._known:
            self._known[key] = (
                steadied(partial(self._places, name), frame, smoothing)
                if smoothing
                else self._turning(
                    self._points[name].at, self.around_shared(frame, "points", name), False
                )
            )
        place: Point = self._known[key]
        return place

    def _places(self, name: str, frames: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.array([self.point(name, frame) for frame in frames.tolist()])

    def track(self, name: str, frame: float, smoothing: float = 0.0) -> Point:
        """Where a track is at a frame, steadied over so many frames to each side."""
        track = self._tracks[name]
        place = track.steadied(frame, smoothing)
        share = self.recipe.turned(frame)
        if share == 0:
            return place
        before = track.steadied(frame - self.recipe.canvas.length, smoothing)
        turned: Point = between(place, before, share)
        return turned

    def path(self, name: str, frame: float) -> Path:
        """A named path at a frame."""
        found = self._by_name(Path, name, frame, 0.0)
        assert found is not None, name
        return found

    def camera(self, name: str, frame: float) -> Camera:
        """A named camera at a frame."""
        found = self._by_name(Camera, name, frame, 0.0)
        assert found is not None, name
        return found

    def setting(self, reference: Reference, frame: float, back: float = 0.0) -> Any:
        """The plain value of a setting of a layer at a frame; what runs on is set back."""
        key = (reference, frame, back)
        if key not in self._known:
            layer = self._layers[reference.layer]
            node: Any = layer.source
            if reference.of != "source":
                node = next(step for step in layer.steps if step.id == reference.of)
            around = self.around(layer, Take.of(frame, back), reference.of)
            setting = setting_of(node, reference.setting)
            self._known[key] = self._one(setting, node, around)
        return self._known[key]

    def _made(self, kind: type[K], written: Any, around: Surroundings) -> K:
        return kind(**{known.name: self._one(known, written, around) for known in kind.settings})

    def _one(self, setting: Setting, written: Any, around: Surroundings) -> Any:
        """A setting of what is written."""
        return self.plain_value(setting, getattr(written, setting.name), around)

    def plain_value(self, setting: Setting, written: Any, around: Surroundings) -> Any:
        """The plain value of a setting as written, with random numbers of its own in what is around."""
        if setting.type == "number" and isinstance(written, int | float):
            return _held(setting, written)  # what stands still looks at nothing around it
        own = around._replace(seeds=(*around.seeds, setting.name))
        return self._value(setting, written, own)

    def _value(self, setting: Setting, written: Any, around: Surroundings) -> Any:
        """The plain value of a setting, within its bounds."""
        match setting.type:
            case "number":
                return _held(setting, self._turning(written, around, setting.unit not in _JUMPS))
            case "colour":
                return _colour(self._turning(written, around))
            case "point":
                return _place(self._turning(written, around))
            case "pieces":
                assert setting.of is not None
                return tuple(
                    self._made(setting.of, piece, around._replace(seeds=(*around.seeds, i)))
                    for i, piece in enumerate(written)
                )
            case "named":
                assert setting.of is not None
                return self._by_name(setting.of, written, around.now, around.back)
            case "own":
                return dict(sorted(written.items()))
        return written

    def _turning(self, written: Any, around: Surroundings, keeps_running: bool = True) -> Any:
        """What is written, on the last frames of a loop as it turns into what was a loop before.

        What keeps running goes on at its pace, since the pictures are mixed instead.
        """
        share = self.recipe.turned(around.moment.frame)
        if not keeps_running:
            around = around._replace(back=0.0)
        value = value_at(written, around)
        if share == 0 or not isinstance(written, Move) or isinstance(written, _TURN_ELSEWHERE):
            return value
        if keeps_running and isinstance(written, Rate):
            return value
        length = self.recipe.canvas.length
        before = around._replace(
            moment=self.recipe.moment(around.moment.frame - length),
            back=around.back - length if keeps_running else 0.0,
        )
        return between(value, value_at(written, before), share)

    def _by_name(self, kind: type[K], name: str, frame: float, back: float) -> K | None:
        """What is shared by name at a frame: the same for all that share it."""
        written = self._named[kind].get(name)
        if written is None:
            return None
        key = (kind, name, frame, back)
        if key not in self._known:
            around = self.around_shared(frame, kind.name, name, back=back)
            self._known[key] = self._made(kind, written, around)
        made: K = self._known[key]
        return made

    def around(self, layer: Layer | None, take: Take, place: str) -> Surroundings:
        """What the values at a place of a layer, or of the finish, may look at: `source`, a step's
        id, `limits/limit 0`, or a step's id and `/limit 0`."""
        owner = FINISH if layer is None else layer.id
        life = take.life
        if life is None:
            life = 1.0 if layer is None else self.life(layer, take) or 0.0
        seeds = (self.recipe.seed, *take.salt, owner, place)
        begins = take.begins
        if begins is None:
            begins = self.recipe.canvas.first if layer is None else spans(self.recipe, layer)[0]
        moment = self.recipe.moment(take.frame)
        return Surroundings(moment, self, take.now, life, seeds, take.copy, begins, take.back)

    def around_shared(self, frame: float, *place: str, back: float = 0.0) -> Surroundings:
        """What the values of a point, a sway or a path may look at, by its sort and its name."""
        seeds = (self.recipe.seed, *place)
        begins = self.recipe.canvas.first
        moment = self.recipe.moment(frame)
        return Surroundings(moment, self, frame, seeds=seeds, begins=begins, back=back)


def _held(setting: Setting, value: float) -> float:
    """A number within the bounds of its setting."""
    assert setting.least is not None and setting.most is not None
    return min(float(setting.most), max(float(setting.least), float(value)))


_JUMPS = frozenset({"changes", "levels"})
"""What phases count that jump by themselves, and so have no seam to be mixed over."""

_TURN_ELSEWHERE = (Follow, Like)
"""What takes its value from where it has turned already."""

_FARTHEST = 1e7
_BRIGHTEST = 1e4


def _colour(value: Any) -> Colour:
    colour = value if isinstance(value, Colour) else colour_from_hex(value)
    return Colour(*(min(_BRIGHTEST, max(0.0, part)) for part in colour))


def _place(value: Any) -> Point:
    x, y = (min(_FARTHEST, max(-_FARTHEST, float(part))) for part in value)
    return Point(x, y)


def setting_of(node: Any, name: str) -> Setting:
    """The declaration of a setting of a source or step. Raises `KeyError` if it has none such."""
    known = sources() if isinstance(node, SourceNode) else steps()
    for setting in known[node.kind].settings:
        if setting.name == name:
            return setting
    raise KeyError(name)
