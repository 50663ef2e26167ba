"""From a declared setting to the type that reads it in a document."""

from __future__ import annotations

import re
from functools import cache
from typing import Annotated, Any, Literal, NamedTuple, Union

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
from handful.engine.values import FARTHEST, MOVES, FormulaText

Coordinate = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST, allow_inf_nan=False)]
Place = tuple[Coordinate, Coordinate]
Change = Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]


def _check_name(text: str) -> str:
    if not text.strip():
        raise ValueError("a name needs more than spaces")
    return text


Identifier = Annotated[str, Field(min_length=1, max_length=80), AfterValidator(_check_name)]


def _check_hex(text: str) -> str:
    if not is_hex(text):
        raise ValueError("write a colour as #rrggbb")
    return text


Hex = Annotated[
    str,
    AfterValidator(_check_hex),
    WithJsonSchema({"type": "string", "pattern": "^#[0-9a-fA-F]{6}$"}),
]


_PLAIN_SIGNS = r"^[ -~]+$"


def _check_words(text: str) -> str:
    if not re.fullmatch(_PLAIN_SIGNS, text):
        raise ValueError("write at least one letter, digit or sign of plain ASCII, and no other")
    return text


WORDS = Annotated[
    str,
    Field(max_length=80),
    AfterValidator(_check_words),
    WithJsonSchema({"type": "string", "maxLength": 80, "pattern": _PLAIN_SIGNS}),
]


def _how_it_moves(written: Any) -> str:
    if isinstance(written, dict):
        return str(written.get("moves", ""))
    return str(getattr(written, "moves", "still"))


class Sort(NamedTuple):
    """What values of one sort are written as: still, a change, a share, and a formula."""

    still: Any
    change: Any
    share: Any = Change
    text: Any = FormulaText


NUMBER = Sort(Change, Change)
POINT = Sort(
    Place,
    tuple[Change, Change],
    Change | tuple[Change, Change],
    FormulaText | tuple[FormulaText, FormulaText],
)
COLOUR = Sort(
    Hex,
    tuple[Change, Change, Change],
    Change | tuple[Change, Change, Change],
    FormulaText | tuple[FormulaText, FormulaText, FormulaText],
)


def moving(sort: Sort, ways: tuple[str, ...], still: Any = None) -> Any:
    """The type of a value that is plain, or moves in one of `ways`.

    `still` is what a plain one is, if it is bounded; whether the values within a way of moving are
    in bounds is asked later. What some ways rest on may itself move, in those that rest on nothing.
    """
    still = sort.still if still is None else still
    if not ways:
        return still
    forms = [Annotated[still, Tag("still")]]
    forms += [Annotated[_move_type(sort, way, ways), Tag(way)] for way in ways]
    return Annotated[Union[tuple(forms)], Discriminator(_how_it_moves)]  # noqa: UP007


@cache
def _move_type(sort: Sort, way: str, ways: tuple[str, ...]) -> Any:
    resting = tuple(each for each in ways if "under" not in MOVES[each].parts)
    move: Any = MOVES[way]
    made = move[
        tuple(
            moving(sort, resting) if part == "under" else getattr(sort, part) for part in move.parts
        )
    ]
    # A class of its own is known by itself; one with arguments by all that is written in them, each time it is met.
    return create_model(
        made.__name__, __base__=made, __module__=made.__module__, __doc__=made.__doc__
    )


def bounded(least: float | None, most: float | None) -> Any:
    """A number within bounds."""
    return Annotated[float, Field(ge=least, le=most, allow_inf_nan=False, strict=True)]


def field_type(setting: Setting) -> Any:
    """The type that reads what a recipe writes for a setting."""
    match setting.type:
        case "number":
            return moving(NUMBER, setting.moves, bounded(setting.least, setting.most))
        case "whole":
            return Annotated[int, Field(ge=setting.least, le=setting.most, strict=True)]
        case "point":
            return moving(POINT, setting.moves)
        case "colour":
            return moving(COLOUR, setting.moves)
        case "choice":
            return Literal[setting.choices]
        case "switch":
            return bool
        case "pieces":
            assert setting.of is not None
            piece: Any = node_type(setting.of, PieceNode)
            least, most = int(setting.least or 0), int(setting.most or 0)
            return Annotated[list[piece], Field(min_length=least, max_length=most)]
        case "layer" | "named" | "element" | "text":
            return Annotated[str, Field(max_length=80)]
        case "words":
            return WORDS
        case "own":
            return Annotated[dict[str, Any], Field(max_length=40)]


class PieceNode(BaseModel):
    """One of several alike in a setting, as a recipe writes it."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class Node(BaseModel):
    """A source, a step or a limit as a recipe writes it: its kind, and its settings beside that."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    kind: str


def node_type(kind: type[Kind], base: type[BaseModel]) -> type[BaseModel]:
    """The document type of one kind: `base` with a field for every setting."""
    fields: dict[str, Any] = {}
    if issubclass(base, Node):
        fields["kind"] = (Literal[kind.name], ...)
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
