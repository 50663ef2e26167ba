"""Formulas in plain mathematical notation: read once, worked out at every moment.

Numbers, `+ - * / ^`, brackets, the names given to it, and the functions below: there is nothing
else that one could write, so a formula can do nothing but arithmetic. Its length and the number of
its parts are bounded, so it takes no more time than a few hundred such operations.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import NamedTuple

from handful.engine.kernels.chance.hash import key_for, uniform
from handful.engine.kernels.easing import smooth

MOST_CHARACTERS = 400
MOST_DEPTH = 40

Names = Mapping[str, float]
Term = Callable[[Names], float]


class FormulaError(ValueError):
    """What cannot be read in a formula, and at which column, counted from 1."""

    def __init__(self, column: int, says: str) -> None:
        super().__init__(f"at column {column}: {says}")
        self.column = column


class Function(NamedTuple):
    """A function, and how many values it takes; `most` is nothing where there is no end."""

    least: int
    most: int | None
    of: Callable[..., float]


def _clamp(value: float, low: float, high: float) -> float:
    return min(high, max(low, value))


def _smoothstep(low: float, high: float, value: float) -> float:
    part = _clamp((value - low) / (high - low), 0.0, 1.0)
    return float(smooth(part))


def _random(index: float, stream: float = 0.0) -> float:
    """From 0 to 1, another one for each whole number."""
    return float(uniform(*key_for("formula", math.floor(stream)), math.floor(index) % 2**63, 0))


def _noise(place: float, stream: float = 0.0) -> float:
    """From -1 to 1, smooth, about one change for each whole number."""
    whole = math.floor(place)
    first, second = _random(whole, stream), _random(whole + 1, stream)
    return 2 * (first + (second - first) * _smoothstep(0.0, 1.0, place - whole)) - 1


FUNCTIONS: dict[str, Function] = {
    "sin": Function(1, 1, math.sin),
    "cos": Function(1, 1, math.cos),
    "tan": Function(1, 1, math.tan),
    "sqrt": Function(1, 1, math.sqrt),
    "exp": Function(1, 1, math.exp),
    "log": Function(1, 1, math.log),
    "abs": Function(1, 1, abs),
    "sign": Function(1, 1, lambda x: float((x > 0) - (x < 0))),
    "floor": Function(1, 1, lambda x: float(math.floor(x))),
    "ceil": Function(1, 1, lambda x: float(math.ceil(x))),
    "round": Function(1, 1, lambda x: float(math.floor(x + 0.5))),
    "mod": Function(2, 2, lambda x, y: x - y * math.floor(x / y)),
    "min": Function(1, None, lambda *values: min(values)),
    "max": Function(1, None, lambda *values: max(values)),
    "clamp": Function(3, 3, _clamp),
    "mix": Function(3, 3, lambda a, b, part: a + (b - a) * part),
    "step": Function(2, 2, lambda edge, x: 0.0 if x < edge else 1.0),
    "smoothstep": Function(3, 3, _smoothstep),
    "noise": Function(1, 2, _noise),
    "random": Function(1, 2, _random),
}
"""Angles are in radians; `pi` is a name. `noise` and `random` take a second number for another stream."""

_TOKEN = re.compile(r"\s*(?:(\d+\.?\d*(?:e[-+]?\d+)?|\.\d+)|([a-z_][a-z0-9_]*)|(.))", re.IGNORECASE)


@lru_cache(maxsize=1024)
def read_formula(text: str, names: frozenset[str]) -> Term:
    """What works out a formula that may use these names. Raises `FormulaError`."""
    if len(text) > MOST_CHARACTERS:
        raise FormulaError(MOST_CHARACTERS, f"a formula has at most {MOST_CHARACTERS} characters")
    reader = _Reader(text, names)
    term = reader.sum(0)
    reader.end()
    return term


def work_out(term: Term, values: Names) -> float:
    """The number that a formula gives, or not-a-number where it has none, as for 1 / 0."""
    try:
        result = term(values)
    except (ArithmeticError, ValueError):
        return math.nan
    return result if isinstance(result, float) and math.isfinite(result) else math.nan


class _Reader:
    """Reads by the rules of precedence, one method for each level."""

    def __init__(self, text: str, names: frozenset[str]) -> None:
        self.names = names
        self.tokens: list[tuple[int, str, str]] = []
        for match in _TOKEN.finditer(text.rstrip()):
            kind = ("number", "name", "sign")[(match.lastindex or 1) - 1]
            self.tokens.append(
                (match.start(match.lastindex or 0) + 1, kind, match[match.lastindex or 0])
            )
        self.after = len(text) + 1
        self.at = 0

    def sum(self, depth: int) -> Term:
        if depth > MOST_DEPTH:
            raise FormulaError(self._column(), "it is nested too deep")
        left = self._product(depth)
        while sign := self._take("+", "-"):
            left = _both(sign, left, self._product(depth))
        return left

    def end(self) -> None:
        if self.at < len(self.tokens):
            column, _, found = self.tokens[self.at]
            raise FormulaError(column, f"{found!r} is not expected here")

    def _product(self, depth: int) -> Term:
        left = self._signed(depth)
        while sign := self._take("*", "/"):
            left = _both(sign, left, self._signed(depth))
        return left

    def _signed(self, depth: int) -> Term:
        if depth > MOST_DEPTH:
            raise FormulaError(self._column(), "it is nested too deep")
        if self._take("-"):
            inner = self._signed(depth + 1)
            return lambda values: -inner(values)
        if self._take("+"):
            return self._signed(depth + 1)
        base = self._atom(depth)
        return _both("^", base, self._signed(depth + 1)) if self._take("^") else base

    def _atom(self, depth: int) -> Term:
        if self.at >= len(self.tokens):
            raise FormulaError(self.after, "something is missing at the end")
        column, kind, found = self.tokens[self.at]
        self.at += 1
        if kind == "number":
            number = float(found)
            return lambda values: number
        if kind == "name":
            return self._named(column, found, depth)
        if found == "(":
            inner = self.sum(depth + 1)
            self._expect(")")
            return inner
        raise FormulaError(column, f"{found!r} is not expected here")

    def _named(self, column: int, name: str, depth: int) -> Term:
        if name in FUNCTIONS:
            return self._call(column, name, depth)
        if name == "pi":
            return lambda values: math.pi
        if name not in self.names:
            known = ", ".join(sorted(self.names))
            raise FormulaError(column, f"there is no {name!r}; there are {known}")
        return lambda values: values[name]

    def _call(self, column: int, name: str, depth: int) -> Term:
        least, most, function = FUNCTIONS[name]
        self._expect("(")
        terms = [self.sum(depth + 1)]
        while self._take(","):
            terms.append(self.sum(depth + 1))
        self._expect(")")
        if len(terms) < least or (most is not None and len(terms) > most):
            wanted = str(least) if most == least else f"{least} to {most or 'any number of'}"
            raise FormulaError(column, f"{name} takes {wanted} values, not {len(terms)}")
        return lambda values: function(*(term(values) for term in terms))

    def _take(self, *signs: str) -> str:
        if self.at < len(self.tokens) and self.tokens[self.at][2] in signs:
            self.at += 1
            return self.tokens[self.at - 1][2]
        return ""

    def _expect(self, sign: str) -> None:
        if not self._take(sign):
            raise FormulaError(self._column(), f"{sign!r} is missing")

    def _column(self) -> int:
        return self.tokens[self.at][0] if self.at < len(self.tokens) else self.after


def _both(sign: str, left: Term, right: Term) -> Term:
    match sign:
        case "+":
            return lambda values: left(values) + right(values)
        case "-":
            return lambda values: left(values) - right(values)
        case "*":
            return lambda values: left(values) * right(values)
        case "/":
            return lambda values: left(values) / right(values)
    return lambda values: math.pow(left(values), right(values))
