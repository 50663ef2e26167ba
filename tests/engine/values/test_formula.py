"""Formulas: what they give, beside Python's own arithmetic, and what cannot be written in them."""

import math
from itertools import pairwise
from unittest import TestCase

from hypothesis import assume, given, settings
from hypothesis import strategies as some

from handful.engine import RecipeError
from handful.engine.values.arithmetic import FUNCTIONS, FormulaError, read_formula, work_out
from tests.engine.recipes import bolt_layer, small
from tests.engine.values.test_values import at

NAMES = frozenset({"t", "value"})


def _worked(text: str, t: float = 2.0, value: float = 10.0) -> float:
    return work_out(read_formula(text, NAMES), {"t": t, "value": value})


class Arithmetic(TestCase):
    def test_precedence(self) -> None:
        """Plain mathematical notation: powers first and from the right, then products, then sums."""
        for text, wanted in (
            ("1 + 2 * 3", 7), ("(1 + 2) * 3", 9), ("2 ^ 3 ^ 2", 512), ("-2 ^ 2", -4),
            ("2 ^ -1", 0.5), ("7 - 3 - 2", 2), ("8 / 4 / 2", 1), ("2 * -3", -6), ("--3", 3),
            (".5 + 1.5e1", 15.5), ("2*pi", 2 * math.pi), ("value / t", 5),
        ):  # fmt: skip
            self.assertAlmostEqual(_worked(text), wanted, msg=text)

    def test_functions(self) -> None:
        """Closed forms of every function."""
        for text, wanted in (
            ("sin(pi/6)", 0.5), ("cos(0)", 1), ("tan(pi/4)", 1), ("sqrt(9)", 3), ("exp(0)", 1),
            ("log(exp(2))", 2), ("abs(-3)", 3), ("sign(-3)", -1), ("floor(-1.5)", -2),
            ("ceil(1.2)", 2), ("round(2.5)", 3), ("mod(-1, 3)", 2), ("min(3, 1, 2)", 1),
            ("max(3, 1, 2)", 3), ("clamp(7, 0, 5)", 5), ("mix(2, 4, .25)", 2.5),
            ("step(1, .9)", 0), ("step(1, 1)", 1), ("smoothstep(0, 2, 1)", 0.5),
        ):  # fmt: skip
            self.assertAlmostEqual(_worked(text), wanted, msg=text)

    @settings(max_examples=200, deadline=None)
    @given(some.floats(-50, 50), some.floats(-50, 50))
    def test_as_python(self, t: float, value: float) -> None:
        """The same operations in Python's own notation."""
        got = _worked("3*t - value/7 + t*(value - 2)^2", t, value)
        self.assertAlmostEqual(got, 3 * t - value / 7 + t * (value - 2) ** 2)

    def test_noise_and_random(self) -> None:
        """Repeatable, within their bounds, and noise is smooth where random is not."""
        randoms = [_worked("random(t)", t / 3) for t in range(300)]
        noises = [_worked("noise(t)", t / 20) for t in range(300)]
        self.assertEqual(randoms, [_worked("random(t)", t / 3) for t in range(300)])
        self.assertEqual(len(set(randoms)), 100)
        self.assertTrue(all(0 <= number < 1 for number in randoms))
        self.assertTrue(all(-1 <= number <= 1 for number in noises))
        self.assertLess(max(abs(a - b) for a, b in pairwise(noises)), 0.2)
        self.assertNotEqual(_worked("noise(t, 1)"), _worked("noise(t, 2)"))

    def test_no_number(self) -> None:
        """Dividing by nothing, roots of less than nothing and growth give not-a-number, not an error."""
        for text in ("1/0", "sqrt(-1)", "log(0)", "exp(1e6)", "9^9^9^9", "1e308*10", "mod(1, 0)"):
            self.assertTrue(math.isnan(_worked(text)), text)


class Errors(TestCase):
    def test_columns(self) -> None:
        """Each error says where it is, counted from 1, and what is wrong."""
        for text, column, says in (
            ("1 + ", 5, "missing at the end"), ("2 * (3", 7, r"'\)' is missing"),
            ("1 2", 3, "'2' is not expected"), ("t + speed", 5, "no 'speed'; there are t, value"),
            ("sin()", 5, "not expected"), ("clamp(1, 2)", 1, "clamp takes 3 values, not 2"),
            ("sin 3", 5, r"'\(' is missing"), ("3 $ 4", 3, r"'\$' is not expected"),
            ("", 1, "missing"), ("min(1,)", 7, "not expected"), ("sin(1, 2)", 1, "takes 1 values"),
        ):  # fmt: skip
            with self.assertRaisesRegex(FormulaError, says, msg=text) as caught:
                read_formula(text, NAMES)
            self.assertEqual(caught.exception.column, column, text)

    def test_nothing_but_arithmetic(self) -> None:
        """No attribute, index, string, assignment or comparison can be written."""
        for text in ("t.real", "t[0]", "'a'", "t = 1", "__import__(1)", "t < 1", "lambda", "a:=1"):
            with self.assertRaises(FormulaError, msg=text):
                read_formula(text, NAMES)

    def test_bounds(self) -> None:
        """Long and deep formulas are refused, and the deepest that is read works."""
        for text in ("1+" * 300 + "1", "(" * 60 + "1" + ")" * 60, "-" * 60 + "1", "2^" * 60 + "1"):
            with self.assertRaises(FormulaError):
                read_formula(text, NAMES)
        self.assertEqual(_worked("(" * 30 + "1" + ")" * 30), 1)

    @settings(max_examples=400, deadline=None)
    @given(some.text("0123456789.+-*/^(), tvpi" + "".join(FUNCTIONS), max_size=40))
    def test_no_other_error_escapes(self, text: str) -> None:
        """Whatever is typed, it is read or it is a formula error; and it gives a float."""
        try:
            self.assertIsInstance(_worked(text), float)
        except FormulaError as error:
            self.assertGreaterEqual(error.column, 1)


