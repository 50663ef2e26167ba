"""Reading a recipe, or saying all that is wrong with it."""

from __future__ import annotations

import difflib
import json
import re
from collections import Counter
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from handful.engine.kinds import limits, sources, steps
from handful.engine.named import NAMED
from handful.engine.recipe.document import Recipe
from handful.engine.recipe.made import Made
from handful.engine.recipe.problems import NoRecipe, Problem, RecipeError
from handful.engine.recipe.references import reference_problems
from handful.engine.recipe.upgrading import VERSION, upgraded

MOST_BYTES = 4 * 1024 * 1024
MOST_DEPTH = 32
MOST_ELEMENTS_DEEP = 3
MOST_PROBLEMS = 100


def load_recipe(path: Path) -> Recipe:
    """The recipe in a file. Raises `RecipeError` for anything that keeps it from being one."""
    try:
        with path.open("rb") as file:
            text = file.read(MOST_BYTES + 1)
    except OSError as error:
        raise RecipeError([Problem("", f"{path} cannot be read: {error.strerror}.")]) from error
    return read_recipe(text)


def read_recipe(written: bytes | str | dict[str, Any]) -> Recipe:
    """The recipe in JSON text or in plain data. Raises `RecipeError` with every problem found."""
    data = _parsed(written) if isinstance(written, (bytes, str)) else written
    if not isinstance(data, dict):
        raise NoRecipe([Problem("", "A recipe is a JSON object with version, name and layers.")])
    if _holds_nul(data):
        raise NoRecipe([Problem("", "It holds the character NUL, which no text may hold.")])
    if not _shallow(data, MOST_DEPTH):
        raise NoRecipe([Problem("", f"It is nested more than {MOST_DEPTH} deep.")])
    data = upgraded(data)
    if data.get("version") != VERSION:
        raise NoRecipe([Problem("version", f"It must be {VERSION}.")])
    try:
        recipe = Recipe.model_validate(data)
    except ValidationError as error:
        found = [_problem(detail, data) for detail in error.errors(include_url=False)]
        raise RecipeError(found[:MOST_PROBLEMS]) from error
    except RecursionError as error:
        raise NoRecipe([Problem("", f"It is nested more than {MOST_DEPTH} deep.")]) from error
    problems = list(_inconsistencies(recipe))
    if problems:
        raise RecipeError(problems[:MOST_PROBLEMS])
    return recipe


def _parsed(text: bytes | str) -> Any:
    if len(text) > MOST_BYTES:
        raise NoRecipe([Problem("", f"It is larger than {MOST_BYTES // 1024 // 1024} MiB.")])
    try:
        return json.loads(text, parse_constant=_refuse)
    except UnicodeDecodeError as error:
        raise NoRecipe([Problem("", "It is not text in UTF-8.")]) from error
    except json.JSONDecodeError as error:
        where = f"line {error.lineno}, column {error.colno}"
        raise NoRecipe([Problem("", f"It is not JSON: {error.msg} at {where}.")]) from error
    except RecursionError as error:
        raise NoRecipe([Problem("", f"It is nested more than {MOST_DEPTH} deep.")]) from error
    except ValueError as error:
        raise NoRecipe([Problem("", f"It is not JSON: {error}.")]) from error


def _refuse(constant: str) -> Any:
    raise ValueError(f"{constant} is no number that a recipe can hold")


def _shallow(data: Any, depth: int) -> bool:
    if not isinstance(data, (dict, list)):
        return True
    parts = data.values() if isinstance(data, dict) else data
    return depth > 0 and all(_shallow(part, depth - 1) for part in parts)


def _holds_nul(data: Any) -> bool:
    waiting = [data]
    while waiting:
        part = waiting.pop()
        if isinstance(part, str) and "\0" in part:
            return True
        if isinstance(part, dict):
            waiting.extend(part.keys())
            waiting.extend(part.values())
        elif isinstance(part, list):
            waiting.extend(part)
    return False


