"""One value of a source or a step, declared once."""

from __future__ import annotations

import dataclasses
from types import UnionType
from typing import Any, Literal, NewType, get_args, get_origin

from handful.engine.colour.transfer import Colour
from handful.engine.picture import PictureKind
from handful.engine.values import MOVES, Point

SettingType = Literal[
    "number",
    "whole",
    "switch",
    "point",
    "colour",
    "choice",
    "pieces",
    "layer",
    "named",
    "element",
    "text",
    "words",
    "own",
]

Drawn = Literal["radius", "width", "height", "below", "direction", "offset", "feather"]
"""How a setting is drawn about a point: a length all round, a whole width or height, how far below, a clockwise
angle from the right, a way from it, or the softness of an edge."""

LayerId = NewType("LayerId", str)
"""The id of another layer whose picture is handed to the kind; empty for none."""

ElementName = NewType("ElementName", str)
"""The name of an element of the recipe; empty for none."""

SettingName = NewType("SettingName", str)
"""The name of a setting of another layer's source; empty for none."""

Words = NewType("Words", str)
"""A line of letters, digits and signs."""

OwnSettings = NewType("OwnSettings", dict)  # type: ignore[type-arg]
"""Settings of another layer's source that differ, by name, as a recipe writes them."""


AnyKind = type[Any]
"""A class declared as a kind."""


@dataclasses.dataclass(frozen=True)
class Setting:
    """What is known of a setting. `usual` is the range a slider offers within `least` to `most`.

    `of` is the kind of its pieces, or the kind of what it names. `drawn` says how it is drawn on the
    picture, about the point setting `about`, or about the middle of the canvas. A point that is
    `elsewhere` is no place on this canvas. One for the `look` leaves a state as it is. `takes` is what kinds of picture a layer that it names may
    be. A number of cycles `returns` after as many as that setting says, if it says any.
    """

    name: str
    type: SettingType
    default: Any
    help: str
    unit: str = ""
    least: float | None = None
    most: float | None = None
    usual: tuple[float, float] | None = None
    choices: tuple[str, ...] = ()
    drawn: Drawn | None = None
    about: str = ""
    elsewhere: bool = False
    look: bool = False
    takes: tuple[PictureKind, ...] = ("light",)
    returns: str = ""
    measured: bool = False
    of: AnyKind | None = None

    @property
    def is_place(self) -> bool:
        """Whether it is a place on the canvas, and not a way from one or a place elsewhere."""
        return self.type == "point" and self.drawn != "offset" and not self.elsewhere

    @property
    def moves(self) -> tuple[str, ...]:
        """The ways in which it may move."""
        return tuple(name for name, move in MOVES.items() if self.type in move.suits)


def setting(
    default: Any,
    *,
    help: str,
    unit: str = "",
    least: float | None = None,
    most: float | None = None,
    usual: tuple[float, float] | None = None,
    drawn: Drawn | None = None,
    about: str = "",
    elsewhere: bool = False,
    look: bool = False,
    takes: tuple[PictureKind, ...] = ("light",),
    returns: str = "",
    measured: bool = False,
) -> Any:
    """Declare a setting as the default of a class attribute; its type is the annotation's.

    `default` is written as a recipe would write it: a hex colour, a pair for a point, an object
    with `moves`, a list of objects for pieces. `most` is then how many pieces there may be. A layer that
    is `measured` is handed over whole, on the canvas and at one scale, whatever is shown.
    """
    told = {
        "help": help, "unit": unit, "least": least, "most": most, "usual": usual,
        "drawn": drawn, "about": about, "elsewhere": elsewhere, "look": look, "takes": takes,
        "returns": returns, "measured": measured,
    }  # fmt: skip
    return dataclasses.field(metadata={"default": default, "told": told})


def clockwise(default: float, *, help: str, about: str = "") -> Any:
    """Declare a clockwise angle, drawn about a point setting or the middle of the canvas."""
    return setting(
        default,
        unit="°",
        least=-36000,
        most=36000,
        usual=(-180, 180),
        drawn="direction",
        about=about,
        help=help,
    )


_PLAIN: dict[Any, SettingType] = {
    float: "number",
    int: "whole",
    bool: "switch",
    Point: "point",
    Colour: "colour",
    LayerId: "layer",
    ElementName: "element",
    SettingName: "text",
    Words: "words",
    OwnSettings: "own",
}


def read_setting(name: str, annotation: Any, metadata: Any) -> Setting:
    """A setting from its annotation and what `setting` was told. Raises `TypeError` if it is wrong."""
    told = metadata["told"]
    kind, choices, of = _type_of(annotation)
    if kind is None:
        raise TypeError(f"setting {name}: no setting type for {annotation!r}")
    if kind in ("number", "whole", "pieces") and (told["least"] is None or told["most"] is None):
        raise TypeError(f"setting {name}: a number needs least and most")
    return Setting(
        name=name, type=kind, default=metadata["default"], choices=choices, of=of, **told
    )


def _type_of(annotation: Any) -> tuple[SettingType | None, tuple[str, ...], type[Any] | None]:
    """`Literal` is a choice, `tuple[Lobe, ...]` pieces, `Sway | None` the name of a sway."""
    origin, inner = get_origin(annotation), get_args(annotation)
    if origin is Literal:
        return "choice", inner, None
    if origin is tuple and len(inner) == 2 and inner[1] is Ellipsis:
        return "pieces", (), inner[0]
    if origin is UnionType and inner[1] is type(None):
        return "named", (), inner[0]
    return _PLAIN.get(annotation), (), None
