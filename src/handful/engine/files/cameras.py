"""Solved cameras as CSV: a line for each frame, under the names of its columns. RFC 4180."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any, NamedTuple

import numpy as np

from handful.engine.files.rows import as_csv, is_number, no_number, rows_of
from handful.engine.named import Camera
from handful.engine.recipe import Problem, RecipeError

MOST_LINES = 2000


class _Column(NamedTuple):
    """What a column tells: a setting of a camera, or that the other way round."""

    tells: str
    sign: float = 1.0


_COLUMNS = {
    "x": _Column("aside"),
    "y": _Column("down"),
    "up": _Column("down", -1),
    "z": _Column("forward"),
    "back": _Column("forward", -1),
    "pan": _Column("pan"),
    "tilt": _Column("tilt"),
    "roll": _Column("roll"),
    "lens": _Column("lens"),
}
_WRITTEN = ("x", "y", "z", "pan", "tilt", "roll", "lens")
_TURNING = ("pan", "tilt", "roll")
_ONLY_OF_CAMERAS = _COLUMNS.keys() - {"x", "y"}


def tells_a_camera(text: str) -> bool:
    """Whether the first line of a text names columns that only a camera has."""
    first = text.partition("\n")[0].lower().split(",")
    return bool(_ONLY_OF_CAMERAS.intersection(cell.strip() for cell in first))


def read_camera(text: str, name: str) -> dict[str, Any]:
    """The camera in a CSV text, as a recipe writes it: keyed at each frame that a line is about. Raises `RecipeError`
    with a problem for each line that cannot be used.

    The first line names the columns: `frame`, and any of `x`, `y` (down) or `up`, `z` (forward) or `back`, in units of the
    way, `pan`, `tilt` and `roll` in degrees, to the right, up and clockwise, and `lens`, the focal length in px. An empty
    cell is a gap.
    """
    rows = rows_of(text)
    _, heads = next(rows, (1, []))
    names = [head.lower() for head in heads]
    problems = _wrong_with(names)
    if problems:
        raise RecipeError(problems)
    keys: dict[str, list[tuple[float, float]]] = {}
    taken: set[float] = set()
    for line, cells in rows:
        if len(cells) != len(names):
            problems.append(
                Problem(f"line {line}", f"It has {len(cells)} columns, not {len(names)}.")
            )
            continue
        wrong = [i for i, cell in enumerate(cells) if cell and not _is_finite(cell)]
        problems += [no_number(cells[i], names[i], line, i) for i in wrong]
        told = {} if wrong else {n: float(c) for n, c in zip(names, cells, strict=True) if c}
        if "frame" not in told:
            problems += [] if wrong else [Problem(f"line {line}", "It says no frame.")]
            continue
        frame = told.pop("frame")
        if frame in taken:
            problems.append(Problem(f"line {line}", f"Frame {frame:g} stands there twice."))
        taken.add(frame)
        for column, value in told.items():
            tells, sign = _COLUMNS[column]
            keys.setdefault(tells, []).append((frame, sign * value))
    if len(taken) > MOST_LINES:
        problems.append(Problem("", f"It has {len(taken)} frames, and {MOST_LINES} can be read."))
    if not problems and not keys:
        problems.append(Problem("", "There is no line with a frame and a number in it."))
    if problems:
        raise RecipeError(problems[:100])
    return {"name": name} | {tells: _as_written(tells, told) for tells, told in keys.items()}


def camera_text(frames: Iterable[tuple[float, Camera]]) -> str:
    """A camera as it is on some frames, as CSV."""
    rows = (
        (frame, *(getattr(camera, _COLUMNS[column].tells) for column in _WRITTEN))
        for frame, camera in frames
    )
    return as_csv(("frame", *_WRITTEN), rows)


def _wrong_with(names: list[str]) -> list[Problem]:
    """What is wrong with the names of columns."""
    known = ", ".join(["frame", *_COLUMNS])
    problems = [
        Problem(
            f"line 1, column {i + 1}", f"{name[:40]!r} is no column of a camera; those are {known}."
        )
        for i, name in enumerate(names)
        if name != "frame" and name not in _COLUMNS
    ]
    if "frame" not in names:
        problems.append(
            Problem("line 1", f"No column is called frame; those of a camera are {known}.")
        )
    told = [_COLUMNS[name].tells if name in _COLUMNS else name for name in names]
    for i, tells in enumerate(told):
        if tells in told[:i]:
            says = f"{names[i]} says what {names[told.index(tells)]} says already."
            problems.append(Problem(f"line 1, column {i + 1}", says))
    return problems


def _is_finite(cell: str) -> bool:
    return is_number(cell) and math.isfinite(float(cell))


def _as_written(tells: str, told: list[tuple[float, float]]) -> Any:
    """A value that stands still, or its keys; what turns goes the shorter way from each to the next."""
    frames, values = (np.array(each) for each in zip(*sorted(told), strict=True))
    if tells in _TURNING:
        values = np.unwrap(values, period=360)
    values = values.round(6) + 0.0
    if (values == values[0]).all():
        return float(values[0])
    # What stays as it was before and will be after needs no key.
    same = values[1:] == values[:-1]
    kept = np.concatenate([[True], ~(same[:-1] & same[1:]), [True]])
    keys = [
        {"frame": frame, "value": value, "ease": "linear"}
        for frame, value in zip(frames[kept].tolist(), values[kept].tolist(), strict=True)
    ]
    return {"moves": "keys", "keys": keys}
