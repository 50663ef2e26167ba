"""Changes that need a rule: what they make, and what becomes of all that names what they change."""

from __future__ import annotations

import contextlib
import copy
from typing import Any
from unittest import TestCase

import numpy as np
from pydantic import TypeAdapter, ValidationError

from handful.engine import read_recipe, render_frame
from handful.engine.kinds import sources, steps
from handful.engine.named import NAMED
from handful.engine.recipe import AnyChange, RecipeError, changed_by
from tests.engine.recipes import bolt_layer, demo_data

CANVAS = {"width": 320, "height": 180, "rate": 25, "first": 1, "last": 50}
CHANGE: TypeAdapter[Any] = TypeAdapter(AnyChange)
FOLLOWS = {"moves": "follow", "point": "p", "offset": [3, 4]}
LIKE = {"moves": "like", "setting": {"layer": "one", "setting": "width"}}


def _recipe(**more: Any) -> dict[str, Any]:
    """Everything that can name something, naming the layer `one`, a point, a track, a sway, a path."""
    one = bolt_layer("one", width=6)
    two = bolt_layer(
        "two",
        [{"kind": "displace", "id": "push", "by": "one"},
         {"kind": "blur", "id": "blur", "limits": [{"kind": "matte", "layer": "one"}]}],
        width=LIKE, start=FOLLOWS, path="way", warp=copy.deepcopy(LIKE),
    )  # fmt: skip
    del two["source"]["warp"]
    two |= {"opacity": {"moves": "pulse", "value": LIKE | {"setting": {"layer": "one", "setting": "branch_reach"}}, "amount": 5, "shape": "sine", "period": 1}}  # fmt: skip
    two |= {"limits": [{"kind": "matte", "layer": "one"}], "first": 5, "last": 40}
    ride = {"kind": "copy", "of": "two", "own": {"start": FOLLOWS, "width": LIKE}}
    return {
        "version": 3, "name": "All", "canvas": CANVAS,
        "points": [{"name": "p", "at": [50, 60]},
                   {"name": "q", "at": {"moves": "follow", "track": "t"}},
                   {"name": "r", "at": {"moves": "jitter", "value": FOLLOWS, "amount": [1, 1], "per_second": 5}}],
        "tracks": [{"name": "t", "marks": [[1, 10, 20], [9, 50, 60, 0.75]]}],
        "sways": [{"name": "wind"}],
        "paths": [{"name": "way", "vertices": [{"at": FOLLOWS}, {"at": [200, 90]}]}],
        "cameras": [{"name": "eye", "lens": 900}],
        "markers": [{"frame": 7, "says": "hit"}],
        "layers": [one, two, {"id": "three", "name": "three", "source": ride,
                              "steps": [{"kind": "displace", "id": "d", "by": "two"}]}],
        "finish": [{"kind": "flow", "id": "f", "by": "one"}, {"kind": "card", "id": "c", "camera": "eye"}],
    } | more  # fmt: skip


def _done(written: dict[str, Any], /, **change: Any) -> tuple[dict[str, Any], str | None]:
    """The recipe after a change, which must be readable and must have left the first one alone."""
    before = copy.deepcopy(written)
    changed = changed_by(written, CHANGE.validate_python(change))
    assert written == before, "the recipe that was given has changed"
    read_recipe(changed.recipe)
    return changed.recipe, changed.made


def _values(part: Any) -> list[Any]:
    """All that is written anywhere in a recipe, but for names of things themselves."""
    if isinstance(part, dict):
        return [each for key, value in part.items() if key != "name" for each in _values(value)]
    if isinstance(part, list):
        return [each for value in part for each in _values(value)]
    return [part]


