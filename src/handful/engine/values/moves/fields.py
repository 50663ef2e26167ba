"""What the fields of a way of moving are, for whoever shows and edits them."""

from __future__ import annotations

from typing import Any, Literal, NamedTuple, get_args, get_origin

import annotated_types
from pydantic.fields import FieldInfo

from handful.engine.values.moves.move import D, ForSort, Move, Reference, S, T, V, W

FieldType = Literal[
    "still", "change", "under", "share", "text", "number", "whole", "choice", "setting", "name", "keys"
]  # fmt: skip
"""What stands in a field: a value of the setting's sort, a change of one, one that may itself move, a
share, a formula; a plain number or a choice; another setting; what is named; or keys."""

_SLOTS: dict[Any, FieldType] = {V: "still", D: "change", W: "under", S: "share", T: "text"}
_PLAIN: dict[Any, FieldType] = {float: "number", int: "whole", Reference: "setting"}


class MoveField(NamedTuple):
    """One field: what it is called, what stands in it and within which bounds, what it is where a
    recipe leaves it out (`absent`), and with what it `begins`: `now`, `none`, or a plain value."""

    name: str
    label: str
    type: FieldType
    unit: str
    least: float | None
    most: float | None
    choices: dict[str, str]
    names: list[str]
    absent: Any
    begins: Any


def fields_of(move: type[Move]) -> list[MoveField]:
    """The fields of a way of moving that are to be edited: those with a title, in their order."""
    return [
        _field(name, field)
        for name, field in move.__pydantic_fields__.items()
        if field.title is not None
    ]


def _field(name: str, field: FieldInfo) -> MoveField:
    told: Any = field.json_schema_extra or {}
    sort, choices = _type_of(field.annotation)
    words = told.get("words", {})
    absent = None if field.is_required() else field.default
    begins = told.get("begins")
    if begins is None and field.is_required():
        begins = "none" if sort == "change" else "now"
    return MoveField(
        name, field.title or "", sort, told.get("unit", ""), *_bounds(field),
        {choice: words.get(choice, choice) for choice in choices},
        told.get("names", []), absent, begins,
    )  # fmt: skip


def _type_of(annotation: Any) -> tuple[FieldType, tuple[str, ...]]:
    parts = [part for part in get_args(annotation) if part is not type(None)]
    if get_origin(annotation) is Literal:
        return "choice", get_args(annotation)
    if get_origin(annotation) is list and issubclass(parts[0], ForSort):
        return "keys", ()
    bare = parts[0] if parts else annotation
    return _SLOTS.get(bare) or _PLAIN.get(bare) or "name", ()


def _bounds(field: FieldInfo) -> tuple[float | None, float | None]:
    least = most = None
    for bound in field.metadata:
        if isinstance(bound, annotated_types.Ge):
            least = bound.ge
        elif isinstance(bound, annotated_types.Le):
            most = bound.le
    return least, most  # type: ignore[return-value]
