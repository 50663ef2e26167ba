"""Reading recipes, and every way in which one can be wrong."""

import json
import tempfile
from pathlib import Path
from typing import Any
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as some

from handful.engine import RecipeError, load_recipe, read_recipe
from handful.engine.recipe import Problem, recipe_schema
from tests.engine.recipes import DEMO, demo_data


def _problems(written: Any) -> list[Problem]:
    try:
        read_recipe(written)
    except RecipeError as error:
        return error.problems
    return []


def _changed(path: str, value: Any) -> dict[str, Any]:
    """The demo recipe with the value at a dotted path changed, or taken out if it is `...`."""
    data = demo_data()
    *way, last = [int(part) if part.isdigit() else part for part in path.split(".")]
    here: Any = data
    for part in way:
        here = here[part]
    if value is ...:
        del here[last]
    else:
        here[last] = value
    return data


class Told(TestCase):
    def test_with_what_would_do(self) -> None:
        """Where it is, what is wrong, and the nearest value that works where there is one."""
        told = Problem("layers[0].opacity", "101 is more than 100.", 100)
        self.assertEqual(
            str(told), "layers[0].opacity: 101 is more than 100. The nearest that works is 100."
        )
        self.assertEqual(str(Problem("", "There is nothing.")), "recipe: There is nothing.")


class Good(TestCase):
    def test_demo(self) -> None:
        """The demo recipe is read, and what it leaves out is filled in from the declarations."""
        recipe = load_recipe(DEMO)
        self.assertEqual(recipe.name, "Mast strike")
        bolt: Any = recipe.layers[1].source
        self.assertEqual(bolt.branch_angle, 32)

    def test_schema_is_of_this_version(self) -> None:
        """The schema names the version and every kind by its word."""
        schema = json.dumps(recipe_schema())
        for word in ('"const": 3', '"const": "bolt"', '"const": "glow"', '"per_second"'):
            self.assertIn(word, schema)