class Layers(TestCase):
    def test_every_source_and_step_can_be_added(self) -> None:
        for kind in sources():
            made, layer = _done(_recipe(), does="add a layer", kind=kind, of="one")
            self.assertEqual(made["layers"][-1]["id"], layer)
            self.assertEqual(made["layers"][-1]["source"]["kind"], kind)
        for kind in steps():
            for where in ("two", None):
                made, step = _done(_recipe(), does="add a step", layer=where, kind=kind)
                chain = made["finish"] if where is None else made["layers"][1]["steps"]
                self.assertEqual((chain[-1]["kind"], chain[-1]["id"]), (kind, step))

    def test_a_bolt_follows_the_first_points_and_has_a_seed_and_a_glow(self) -> None:
        made, layer = _done(_recipe(), does="add a layer", kind="bolt")
        bolt = made["layers"][-1]
        self.assertEqual(
            bolt["source"],
            {"kind": "bolt", "seed": 4, "start": {"moves": "follow", "point": "p"},
             "end": {"moves": "follow", "point": "q"}},
        )  # fmt: skip
        self.assertEqual((layer, bolt["name"]), ("bolt", "Bolt"))
        self.assertEqual(bolt["steps"], [{"kind": "glow", "id": "glow"}])
        again, layer = _done(made, does="add a layer", kind="bolt")
        self.assertEqual((layer, again["layers"][-1]["name"]), ("bolt-2", "Bolt 2"))
        group, _ = _done(_recipe(), does="add a layer", kind="group", of="one")
        self.assertEqual(group["layers"][-1]["source"], {"kind": "group"})
        again, _ = _done(_recipe(), does="add a layer", kind="copy", of="one")
        self.assertEqual(again["layers"][-1]["source"], {"kind": "copy", "of": "one", "seed": 4})

    def test_what_looks_at_a_layer_looks_at_another(self) -> None:
        """Another one, and none that looks back at this one, by whatever way."""
        for layer, by in (("three", "one"), ("two", "one"), (None, "one"), ("one", None)):
            made, _ = _done(_recipe(), does="add a step", layer=layer, kind="displace")
            chains = {each["id"]: each.get("steps") for each in made["layers"]}
            step = (chains[layer] if layer else made["finish"])[-1]
            self.assertEqual(step.get("by"), by, layer)
        made, _ = _done(_recipe(), does="group", layers=["two"])
        made, _ = _done(made, does="add a step", layer="two", kind="displace")
        self.assertEqual(made["layers"][2]["steps"][-1]["by"], "one", "not its own group")

    def test_nothing_names_a_layer_that_is_gone(self) -> None:
        made, _ = _done(_recipe(), does="remove a layer", layer="one")
        self.assertNotIn("one", _values(made))
        two, three = made["layers"]
        self.assertNotIn("width", two["source"], "it is as it comes")
        self.assertEqual(two["opacity"], 100)
        self.assertEqual(two["steps"][0]["by"], "")
        self.assertEqual(two["steps"][1]["limits"], [{"kind": "matte", "layer": ""}])
        self.assertNotIn("width", three["source"]["own"])
        self.assertEqual(made["finish"][0]["by"], "")
        made, _ = _done(_recipe(), does="remove a layer", layer="two")
        self.assertEqual(made["layers"][1]["source"]["of"], "")

    def test_a_flare_hides_no_longer_behind_what_is_gone(self) -> None:
        flare = {"id": "sun", "name": "Sun", "source": {"kind": "flare", "behind": "one"}}
        edged = bolt_layer("edged", reaches="one", matte="one")
        recipe = _recipe(layers=[*_recipe()["layers"], flare, edged])
        made, _ = _done(recipe, does="remove a layer", layer="one")
        self.assertEqual(made["layers"][2]["source"]["behind"], "")
        self.assertEqual(
            [made["layers"][3]["source"][key] for key in ("reaches", "matte")], ["", ""]
        )

    def test_what_was_in_a_group_that_is_gone_stands_alone(self) -> None:
        made, group = _done(_recipe(), does="group", layers=["one", "three"])
        self.assertEqual(
            [layer["id"] for layer in made["layers"]], ["group", "one", "three", "two"]
        )
        self.assertEqual(
            [layer.get("within") for layer in made["layers"]], [None, group, group, None]
        )
        alone, _ = _done(made, does="remove a layer", layer=group)
        self.assertTrue(all(layer.get("within") is None for layer in alone["layers"]))

    def test_groups_within_groups(self) -> None:
        made, outer = _done(_recipe(), does="group", layers=["one", "two"])
        made, inner = _done(made, does="group", layers=["two"])
        layers = {layer["id"]: layer for layer in made["layers"]}
        self.assertEqual(layers[str(inner)]["within"], outer)
        self.assertEqual(layers["two"]["within"], inner)
        twice, copied = _done(made, does="duplicate", layer=outer)
        ids = [layer["id"] for layer in twice["layers"]]
        self.assertEqual(len(ids), len(set(ids)))
        self.assertEqual(len(ids), 5 + 4)
        inside = {layer["id"]: layer.get("within") for layer in twice["layers"]}
        self.assertEqual(inside["two-2"], "group-2-2")
        self.assertEqual(inside["group-2-2"], copied)
        second = next(layer for layer in twice["layers"] if layer["id"] == "two-2")
        self.assertEqual(second["steps"][0]["by"], "one-2", "the copy looks at its own")
        self.assertEqual(second["source"]["start"], FOLLOWS, "points are shared")

    def test_a_duplicate_has_another_seed_and_stands_behind(self) -> None:
        made, layer = _done(_recipe(), does="duplicate", layer="one")
        first, second = made["layers"][:2]
        self.assertEqual((second["id"], layer, second["name"]), ("one-2", "one-2", "one 2"))
        self.assertEqual(second["source"].pop("seed"), 2)
        self.assertEqual(second["source"], first["source"])

    def test_links_mix_and_live_as_their_original(self) -> None:
        recipe = _recipe()
        recipe["layers"][1] |= {"blend": "screen", "blends_in": "seen", "life": {"rise": 3}}
        made, layer = _done(recipe, does="link", layer="two")
        link = made["layers"][2]
        self.assertEqual((link["id"], link["source"]), (layer, {"kind": "copy", "of": "two"}))
        alike = ("blend", "blends_in", "life", "first", "last", "opacity")
        self.assertEqual([link[key] for key in alike], [recipe["layers"][1][key] for key in alike])
        made, layer = _done(recipe, does="repeat", layer="two")
        self.assertFalse(made["layers"][1]["on"])
        self.assertEqual(made["layers"][2]["source"], {"kind": "repeat", "of": "two", "count": 3})


