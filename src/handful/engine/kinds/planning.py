"""What a source may ask for while its picture is planned: pictures that it is made of.

Most sources draw themselves. One that is made of other layers, or of another recipe, says so in its
`planned`; whoever plans needs no case for it.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple, Protocol, Self

from handful.engine.kernels.forms.places import Matrix
from handful.engine.kernels.pixels.resample import Edge

Planned = Any
"""A picture that will be computed, if it is wanted."""


class Again(NamedTuple):
    """How another layer is drawn again: so many frames ahead, with another seed unless it is 0, as
    which copy, and with settings of its source that differ, as a recipe writes them."""

    ahead: float = 0.0
    seed: int = 0
    copy: int | None = None
    own: dict[str, Any] = {}


class Placing(NamedTuple):
    """How one picture of an element is placed: from px of its canvas to px of this one, both full
    size, of about a size; its frame from 0, at the frame that is shown, and how far the moment is
    from there; another seed unless it is 0."""

    matrix: Matrix
    size: float
    frame: float
    within: float
    seed: int


class Clock(NamedTuple):
    """A moment: its frame, the rate in frames a second, and the frame on which the layer begins."""

    frame: float
    rate: float
    begins: float


class PlacedRecipe(Protocol):
    """An element: a recipe on a canvas of its own."""

    frames: int
    rate: float

    def placed(self, how: Placing) -> Planned:
        """One picture of it, placed."""


class Draws(Protocol):
    """A part of a source that draws by itself. How it prints says all that its picture depends on."""

    def draw(self, at: Any, *others: Any) -> Any:
        """Its picture, from those that were planned before."""


class Leads(Protocol):
    """Leads to a state. How it prints says all that the state depends on beside those before."""

    def next(self, at: Any, *before: Any) -> Any:
        """The state, from those that were planned before; `at` gives random numbers only."""


class Planning(Protocol):
    """Asks for pictures that a source is made of, on the region that is wanted."""

    def drawn(self, by: Draws | None = None, *before: Planned) -> Planned:
        """What the source draws itself; or a part of it does, which is drawn again only when that
        part changes, from pictures planned before."""

    def others(self) -> tuple[Planned, ...]:
        """The layers that the source's settings name, in that order, on the canvas."""

    def state(
        self, by: Leads, *before: Planned, lasts: bool = False, frame: float | None = None
    ) -> Planned:
        """A state of a source with memory, from the one before and what else moved it, at the beginning of a
        frame; worth keeping for long if it `lasts`."""

    def seen(self, layer: str, frame: float, scale: float, shed: bool = False) -> Planned:
        """Another layer's picture on the canvas at a frame and a scale, as much of it as shows then if it is
        `shed`; nothing where there is none."""

    def members(self) -> Planned:
        """The layers that belong to this one, mixed."""

    def other(self, layer: str, again: Again) -> Planned:
        """Another layer again; nothing where there is none of that id."""

    def element(self, name: str) -> PlacedRecipe | None:
        """An element of the recipe, if there is one of that name."""

    def plate(self, ahead: float, edge: Edge) -> Planned:
        """The shot's plate, so many frames ahead; nothing where there is none. What lies beyond its
        edges is as they say."""

    def clock(self) -> Clock:
        """At which moment the source is planned."""

    def history(self, names: Sequence[str], frames: Sequence[float]) -> list[tuple[Any, ...]]:
        """The plain values that some settings have on other frames, in the order of the names."""

    def as_shown(self) -> Any:
        """The source as it is on the frame that is shown, whatever the moment."""

    def mixed(self, pictures: Sequence[Planned], blend: str) -> Planned:
        """Pictures mixed from first to last."""


class Bends:
    """A source whose offsets bend what is below it in its group, and the plate if it is in none. It has
    settings of how far at most, and of how that is seen."""

    most: float
    spread: float
    colours: int
    blur: float
    edge: Edge


class Plans:
    """The part of a source that says what its picture is made of."""

    def planned(self, ask: Planning) -> Planned:
        """The picture of the source: what it draws, unless it is made of others."""
        return ask.drawn()

    def settled(self) -> Self:
        """The same, with what cannot matter set aside, so that it need not be drawn again."""
        return self