_PARTS = some.recursive(
    some.one_of(
        some.floats(-50, 50).map(lambda number: f"({number:.6f})"), some.sampled_from(["t", "value", "pi"])
    ),
    lambda inner: some.one_of(
        some.tuples(inner, some.sampled_from("+-*/^"), inner).map(lambda p: f"({p[0]} {p[1]} {p[2]})"),
        some.tuples(some.sampled_from(["-", "+", "sin", "abs", "floor", "min", "max", "exp", "sqrt", "log"]), inner).map(
            lambda p: f"({p[0]}({p[1]}))"
        ),
        some.tuples(some.sampled_from(["min", "max", "mod"]), inner, inner).map(lambda p: f"{p[0]}({p[1]}, {p[2]})"),
    ),
    max_leaves=12,
)  # fmt: skip

_PYTHON = {
    "sin": math.sin, "abs": abs, "floor": math.floor, "exp": math.exp, "sqrt": math.sqrt, "log": math.log,
    "min": lambda *values: min(values), "max": lambda *values: max(values), "pi": math.pi,
    "mod": lambda a, b: a - b * math.floor(a / b), "pow": math.pow,
}  # fmt: skip


class AgainstPython(TestCase):
    @given(_PARTS, some.floats(-9, 9), some.floats(-9, 9))
    @settings(max_examples=400, deadline=None)
    def test_same_numbers(self, text: str, t: float, value: float) -> None:
        """Python's own arithmetic on the same expression, with its power written as one."""
        assume(len(text) <= 400)
        term = read_formula(text, NAMES)
        try:
            wanted = float(eval(_as_python(text), {"__builtins__": {}}, _PYTHON | {"t": t, "value": value}))  # fmt: skip
        except (ArithmeticError, ValueError):
            wanted = math.nan
        got = work_out(term, {"t": t, "value": value})
        if not math.isfinite(wanted):
            self.assertTrue(math.isnan(got), text)
        else:
            self.assertAlmostEqual(got, wanted, delta=1e-9 * max(1, abs(wanted)))

    @given(
        some.sampled_from(sorted(FUNCTIONS)),
        some.lists(some.floats(allow_nan=False), min_size=4, max_size=4),
    )
    @settings(max_examples=400, deadline=None)
    def test_nothing_that_is_read_raises(self, name: str, numbers: list[float]) -> None:
        """Every function at every count of values that it takes, with the largest numbers there are."""
        known = FUNCTIONS[name]
        for count in range(known.least, (known.most or 4) + 1):
            names = [f"a{i}" for i in range(count)]
            term = read_formula(f"{name}({', '.join(names)})", frozenset(names))
            self.assertIsInstance(work_out(term, dict(zip(names, numbers, strict=False))), float)

    def test_one_value(self) -> None:
        """The least and the greatest of one value is that value."""
        self.assertEqual(
            (_worked("min(t)", 3.0), _worked("max(t)", 3.0), _worked("+t", 3.0)), (3, 3, 3)
        )


def _as_python(text: str) -> str:
    """The same with `a ^ b` as Python's function; every operation stands in brackets of its own."""
    while "^" in text:
        at = text.index("^")
        left, right = _bracket(text, at, -1), _bracket(text, at, 1)
        inside = f"pow({text[left + 1 : at]}, {text[at + 1 : right]})"
        text = text[:left] + inside + text[right + 1 :]
    return text


def _bracket(text: str, at: int, way: int) -> int:
    """The bracket around a place, in one direction."""
    opens, closes = ("(", ")") if way > 0 else (")", "(")
    depth = 0
    while True:
        at += way
        depth += (text[at] == opens) - (text[at] == closes)
        if depth < 0:
            return at


class InRecipes(TestCase):
    def test_names(self) -> None:
        """Time, frame, rate, life and the value underneath, which may itself move."""

        def formula(text: str, value: object = 10) -> dict[str, object]:
            return {"moves": "formula", "value": value, "formula": text}

        self.assertEqual(at(formula("t + f + fps"), 1026), 1 + 1026 + 25)
        self.assertEqual(at(formula("still * life"), life=0.5), 5)
        rate = {"moves": "rate", "start": 2, "per_second": 3}
        self.assertEqual(at(formula("2 * still", rate), 1026), 10)
        self.assertEqual(at(formula("1 / (t - 1)"), 1026), 10, "without a number the value holds")

    def test_problem_with_path_and_column(self) -> None:
        """In a recipe the error has its path and its column."""
        width = {"moves": "formula", "value": 2, "formula": "still * sine(t)"}
        with self.assertRaises(RecipeError) as caught:
            small(bolt_layer(width=width))
        [problem] = caught.exception.problems
        self.assertEqual(problem.path, "layers[0].source.width.formula")
        self.assertIn("column 9", problem.says)