class Merging(TestCase):
    def test_two_of_one_name_stay_apart(self) -> None:
        made, group = _done(_recipe(), does="merge", recipe=_recipe())
        self.assertEqual(len(made["layers"]), 7)
        ids = [layer["id"] for layer in made["layers"]]
        self.assertEqual(len(set(ids)), 7)
        for field in ("points", "tracks", "sways", "paths"):
            names = [each["name"] for each in made[field]]
            self.assertEqual(len(set(names)), 2 * len(_recipe()[field]), field)
        two = next(layer for layer in made["layers"] if layer["id"] == "two-2")
        self.assertEqual(two["within"], group)
        self.assertEqual(two["source"]["start"]["point"], "p 2")
        self.assertEqual(two["source"]["path"], "way 2")
        self.assertEqual(two["source"]["width"]["setting"]["layer"], "one-2")
        self.assertEqual(two["opacity"]["value"]["setting"]["layer"], "one-2")
        self.assertEqual(two["limits"][0]["layer"], "one-2")
        self.assertEqual(made["points"][4]["at"]["track"], "t 2")
        self.assertEqual(made["points"][5]["at"]["value"]["point"], "p 2")
        self.assertEqual(made["paths"][1]["vertices"][0]["at"]["point"], "p 2")
        whole = next(layer for layer in made["layers"] if layer["id"] == group)
        self.assertEqual(whole["steps"][0]["by"], "one-2", "its finish is the group's")

    def test_everything_begins_with_this_shot(self) -> None:
        later = _recipe(canvas=CANVAS | {"first": 1001, "last": 1050})
        made, _ = _done(later, does="merge", recipe=_recipe())
        two = next(layer for layer in made["layers"] if layer["id"] == "two-2")
        self.assertEqual((two["first"], two["last"]), (1005, 1040))
        self.assertEqual(made["tracks"][1]["marks"], [[1001, 10, 20], [1009, 50, 60, 0.75]])

    def test_a_merged_recipe_looks_as_it_did(self) -> None:
        """The result of a recipe merged into an empty one, px for px, a thousand frames later; the seed is
        that of the shot, so both have the same."""
        other = demo_data()
        empty = {"version": 3, "name": "Empty", "seed": other.get("seed", 1),
                 "cover": other["cover"], "canvas": other["canvas"] | {"first": 2001, "last": 2075}, "layers": []}  # fmt: skip
        made, _ = _done(empty, does="merge", recipe=other)
        shown = other["canvas"]["first"] + 8
        before = render_frame(read_recipe(other), shown, scale=1 / 8)
        after = render_frame(read_recipe(made), 2009, scale=1 / 8)
        self.assertGreater(before.max(), 1)
        np.testing.assert_allclose(after, before, rtol=2e-3, atol=1e-4)


