"""Formulas: what they give, beside Python's own arithmetic, and what cannot be written in them."""

import math
from itertools import pairwise
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as some

from handful.engine import RecipeError
from handful.engine.values.arithmetic import FUNCTIONS, FormulaError, read_formula, work_out
from tests.engine.recipes import bolt_layer, small
from tests.engine.test_values import at

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


class InRecipes(TestCase):
    def test_names(self) -> None:
        """Time, frame, rate, life and the value underneath, which may itself move."""

        def formula(text: str, value: object = 10) -> dict[str, object]:
            return {"moves": "formula", "value": value, "formula": text}

        self.assertEqual(at(formula("t + f + fps"), 1026), 1 + 1026 + 25)
        self.assertEqual(at(formula("value * life"), life=0.5), 5)
        rate = {"moves": "rate", "start": 2, "per_second": 3}
        self.assertEqual(at(formula("2 * value", rate), 1026), 10)
        self.assertEqual(at(formula("1 / (t - 1)"), 1026), 10, "without a number the value holds")

    def test_problem_with_path_and_column(self) -> None:
        """In a recipe the error has its path and its column."""
        width = {"moves": "formula", "value": 2, "formula": "value * sine(t)"}
        with self.assertRaises(RecipeError) as caught:
            small(bolt_layer(width=width))
        [problem] = caught.exception.problems
        self.assertEqual(problem.path, "layers[0].source.width.formula")
        self.assertIn("column 9", problem.says)
