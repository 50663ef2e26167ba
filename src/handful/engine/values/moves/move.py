"""What all ways of moving share."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import (
    Annotated,
    Any,
    ClassVar,
    Literal,
    NamedTuple,
    Protocol,
    TypeVar,
    get_args,
    get_origin,
)

from pydantic import BaseModel, ConfigDict, Field

from handful.engine.colour.transfer import Colour, colour_from_hex, is_hex
from handful.engine.values.moment import Moment
from handful.engine.values.point import Point

V = TypeVar("V")
"""What a still value is written as, within its range."""

D = TypeVar("D")
"""What a change of it is written as."""

W = TypeVar("W")
"""The value underneath, which may itself move."""

S = TypeVar("S")
"""One number, or one for each axis."""

T = TypeVar("T")
"""One text, or one for each axis."""

Slot = Literal["still", "change", "under", "share", "text"]
"""`V`, `D`, `W`, `S` and `T`, by the words with which a way of moving asks for them."""

Plain = Any
"""A number, a `Point` or a `Colour`."""


class Reference(BaseModel):
    """Which setting is meant: of a layer's source, or of one of its steps by its id."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    layer: str = Field(min_length=1, max_length=80)
    of: str = Field("source", min_length=1, max_length=80, description="`source`, or a step's id.")
    setting: str = Field(min_length=1, max_length=80)


class Scene(Protocol):
    """What moving values can look at beyond themselves."""

    def point(self, name: str, frame: float, smoothing: float = 0.0) -> Point:
        """Where a named point is at a frame, steadied over so many frames to each side."""

    def track(self, name: str, frame: float, smoothing: float = 0.0) -> Point:
        """Where a track is at a frame, steadied over so many frames to each side."""

    def setting(self, reference: Reference, frame: float, back: float = 0.0) -> Plain:
        """The plain value of another setting at a frame; what runs on is set back."""


class Surroundings(NamedTuple):
    """What a moving value may look at.

    `moment` is when it is for the value; `now`, which may differ for a copy that runs early or
    late, is when it is for the places that it follows. `copy` counts copies from 0, and `begins` is
    the first frame of the layer, or of the shot. What runs on is set `back` by so many frames, as
    when the end of a loop turns into its beginning. `seeds` keeps the random numbers of this value
    apart from those of every other.
    """

    moment: Moment
    scene: Scene
    now: float
    life: float = 1.0
    seeds: tuple[object, ...] = ()
    copy: int = 0
    begins: float = 0.0
    back: float = 0.0


class ForSort(BaseModel):
    """The base of what is made for numbers, points and colours alike, and named by that."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    @classmethod
    def model_parametrized_name(cls, params: tuple[Any, ...]) -> str:
        """As `KeysPoint`, from what a still value of the sort is written as."""
        still = params[0]
        while get_origin(still) is Annotated:
            still = get_args(still)[0]
        sort = {float: "Number", str: "Colour"}.get(still, "Point")
        return f"{cls.__name__}{sort}"


class Move(ForSort):
    """The base of all ways of moving.

    Its fields are declared with a `title` where they are to be edited, and with `told` for what else
    is said of them. The catalogue hands all of it on, so that whoever edits recipes needs to know of
    no way by name.
    """

    suits: ClassVar[frozenset[str]]
    """Setting types that may move this way."""
    of_layers: ClassVar[bool] = False
    """Whether only what a layer has can move this way."""
    parts: ClassVar[tuple[Slot, ...]] = ("still", "change")
    """What its type is made from, in the order of its type parameters."""
    help: ClassVar[str]
    says: ClassVar[str]
    """How a value that moves this way is told in a few words."""
    carried: ClassVar[tuple[str, ...]]
    """Fields that change by as much as the value does when it is moved as a whole."""
    dragged: ClassVar[str] = ""
    """The field that dragging on the value in its sentence changes, if one does."""
    mark: ClassVar[str] = "M1.5 6h9"
    """A small sign for it: an SVG path in a square of 12 px."""

    def stills(self) -> Iterator[tuple[str, Any]]:
        """The plain values in it that its setting's bounds hold for, each with its path."""
        for name in ("start", "end", "value"):
            written = getattr(self, name, None)
            if written is not None and not isinstance(written, Move):
                yield name, written

    def at(self, around: Surroundings) -> Plain:
        """The plain value at a moment."""
        raise NotImplementedError


def told(**more: Any) -> dict[str, Any]:
    """What is said of a field: its `unit`, after that of the setting for a value or a change of one;
    `words` for its choices; and with what it `begins`: `now`, the value at that moment, `none`, no
    change or no light, or a plain value of its own."""
    return more


def value_at(written: Any, around: Surroundings) -> Plain:
    """The plain value of what a recipe says, still or moving."""
    return written.at(around) if isinstance(written, Move) else plain(written)


def plain(written: Any) -> Plain:
    """A pair as a `Point`, a hex colour as a `Colour` in linear light, anything else as it is."""
    if isinstance(written, tuple) and not isinstance(written, (Point, Colour)):
        return Point(*written)
    return colour_from_hex(written) if is_hex(written) else written


def between(first: Plain, second: Plain, part: float) -> Plain:
    """`first` at part 0, `second` at 1, and on in a straight line beyond; colours in linear light."""
    if isinstance(first, tuple):
        mixed = [a + (b - a) * part for a, b in zip(first, second, strict=True)]
        return type(first)(*mixed)
    return first + (second - first) * part


def added(value: Plain, amount: Any, share: Sequence[float]) -> Plain:
    """A value plus an amount, times a share for each of its axes."""
    if isinstance(value, tuple):
        moved = (v + a * s for v, a, s in zip(value, amount, share, strict=False))
        return type(value)(*moved)
    return value + amount * share[0]


def axes(value: Plain) -> tuple[float, ...]:
    """The numbers that a plain value is made of."""
    return value if isinstance(value, tuple) else (value,)


def rejoined(like: Plain, numbers: Sequence[float]) -> Plain:
    """Numbers as a value of the same sort as `like`."""
    return type(like)._make(numbers) if isinstance(like, (Point, Colour)) else numbers[0]
