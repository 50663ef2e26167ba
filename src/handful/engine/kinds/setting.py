"""One value of a source or a step, declared once."""

from __future__ import annotations

import dataclasses
from typing import Any, Literal, get_args, get_origin

from handful.engine.colour.transfer import Colour
from handful.engine.values import MOVES, Point

SettingType = Literal["number", "whole", "switch", "point", "colour", "choice"]


@dataclasses.dataclass(frozen=True)
class Setting:
    """What is known of a setting. `usual` is the range a slider offers within `least` to `most`."""

    name: str
    type: SettingType
    default: Any
    help: str
    unit: str = ""
    least: float | None = None
    most: float | None = None
    usual: tuple[float, float] | None = None
    choices: tuple[str, ...] = ()

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
) -> Any:
    """Declare a setting as the default of a class attribute; its type is the annotation's.

    `default` is written as a recipe would write it: a hex colour, a pair for a point, or an
    object with `moves`.
    """
    told = {"help": help, "unit": unit, "least": least, "most": most, "usual": usual}
    return dataclasses.field(metadata={"default": default, "told": told})


def read_setting(name: str, annotation: Any, metadata: Any) -> Setting:
    """A setting from its annotation and what `setting` was told. Raises `TypeError` if it is wrong."""
    choices = get_args(annotation) if get_origin(annotation) is Literal else ()
    types: dict[Any, SettingType] = {
        float: "number",
        int: "whole",
        bool: "switch",
        Point: "point",
        Colour: "colour",
    }
    kind: SettingType | None = "choice" if choices else types.get(annotation)
    if kind is None:
        raise TypeError(f"setting {name}: no setting type for {annotation!r}")
    told = metadata["told"]
    if kind in ("number", "whole") and (told["least"] is None or told["most"] is None):
        raise TypeError(f"setting {name}: a number needs least and most")
    return Setting(name=name, type=kind, default=metadata["default"], choices=choices, **told)
