"""Tracks as CSV: frame, x, y and, where there is one, confidence. RFC 4180."""

from __future__ import annotations

from pydantic import ValidationError

from handful.engine.files.rows import as_csv, is_number, no_number, rows_of
from handful.engine.recipe import Problem, RecipeError
from handful.engine.values import Mark, Track

_COLUMNS = ("frame", "x", "y", "confidence")


def read_track(text: str, name: str) -> Track:
    """The track in a CSV text. Raises `RecipeError` with a problem for each line that is none.

    The first line may name the columns. A line whose x or y is empty is a gap.
    """
    marks: list[Mark] = []
    problems: list[Problem] = []
    for line, cells in rows_of(text):
        if line == 1 and [cell.lower() for cell in cells[:3]] == list(_COLUMNS[:3]):
            continue
        if len(cells) not in (3, 4):
            problems.append(Problem(f"line {line}", f"It has {len(cells)} columns, not 3 or 4."))
        elif cells[1] and cells[2]:
            try:
                marks.append(Mark(*(float(cell) for cell in cells if cell)))
            except ValueError:
                place = next(i for i, cell in enumerate(cells) if not is_number(cell))
                problems.append(no_number(cells[place], _COLUMNS[place], line, place))
    if not problems and not marks:
        problems.append(Problem("", "There is no line with a frame, x and y in it."))
    if problems:
        raise RecipeError(problems[:100])
    try:
        return Track.model_validate({"name": name, "marks": marks})
    except ValidationError as error:
        raise RecipeError(
            [Problem("", f"{detail['msg']}.") for detail in error.errors(include_url=False)]
        ) from error


def track_text(track: Track) -> str:
    """A track as CSV, with the confidence where it is not 1 throughout."""
    count = 3 if all(mark.confidence == 1 for mark in track.marks) else 4
    return as_csv(_COLUMNS[:count], (mark[:count] for mark in track.marks))
