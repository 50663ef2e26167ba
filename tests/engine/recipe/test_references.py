"""What names what is not there, what leads back to itself, and what asks for too much."""

from typing import Any
from unittest import TestCase

from handful.engine import RecipeError, read_recipe
from handful.engine.recipe import Problem
from tests.engine.recipes import bolt_layer


def _problems(*layers: dict[str, Any], **more: Any) -> list[Problem]:
    written = {"version": 3, "name": "R", "layers": list(layers)} | more
    try:
        read_recipe(written)
    except RecipeError as error:
        return error.problems
    return []


def _made(name: str, kind: str, **settings: Any) -> dict[str, Any]:
    return {"id": name, "name": name, "source": {"kind": kind, **settings}}


def _follow(name: str) -> dict[str, Any]:
    return {"moves": "follow", "point": name}


def _like(layer: str, setting: str, of: str = "source") -> dict[str, Any]:
    return {"moves": "like", "setting": {"layer": layer, "of": of, "setting": setting}}


MATTE = {"kind": "matte", "layer": "matt"}
WARP = {"kind": "warp", "id": "w", "sway": "wnd"}
OUTLINE = {"kind": "outline", "path": "dor"}


class Missing(TestCase):
    def test_each_is_told_with_the_nearest(self) -> None:
        """The path, a sentence, and the name that was probably meant."""
        bolt = bolt_layer("matte")
        shared = {
            "sways": [{"name": "wind"}], "paths": [{"name": "door"}],
            "tracks": [{"name": "hand", "marks": [[1, 2, 3]]}], "points": [{"name": "mast", "at": [0, 0]}],
        }  # fmt: skip
        for layer, path, says, nearest in (
            (bolt_layer() | {"limits": [MATTE]}, "limits[0].layer", "No layer is called 'matt'", "matte"),
            (bolt_layer(steps=[WARP]), "steps[0].sway", "No sway is called 'wnd'", "wind"),
            (bolt_layer() | {"limits": [OUTLINE]}, "limits[0].path", "No path is called 'dor'", "door"),
            (bolt_layer(steps=[WARP | {"sway": "", "limits": [MATTE]}]), "steps[0].limits[0].layer", "No layer", "matte"),
            (_made("c", "copy", of="matt"), "source.of", "No layer", "matte"),
            (_made("c", "copy", of="matte", own={"widht": 3}), "source.own", "No setting is called 'widht'", "width"),
            (_made("c", "copy", of="matte", own={"width": 900}), "source.own.width", "less than or equal to 200", None),
            (_made("c", "repeat", of="matte", takes="ennd", spots=[{}]), "source.takes", "No point setting", "end"),
            (bolt_layer() | {"within": "matte"}, "within", "No group", None),
            (bolt_layer(width=_like("matt", "width")), "source.width.setting.layer", "No layer", "matte"),
            (bolt_layer(width=_like("matte", "widt")), "source.width.setting.setting", "No number setting", "width"),
            (bolt_layer(width=_like("matte", "core")), "source.width.setting.setting", "No number setting is called 'core'", None),
            (bolt_layer(width=_like("matte", "near", "glow")), "source.width.setting.of", "No step", None),
            (bolt_layer(start={"moves": "follow", "track": "hnd"}), "source.start.track", "No track", "hand"),
            (bolt_layer(start={"moves": "jitter", "value": _follow("mst"), "amount": [1, 1], "per_second": 3}), "source.start.value.point", "No point", "mast"),
            (bolt_layer(steps=[WARP | {"sway": "wind", "pins": [{"at": _follow("mst")}]}]), "steps[0].pins[0].at.point", "No point", "mast"),
            (bolt_layer(width={"moves": "rate", "start": 900, "per_second": 1}), "source.width.start", "900 is more than 200", 200),
        ):  # fmt: skip
            with self.subTest(path=path, says=says):
                problems = _problems(bolt, layer, **shared)
                self.assertEqual([f"layers[1].{path}"], [problem.path for problem in problems])
                self.assertIn(says, problems[0].says)
                self.assertEqual(problems[0].nearest, nearest)

    def test_in_points_sways_and_paths(self) -> None:
        """What the shared parts name is looked at as well."""
        points = [{"name": "a", "at": _follow("b")}]
        self.assertEqual(_problems(points=points)[0].path, "points[0].at.point")
        sways = [{"name": "wind", "pins": [{"at": _follow("b")}]}]
        self.assertEqual(_problems(sways=sways)[0].path, "sways[0].pins[0].at.point")
        paths = [{"name": "door", "vertices": [{"at": _follow("b")}, {}]}]
        self.assertEqual(_problems(paths=paths)[0].path, "paths[0].vertices[0].at.point")


class Loops(TestCase):
    def test_layers(self) -> None:
        """A copy of itself, of a copy of itself, a group in itself, mattes of one another."""
        matte_b = {"limits": [{"kind": "matte", "layer": "b"}]}
        matte_a = {"limits": [{"kind": "matte", "layer": "a"}]}
        for layers, way in (
            ((_made("a", "copy", of="a"),), "a → a"),
            ((_made("a", "copy", of="b"), _made("b", "copy", of="a")), "a → b → a"),
            ((_made("a", "group") | {"within": "a"},), "a → a"),
            ((bolt_layer("a") | matte_b, bolt_layer("b") | matte_a), "a → b → a"),
            ((_made("a", "group"), _made("b", "repeat", of="a") | {"within": "a"}), "a → b → a"),
        ):
            problems = _problems(*layers)
            self.assertEqual([problem.path for problem in problems], ["layers[0]"])
            self.assertIn(way, problems[0].says)

    def test_points_and_likes(self) -> None:
        """Points that follow one another, settings that are like one another."""
        points = [{"name": "a", "at": _follow("b")}, {"name": "b", "at": _follow("a")}]
        self.assertIn("a → b → a", _problems(points=points)[0].says)
        one = bolt_layer("a", width=_like("b", "thinning"))
        two = bolt_layer("b", thinning=_like("a", "width"))
        problem = _problems(one, two)[0]
        self.assertEqual(problem.path, "layers[0].source.width")
        self.assertIn("a source width → b source thinning → a source width", problem.says)

    def test_depths(self) -> None:
        """Chains that end are fine up to a stated depth."""
        chain: list[dict[str, Any]] = [{"name": "p0", "at": [0, 0]}]
        chain += [{"name": f"p{i}", "at": _follow(f"p{i - 1}")} for i in range(1, 6)]
        self.assertEqual(_problems(points=chain[:4]), [])
        self.assertIn("4 is the most", _problems(points=chain)[0].says)
        copies = [bolt_layer("l0"), *(_made(f"l{i}", "copy", of=f"l{i - 1}") for i in range(1, 12))]
        self.assertEqual(_problems(*copies[:8]), [])
        self.assertIn("8 is the most", _problems(*copies)[0].says)

    def test_too_many_pictures(self) -> None:
        """Copies, trails and shutters multiply; the sum is bounded and told."""
        trail = {"kind": "trail", "id": "e", "count": 30}
        many = _made("r", "repeat", of="bolt", count=64) | {"steps": [trail]}
        self.assertIn("may need 2000", _problems(bolt_layer(), many)[0].says)
        few = _made("r", "repeat", of="bolt", count=20) | {"steps": [trail]}
        self.assertEqual(_problems(bolt_layer(), few), [])
        shut = few | {"shutter": {"angle": 180, "samples": 16}}
        self.assertIn("shutter", _problems(bolt_layer(), shut)[0].says)
