"""From a declared setting to the type that reads it in a document."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Union

from pydantic import (
    AfterValidator,
    BaseModel,
    ConfigDict,
    Discriminator,
    Field,
    Tag,
    WithJsonSchema,
    create_model,
)

from handful.engine.colour.transfer import is_hex
from handful.engine.kinds import Kind, Setting
from handful.engine.values import MOVES

FARTHEST = 100_000.0
"""px; no point lies farther from the canvas corner."""

Coordinate = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST, allow_inf_nan=False)]
Place = tuple[Coordinate, Coordinate]
Change = Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]
Percent = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
Identifier = Annotated[str, Field(min_length=1, max_length=80)]


def _check_hex(text: str) -> str:
    if not is_hex(text):
        raise ValueError("write a colour as #rrggbb")
    return text


Hex = Annotated[
    str,
    AfterValidator(_check_hex),
    WithJsonSchema({"type": "string", "pattern": "^#[0-9a-fA-F]{6}$"}),
]


def _how_it_moves(written: Any) -> str:
    if isinstance(written, dict):
        return str(written.get("moves", ""))
    return str(getattr(written, "moves", "still"))


def moving(still: Any, change: Any, ways: tuple[str, ...]) -> Any:
    """The type of a value that is plain or moves in one of `ways`.

    What some ways rest on may itself move, in those ways that rest on nothing.
    """
    if not ways:
        return still
    resting = tuple(way for way in ways if not MOVES[way].rests_on)
    forms = [Annotated[still, Tag("still")]]
    for way in ways:
        move: Any = MOVES[way]
        parts = (
            (still, change, moving(still, change, resting)) if move.rests_on else (still, change)
        )
        forms.append(Annotated[move[parts], Tag(way)])
    return Annotated[Union[tuple(forms)], Discriminator(_how_it_moves)]  # noqa: UP007


def field_type(setting: Setting) -> Any:
    """The type that reads what a recipe writes for a setting."""
    match setting.type:
        case "number":
            still = Annotated[
                float, Field(ge=setting.least, le=setting.most, allow_inf_nan=False, strict=True)
            ]
            return moving(still, Change, setting.moves)
        case "whole":
            return Annotated[int, Field(ge=setting.least, le=setting.most, strict=True)]
        case "point":
            return moving(Place, tuple[Change, Change], setting.moves)
        case "colour":
            return moving(Hex, Change, setting.moves)
        case "choice":
            return Literal[setting.choices]
        case "switch":
            return bool


class Node(BaseModel):
    """A source or a step as a recipe writes it: its kind, and its settings beside that."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    kind: str


def node_type(kind: type[Kind], base: type[Node]) -> type[Node]:
    """The document type of one kind: `base` with a field for every setting."""
    fields: dict[str, Any] = {"kind": (Literal[kind.name], ...)}
    fields |= {
        setting.name: (
            field_type(setting),
            Field(
                default=setting.default,
                validate_default=True,
                description=f"{setting.help} ({setting.unit})" if setting.unit else setting.help,
            ),
        )
        for setting in kind.settings
    }
    return create_model(kind.__name__, __base__=base, __doc__=kind.__doc__, **fields)
