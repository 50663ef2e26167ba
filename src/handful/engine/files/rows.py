"""The rows of CSV texts (RFC 4180) in which each line is about a frame."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator

from handful.engine.recipe import Problem, RecipeError

MOST_BYTES = 16 * 1024 * 1024


def rows_of(text: str) -> Iterator[tuple[int, list[str]]]:
    """The number and the cells of each line that is not empty. Raises `RecipeError` with the line that is none."""
    if len(text) > MOST_BYTES:
        raise RecipeError([Problem("", f"It is larger than {MOST_BYTES // 1024 // 1024} MiB.")])
    reader = csv.reader(io.StringIO(text))
    try:
        for line, row in enumerate(reader, 1):
            cells = [cell.strip() for cell in row]
            if any(cells):
                yield line, cells
    except csv.Error as error:
        says = f"It cannot be read as CSV: {error}."
        raise RecipeError([Problem(f"line {reader.line_num}", says)]) from error


def is_number(cell: str) -> bool:
    """Whether a cell holds a number."""
    try:
        float(cell)
    except ValueError:
        return False
    return True


def no_number(cell: str, column: str, line: int, place: int) -> Problem:
    """What is wrong with a cell that holds none: its line, its column from 0, and what stands there."""
    return Problem(f"line {line}, column {place + 1}", f"{cell[:40]!r} is no {column}.")


def as_csv(columns: Iterable[str], rows: Iterable[Iterable[float]]) -> str:
    """Numbers as CSV, under the names of their columns."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(columns)
    writer.writerows([f"{value:.10g}" for value in row] for row in rows)
    return text.getvalue()
