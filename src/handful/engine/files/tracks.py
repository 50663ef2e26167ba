"""Tracks as CSV: frame, x, y and, where there is one, confidence. RFC 4180."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator

from pydantic import ValidationError

from handful.engine.recipe import Problem, RecipeError
from handful.engine.values import Mark, Track

_COLUMNS = ("frame", "x", "y", "confidence")
MOST_BYTES = 16 * 1024 * 1024


def read_track(text: str, name: str) -> Track:
    """The track in a CSV text. Raises `RecipeError` with a problem for each line that is none.

    The first line may name the columns. A line whose x or y is empty is a gap.
    """
    if len(text) > MOST_BYTES:
        raise RecipeError([Problem("", f"It is larger than {MOST_BYTES // 1024 // 1024} MiB.")])
    marks: list[Mark] = []
    problems: list[Problem] = []
    for line, row in enumerate(_rows(text), 1):
        cells = [cell.strip() for cell in row]
        is_header = line == 1 and [cell.lower() for cell in cells[:3]] == list(_COLUMNS[:3])
        if is_header or not any(cells):
            continue
        if len(cells) not in (3, 4):
            problems.append(Problem(f"line {line}", f"It has {len(cells)} columns, not 3 or 4."))
        elif cells[1] and cells[2]:
            try:
                marks.append(Mark(*(float(cell) for cell in cells if cell)))
            except ValueError:
                column = next(i for i, cell in enumerate(cells) if not _is_number(cell))
                says = f"{cells[column][:40]!r} is no {_COLUMNS[column]}."
                problems.append(Problem(f"line {line}, column {column + 1}", says))
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


def _rows(text: str) -> Iterator[list[str]]:
    """The rows of a CSV text. Raises `RecipeError` with the line that is none."""
    reader = csv.reader(io.StringIO(text))
    while True:
        try:
            yield next(reader)
        except StopIteration:
            return
        except csv.Error as error:
            says = f"It cannot be read as CSV: {error}."
            raise RecipeError([Problem(f"line {reader.line_num}", says)]) from error


def track_text(track: Track) -> str:
    """A track as CSV, with the confidence where it is not 1 throughout."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    count = 3 if all(mark.confidence == 1 for mark in track.marks) else 4
    writer.writerow(_COLUMNS[:count])
    writer.writerows([f"{value:.10g}" for value in mark[:count]] for mark in track.marks)
    return text.getvalue()


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True