def _problem(detail: ErrorDetails, data: Any) -> Problem:
    path = _path(detail["loc"], data)
    context = detail.get("ctx", {})
    match detail["type"]:
        case "missing":
            return Problem(path, "This is missing.")
        case "extra_forbidden":
            return Problem(path, "There is no such setting here.")
        case "union_tag_invalid":
            return _unknown_kind(path, str(context["tag"]), str(context["discriminator"]))
        case "union_tag_not_found":
            return Problem(path, "It does not say its kind.")
        case "greater_than_equal":
            return Problem(path, f"{detail['input']} is less than {context['ge']}.", context["ge"])
        case "less_than_equal":
            return Problem(path, f"{detail['input']} is more than {context['le']}.", context["le"])
        case "finite_number":
            return Problem(path, "It is not a finite number.")
        case "literal_error":
            return Problem(path, f"It must be {context['expected']}.", _closest(detail))
        case "value_error":
            return Problem(path, _sentence(str(context["error"])))
    return Problem(path, _sentence(detail["msg"]))


def _unknown_kind(path: str, tag: str, discriminator: str) -> Problem:
    if "kind" not in discriminator:
        return Problem(path, f"There is no way of moving called {tag!r} here.")
    what, known = _known_kinds(path)
    close = difflib.get_close_matches(tag, known, 1)
    return Problem(
        f"{path}.kind", f"There is no {what} called {tag!r}.", close[0] if close else None
    )


def _known_kinds(path: str) -> tuple[str, Iterable[str]]:
    if path.endswith("source"):
        return "source", sources()
    return ("limit", limits()) if re.search(r"limits\[\d+\]$", path) else ("step", steps())


def _closest(detail: ErrorDetails) -> str | None:
    expected = detail["ctx"]["expected"].split("'")[1::2]
    close = difflib.get_close_matches(str(detail["input"]), expected, 1, cutoff=0.0)
    return close[0] if close else None


def _sentence(message: str) -> str:
    return message[:1].upper() + message[1:].rstrip(".") + "."


def _path(location: tuple[int | str, ...], data: Any) -> str:
    """The location as written in the document; the names of union members are left out."""
    path, here = "", data
    for i, part in enumerate(location):
        is_last = i == len(location) - 1
        if isinstance(part, int) and isinstance(here, list):
            path += f"[{part}]"
            here = here[part] if part < len(here) else None
        elif isinstance(here, dict) and (part in here or is_last):
            path += f".{part}" if path else str(part)
            here = here.get(part)
    return path


def _inconsistencies(recipe: Recipe) -> Iterator[Problem]:
    """What the document's form allows but its meaning does not."""
    yield from _doubled("points", "name", [point.name for point in recipe.points])
    for what in ("tracks", *NAMED, "elements"):
        yield from _doubled(what, "name", [each.name for each in getattr(recipe, what)])
    yield from _doubled("layers", "id", [layer.id for layer in recipe.layers])
    for i, layer in enumerate(recipe.layers):
        path = f"layers[{i}]"
        yield from _doubled(f"{path}.steps", "id", [step.id for step in layer.steps])
        much = sources()[layer.source.kind].too_much(layer.source)
        if much is not None:
            yield Problem(f"{path}.source.{much.setting}", much.says, much.nearest)
        if layer.first is not None and layer.last is not None and layer.last < layer.first:
            yield Problem(f"{path}.last", "The layer ends before it begins.", layer.first)
    yield from _doubled("finish", "id", [step.id for step in recipe.finish])
    names = list(reference_problems(recipe))
    yield from names
    if not names:
        yield from Made(recipe).problems()
    for i, element in enumerate(recipe.elements):
        path = f"elements[{i}].recipe"
        if _depth(element.recipe) >= MOST_ELEMENTS_DEEP:
            most = f"{MOST_ELEMENTS_DEEP} is the most"
            yield Problem(path, f"Elements lie within elements more than so deep: {most}.")
            continue
        for problem in _inconsistencies(element.recipe):
            yield problem._replace(path=f"{path}.{problem.path}")


def _depth(recipe: Recipe) -> int:
    return 1 + max((_depth(element.recipe) for element in recipe.elements), default=0)


def _doubled(path: str, field: str, names: list[str]) -> Iterator[Problem]:
    for name, times in Counter(names).items():
        if times > 1:
            last = len(names) - 1 - names[::-1].index(name)
            yield Problem(f"{path}[{last}].{field}", f"{name!r} stands here {times} times.")