class Shared(TestCase):
    def test_renamed_wherever_it_is_named(self) -> None:
        for what, old in (("points", "p"), ("tracks", "t"), ("paths", "way"), ("sways", "wind")):
            made, new = _done(_recipe(), does="rename", what=what, name=old, to="another")
            self.assertEqual(new, "another")
            self.assertEqual(_values(made).count("another"), _values(_recipe()).count(old), what)
            self.assertNotIn(old, _values(made))
        made, new = _done(_recipe(), does="rename", what="points", name="p", to="q")
        self.assertEqual(new, "q 2", "a name that is taken gets a number")
        made, new = _done(_recipe(), does="rename", what="points", name="p", to="p")
        self.assertEqual((new, made), ("p", _recipe()))

    def test_what_followed_stays_where_it_was(self) -> None:
        made, _ = _done(_recipe(), does="remove", what="points", name="p", place=[50, 60])
        self.assertEqual([point["name"] for point in made["points"]], ["q", "r"])
        self.assertEqual(made["layers"][1]["source"]["start"], [53, 64])
        self.assertEqual(made["points"][1]["at"]["value"], [53, 64])
        self.assertEqual(made["paths"][0]["vertices"][0]["at"], [53, 64])
        made, _ = _done(_recipe(), does="remove", what="paths", name="way")
        self.assertEqual(made["layers"][1]["source"]["path"], "")

    def test_another_by_name(self) -> None:
        made, name = _done(_recipe(), does="add a point", at=[1.26, 3])
        self.assertEqual(made["points"][-1], {"name": name, "at": [1.3, 3.0]})
        for what in NAMED:
            made, name = _done(_recipe(), does="add by name", what=what)
            self.assertEqual(made[what][-1]["name"], name)

    def test_all_of_it_later(self) -> None:
        recipe = _recipe()
        recipe["layers"][0]["source"]["width"] = {
            "moves": "keys", "keys": [{"frame": 3, "value": 1}, {"frame": 9, "value": 5}],
        }  # fmt: skip
        made, _ = _done(recipe, does="retime", later=100)
        self.assertEqual((made["canvas"]["first"], made["canvas"]["last"]), (101, 150))
        keys = made["layers"][0]["source"]["width"]["keys"]
        self.assertEqual([key["frame"] for key in keys], [103, 109])
        self.assertEqual(made["markers"][0]["frame"], 107)
        self.assertEqual(made["tracks"][0]["marks"][1][0], 109)
        self.assertEqual(_done(made, does="retime", later=-100)[0], recipe)


class Elements(TestCase):
    def test_placed_by_its_middle_under_a_name_of_its_own(self) -> None:
        other = _recipe(canvas=CANVAS | {"width": 400, "height": 80})
        made, _ = _done(_recipe(), does="place an element", name="Bar", shot="x", revision=3, recipe=other)  # fmt: skip
        made, layer = _done(made, does="place an element", name="Bar", recipe=other)
        self.assertEqual([each["name"] for each in made["elements"]], ["Bar", "Bar 2"])
        source = made["layers"][-1]["source"]
        self.assertEqual(
            source, {"kind": "element", "of": "Bar 2", "at": [160, 90], "pivot": [200, 40]}
        )
        self.assertEqual((layer, made["elements"][0]["revision"]), ("element-2", 3))


