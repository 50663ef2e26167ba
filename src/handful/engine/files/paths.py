"""Paths from SVG 1.1: its path data and its basic shapes, with their transforms."""

from __future__ import annotations

import io
import math
from typing import Any
from xml.etree.ElementTree import XML, Element, ParseError, TreeBuilder, XMLParser

import svgelements

from handful.engine.recipe import Problem, RecipeError

MOST_BYTES = 4 * 1024 * 1024
MOST_PATHS = 200
MOST_VERTICES = 2000
MOST_ELEMENTS, MOST_DEPTH = 5000, 100
MOST_DATA, MOST_STYLE = 256 * 1024, 64 * 1024
"""Signs of one path, and of all style."""

_NEAR = 1e-3
"""px; vertices nearer than this are one."""


def read_paths(text: str, name: str) -> list[dict[str, Any]]:
    """The paths in an SVG text, as a recipe writes them, each named after its id or `name`.

    Raises `RecipeError`, with line and column where the text is no XML.
    """
    if len(text) > MOST_BYTES:
        raise RecipeError([Problem("", f"It is larger than {MOST_BYTES // 1024 // 1024} MiB.")])
    if "<!ENTITY" in text:
        raise RecipeError([Problem("", "It declares entities, which are not read.")])
    try:
        _check(text)
        drawing = svgelements.SVG.parse(io.StringIO(text), reify=True)
        shapes = [part for part in drawing.elements() if isinstance(part, svgelements.Shape)]
        outlines = [
            (str(shape.id or name), svgelements.Path(part))
            for shape in shapes[: MOST_PATHS + 1]
            for part in svgelements.Path(shape).as_subpaths()
        ]
        paths = [_path(called, outline) for called, outline in outlines]
    except ParseError as error:
        line, column = error.position
        where = f"line {line}, column {column + 1}"
        raise RecipeError([Problem(where, "It is not XML that can be read.")]) from error
    except (ValueError, TypeError, IndexError, AttributeError, KeyError, ArithmeticError) as error:
        raise RecipeError([Problem("", "It holds path data that cannot be read.")]) from error
    except RecursionError as error:
        raise RecipeError([Problem("", "It is nested too deep.")]) from error
    paths = [path for path in paths if len(path["vertices"]) > 1]
    if not paths:
        raise RecipeError([Problem("", "There is no path in it.")])
    if len(paths) > MOST_PATHS or any(len(path["vertices"]) > MOST_VERTICES for path in paths):
        most = f"{MOST_PATHS} paths of {MOST_VERTICES} vertices"
        raise RecipeError([Problem("", f"It is too much: {most} can be read.")])
    return _with_own_names(paths)


def _check(text: str) -> None:
    """Count what is to be read before it is. Raises `RecipeError` for more than can be, and for entities."""
    root = XML(text, XMLParser(target=_Counting()))
    known = {part.get("id"): part for part in root.iter() if part.get("id")}
    counts: dict[int, int] = {}

    def shapes_in(part: Element, depth: int) -> int:
        """How many elements there are once all that is used stands where it is used."""
        if depth > MOST_DEPTH:
            raise RecipeError([Problem("", f"It is nested deeper than {MOST_DEPTH}.")])
        if id(part) not in counts:
            count = 1 + sum(shapes_in(inner, depth + 1) for inner in part)
            if part.tag.rsplit("}", 1)[-1] == "use":
                used = known.get((part.get(_LINK) or part.get("href") or "").lstrip("#"))
                count += 0 if used is None else shapes_in(used, depth + 1)
            counts[id(part)] = min(count, MOST_ELEMENTS + 1)
        return counts[id(part)]

    if shapes_in(root, 0) > MOST_ELEMENTS:
        raise RecipeError([Problem("", f"It is too much: {MOST_ELEMENTS} elements can be read.")])
    for part in root.iter():
        data = part.get("d") or part.get("points") or ""
        if len(data) > MOST_DATA or sum(map(data.count, "Aa")) > MOST_VERTICES:
            raise RecipeError(
                [Problem("", f"It is too much: a path of {MOST_VERTICES} vertices can be read.")]
            )
    if sum(len(part.text or "") for part in root.iter() if part.tag.endswith("style")) > MOST_STYLE:
        raise RecipeError(
            [Problem("", f"It is too much: {MOST_STYLE} signs of style can be read.")]
        )


class _Counting(TreeBuilder):
    """Ends where there are too many elements, before they are built."""

    def start(self, tag: str, attrs: dict[str, str]) -> Element:
        """Count an element."""
        self.count = getattr(self, "count", 0) + 1
        if self.count > MOST_ELEMENTS:
            raise RecipeError(
                [Problem("", f"It is too much: {MOST_ELEMENTS} elements can be read.")]
            )
        return super().start(tag, attrs)


_LINK = "{http://www.w3.org/1999/xlink}href"


def _path(name: str, outline: Any) -> dict[str, Any]:
    outline.approximate_arcs_with_cubics()
    vertices: list[dict[str, list[float]]] = []
    closed = False
    for segment in outline:
        if isinstance(segment, svgelements.Move):
            vertices.append({"at": _place(segment.end)})
            continue
        if isinstance(segment, svgelements.Close):
            closed = True
            continue
        leaving, arriving = _controls(segment)
        start, end = segment.start, segment.end
        if leaving is not None and arriving is not None:
            vertices[-1]["leaving"] = _place(leaving - start)
        vertices.append({"at": _place(end)})
        if leaving is not None and arriving is not None:
            vertices[-1]["arriving"] = _place(arriving - end)
    if closed and len(vertices) > 2 and _is_near(vertices[0]["at"], vertices[-1]["at"]):
        last = vertices.pop()
        if "arriving" in last:
            vertices[0]["arriving"] = last["arriving"]
    return {"name": name[:70], "closed": closed, "vertices": vertices}


def _controls(segment: Any) -> tuple[Any, Any]:
    """The two handles of a segment as a cubic, or none where it is straight."""
    if isinstance(segment, svgelements.CubicBezier):
        return segment.control1, segment.control2
    if isinstance(segment, svgelements.QuadraticBezier):
        start, middle, end = segment.start, segment.control, segment.end
        return start + (middle - start) * (2 / 3), end + (middle - end) * (2 / 3)
    return None, None


def _place(point: Any) -> list[float]:
    x, y = float(point.x), float(point.y)
    if not (math.isfinite(x) and math.isfinite(y)):
        raise ValueError("a place that is no number")
    return [round(x, 4), round(y, 4)]


def _is_near(first: list[float], second: list[float]) -> bool:
    return math.dist(first, second) < _NEAR


def _with_own_names(paths: list[dict[str, Any]]) -> list[dict[str, Any]]:
    taken: set[str] = set()
    for path in paths:
        name, number = path["name"], 2
        while path["name"] in taken:
            path["name"] = f"{name} {number}"
            number += 1
        taken.add(path["name"])
    return paths