class Bad(TestCase):
    def test_names_of_eighty_letters(self) -> None:
        """A name in a setting may be so long and no longer."""
        for count, says in ((80, "No layer"), (81, "at most 80")):
            copy = {"kind": "copy", "of": "x" * count}
            layer = {"id": "copy", "name": "Copy", "source": copy}
            [problem] = _problems(demo_data() | {"layers": [layer]})
            self.assertEqual(problem.path, "layers[0].source.of")
            self.assertIn(says, problem.says)

    def test_problems_have_path_sentence_and_remedy(self) -> None:
        """Each mistake by itself: where it is, what is wrong, and the nearest value if there is one."""
        far = "layers.0.steps.0.lobes.1.radius"
        for path, value, where, says, nearest in (
            (far, 900, "layers[0].steps[0].lobes[1].radius", "900 is more than 500", 500),
            (far, -1, "layers[0].steps[0].lobes[1].radius", "-1 is less than 1", 1),
            (far, "wide", "layers[0].steps[0].lobes[1].radius", "valid number", None),
            (far, float("nan"), "layers[0].steps[0].lobes[1].radius", "finite", None),
            (far, {"moves": "wobble"}, "layers[0].steps[0].lobes[1].radius", "no way of moving", None),
            (far, {"moves": "rate", "start": 1}, f"{'layers[0].steps[0].lobes[1].radius'}.per_second", "missing", None),
            ("layers.0.source.kind", "blot", "layers[0].source.kind", "no source called 'blot'", "bolt"),
            ("layers.0.steps.0.kind", "glwo", "layers[0].steps[0].kind", "no step called", "glow"),
            ("layers.0.source.kind", ..., "layers[0].source", "kind", None),
            ("layers.0.steps.0.colour", 1, "layers[0].steps[0].colour", "no such setting", None),
            ("layers.0.source.core", "blue", "layers[0].source.core", "#rrggbb", None),
            ("layers.0.source.far_end", "free ", "layers[0].source.far_end", "must be", "free"),
            ("layers.0.source.branches", 2.5, "layers[0].source.branches", "integer", None),
            ("layers.0.source.start", [1, 2, 3], "layers[0].source.start", "at most 2", None),
            ("layers.0.source.start.point", "cluod", "layers[0].source.start.point", "No point", "cloud"),
            ("layers.1.id", "main", "layers[1].id", "2 times", None),
            ("layers.0.last", 900, "layers[0].last", "ends before it begins", 1006),
            ("layers.0.blend", "plus", "layers[0].blend", "must be", None),
            ("canvas.width", 10**9, "canvas.width", "more than 16384", 16384),
            ("canvas.last", 5, "canvas", "comes before the first", None),
            ("canvas.last", 5_000_000, "canvas", "at most 100000 frames", None),
            ("canvas", {"width": 8000, "height": 8000, "overscan": 500}, "canvas", "with its overscan", None),
            ("points.1.name", "cloud", "points[1].name", "2 times", None),
            ("version", 4, "version", "must be 3", None),
            ("name", ..., "name", "missing", None),
            ("name", "", "name", "at least 1", None),
        ):  # fmt: skip
            with self.subTest(path=path, value=value):
                problems = _problems(_changed(path, value))
                self.assertTrue(problems)
                self.assertEqual(problems[0].path, where)
                self.assertIn(says, problems[0].says)
                if nearest is not None:
                    self.assertEqual(problems[0].nearest, nearest)

    def test_signs_that_cannot_be_drawn(self) -> None:
        """A text holds what there are figures for, on one line, and some of it."""
        for figures, says in (
            ("", "at least one"),
            ("é", "plain ASCII"),
            ("ab\n", "plain ASCII"),
            ("a" * 81, "at most 80"),
        ):
            source = {"kind": "particles", "figures": figures}
            layer = {"id": "p", "name": "P", "source": source}
            [problem] = _problems({"version": 3, "name": "Figures", "layers": [layer]})
            self.assertEqual(problem.path, "layers[0].source.figures")
            self.assertIn(says, problem.says)

    def test_all_problems_at_once(self) -> None:
        """Two mistakes, two problems."""
        data = _changed("layers.0.steps.0.lobes.1.radius", 900)
        data["layers"][0]["source"]["wander"] = 400
        self.assertEqual(
            sorted(problem.path for problem in _problems(data)),
            ["layers[0].source.wander", "layers[0].steps[0].lobes[1].radius"],
        )

    def test_no_json(self) -> None:
        """Text that is no JSON says where; NaN is refused; the wrong shape is said."""
        self.assertIn("line 1, column 2", _problems("{name: 3}")[0].says)
        self.assertIn("NaN", _problems('{"seed": NaN}')[0].says)
        self.assertIn("JSON object", _problems("[1, 2]")[0].says)
        self.assertIn("UTF-8", _problems(b'{"name": "\x80"}')[0].says)

    def test_bounds(self) -> None:
        """Too deep and too large are refused before they cost anything."""
        self.assertIn("nested", _problems('{"a":' * 40 + "1" + "}" * 40)[0].says)
        self.assertIn("nested", _problems("[" * 100_000)[0].says)
        self.assertIn("MiB", _problems(" " * (5 * 1024 * 1024))[0].says)
        many = _changed("layers", demo_data()["layers"] * 40)
        self.assertIn("at most 100", _problems(many)[0].says)
        wide = _changed("canvas", {"width": 16000, "height": 16000})
        self.assertIn("px", _problems(wide)[0].says)

    def test_missing_file(self) -> None:
        """A file that is not there is a problem like any other."""
        with self.assertRaisesRegex(RecipeError, "No such file"):
            load_recipe(Path("nowhere.json"))
        with tempfile.TemporaryDirectory() as folder, self.assertRaises(RecipeError):
            load_recipe(Path(folder))


_json = some.recursive(
    some.none() | some.booleans() | some.integers() | some.floats() | some.text(max_size=8),
    lambda parts: some.lists(parts, max_size=4) | some.dictionaries(some.text(max_size=8), parts, max_size=4),
    max_leaves=12,
)  # fmt: skip
_places = some.sampled_from(
    ["version", "canvas", "canvas.rate", "seed", "cover", "points", "points.0", "points.0.at",
     "layers", "layers.0", "layers.0.source", "layers.0.source.boil", "layers.0.source.start",
     "layers.0.steps", "layers.0.steps.0", "layers.0.steps.0.lobes.0.tint", "layers.0.opacity", "finish"]
)  # fmt: skip


class Anything(TestCase):
    @settings(max_examples=300, deadline=None)
    @given(_places, _json)
    def test_no_other_error_escapes(self, path: str, value: Any) -> None:
        """Whatever stands at any place, the recipe is read or its problems are listed."""
        for problem in _problems(_changed(path, value)):
            self.assertTrue(problem.says)


class Edges(TestCase):
    """What is just allowed is read, and one more is not."""

    def _read(self, **more: Any) -> list[Problem]:
        return _problems({"version": 3, "name": "Edge", **more})

    def test_frames(self) -> None:
        self.assertEqual(self._read(canvas={"first": 0, "last": 99_999}), [])
        self.assertEqual(
            [p.path for p in self._read(canvas={"first": 0, "last": 100_000})], ["canvas"]
        )

    def test_pieces(self) -> None:
        """As many stops of a ramp as are declared at the least and at the most."""
        stop = {"level": 50, "colour": "#ffffff"}
        for count, allowed in ((0, False), (1, True), (24, True), (25, False)):
            ramp = {"kind": "ramp", "id": "ramp", "stops": [stop] * count}
            with self.subTest(count=count):
                self.assertEqual(self._read(finish=[ramp]) == [], allowed)