class Steps(TestCase):
    def test_a_pasted_step_names_only_what_there_is(self) -> None:
        settings = {"by": "gone", "limits": [{"kind": "matte", "layer": "gone"}]}
        made, step = _done(_recipe(), does="add a step", layer="one", kind="displace", settings=settings)  # fmt: skip
        pasted = made["layers"][0]["steps"][-1]
        self.assertEqual(pasted, {"kind": "displace", "id": step, "by": "", "limits": [{"kind": "matte", "layer": ""}]})  # fmt: skip
        for layer, by in (("two", "one"), ("one", "")):
            settings["by"] = "one"
            made, _ = _done(_recipe(), does="add a step", layer=layer, kind="displace", settings=settings)  # fmt: skip
            chains = {each["id"]: each.get("steps") for each in made["layers"]}
            self.assertEqual(chains[layer][-1]["by"], by, "nor itself")

    def test_a_pasted_step_leaves_what_another_shot_had(self) -> None:
        """Its sway and its track are not here: it names none, and stands where nothing leads it."""
        settings = {"sway": "gone"}
        made, _ = _done(_recipe(), does="add a step", layer="one", kind="warp", settings=settings)
        self.assertEqual(made["layers"][0]["steps"][-1]["sway"], "")
        settings = {"sway": "wind"}
        made, _ = _done(_recipe(), does="add a step", layer="one", kind="warp", settings=settings)
        self.assertEqual(made["layers"][0]["steps"][-1]["sway"], "wind")


class Refused(TestCase):
    def test_what_is_not_there(self) -> None:
        for change, says in (
            ({"does": "remove a layer", "layer": "gone"}, "no layer 'gone'"),
            ({"does": "duplicate", "layer": "gone"}, "no layer 'gone'"),
            ({"does": "group", "layers": ["one", "gone"]}, "no layer 'gone'"),
            ({"does": "add a layer", "kind": "dragon"}, "no source called 'dragon'"),
            ({"does": "add a step", "layer": "one", "kind": "dragon"}, "no step called 'dragon'"),
            (
                {"does": "rename", "what": "sways", "name": "gone", "to": "x"},
                "no sway called 'gone'",
            ),
        ):
            with self.subTest(change), self.assertRaises(RecipeError) as caught:
                _done(_recipe(), **change)
            self.assertIn(says, caught.exception.problems[0].says)

    def test_what_is_no_change(self) -> None:
        for change in ({"does": "conquer"}, {"does": "duplicate"}, {"does": "group", "layers": []},
                       {"does": "retime", "later": 10**9},
                       {"does": "add a point", "at": [float("inf"), 0]}):  # fmt: skip
            with self.subTest(change), self.assertRaises(ValidationError):
                CHANGE.validate_python(change)

    def test_another_problem_stands_in_no_way_and_no_form_breaks_it(self) -> None:
        broken = _recipe()
        broken["layers"][0]["opacity"] = {"moves": "formula", "value": 1, "formula": "sin("}
        made = changed_by(broken, CHANGE.validate_python({"does": "duplicate", "layer": "two"}))
        self.assertEqual(len(made.recipe["layers"]), 4)
        read_recipe(changed_by(broken, CHANGE.validate_python({"does": "remove a layer", "layer": "one"})).recipe)  # fmt: skip
        for layers in (5, [5], [{"id": "one"}], [{"id": "one", "source": {"kind": 3}}], None):
            bad = _recipe(layers=layers)
            for change in ({"does": "duplicate", "layer": "one"}, {"does": "remove a layer", "layer": "one"}):  # fmt: skip
                with self.subTest(layers=layers), contextlib.suppress(RecipeError):
                    read_recipe(changed_by(bad, CHANGE.validate_python(change)).recipe)
        with self.assertRaises(RecipeError):
            changed_by(
                _recipe(), CHANGE.validate_python({"does": "merge", "recipe": {"layers": 3}})
            )
