"""Two who change one recipe: what either did is there, and where they met is told."""

from __future__ import annotations

import copy
import json
import random
from typing import Any
from unittest import TestCase

from handful.engine.recipe import RecipeError, brought_together, read_recipe
from handful.engine.recipe.together import Together
from tests.engine.recipes import DEMO, bolt_layer

GLOW = {"kind": "glow", "id": "glow", "lobes": [{"radius": 8, "gain": -1}, {"radius": 40, "gain": -2}]}  # fmt: skip
BASE: dict[str, Any] = {
    "version": 3, "name": "Base", "seed": 1,
    "canvas": {"width": 320, "height": 180, "rate": 25, "first": 1, "last": 50},
    "points": [{"name": "p", "at": [50, 60]}, {"name": "q", "at": [90, 60]}],
    "layers": [bolt_layer("one", [GLOW], width=6), bolt_layer("two", width=4), bolt_layer("three")],
}  # fmt: skip


def _recipe() -> dict[str, Any]:
    return copy.deepcopy(BASE)


def _layer(recipe: dict[str, Any], layer_id: str) -> dict[str, Any]:
    [found] = [layer for layer in recipe["layers"] if layer["id"] == layer_id]
    layer: dict[str, Any] = found
    return layer


def _ids(recipe: dict[str, Any]) -> list[str]:
    return [layer["id"] for layer in recipe["layers"]]


class Apart(TestCase):
    """Where nobody gets in the other's way, all is there and nothing is told."""

    def setUp(self) -> None:
        self.mine, self.theirs = _recipe(), _recipe()

    def _made(self) -> dict[str, Any]:
        made = self._told()
        self.assertEqual((made.both, made.kept), ([], []))
        return made.recipe

    def _told(self) -> Together:
        given = copy.deepcopy((BASE, self.mine, self.theirs))
        made = brought_together(BASE, self.mine, self.theirs)
        self.assertEqual(given, (BASE, self.mine, self.theirs), "what was given has changed")
        read_recipe(made.recipe)
        return made

    def test_settings_of_two_layers_and_of_one(self) -> None:
        _layer(self.mine, "one")["source"]["width"] = 9
        _layer(self.theirs, "two")["source"]["width"] = 11
        _layer(self.theirs, "one")["source"]["branches"] = 3
        made = self._made()
        self.assertEqual(_layer(made, "one")["source"]["width"], 9)
        self.assertEqual(_layer(made, "one")["source"]["branches"], 3)
        self.assertEqual(_layer(made, "two")["source"]["width"], 11)

    def test_settings_of_two_of_several_alike(self) -> None:
        _layer(self.mine, "one")["steps"][0]["lobes"][0]["radius"] = 12
        _layer(self.theirs, "one")["steps"][0]["lobes"][1]["gain"] = -3
        lobes = _layer(self._made(), "one")["steps"][0]["lobes"]
        self.assertEqual(lobes, [{"radius": 12, "gain": -1}, {"radius": 40, "gain": -3}])

    def test_added_removed_and_moved(self) -> None:
        """Mine puts one behind the first and takes the second away; theirs has turned the order round, and put
        one at the end."""
        self.mine["layers"] = [self.mine["layers"][i] for i in (0, 2)]
        self.mine["layers"].insert(1, bolt_layer("mine"))
        self.theirs["layers"].reverse()
        self.theirs["layers"].append(bolt_layer("theirs"))
        self.assertEqual(_ids(self._made()), ["three", "one", "mine", "theirs"])
        self.mine, self.theirs = self.theirs, self.mine
        self.assertEqual(_ids(self._made()), ["three", "one", "mine", "theirs"])

    def test_both_do_the_same(self) -> None:
        for each in (self.mine, self.theirs):
            del each["layers"][1]
            each["seed"] = 7
            each["layers"].append(bolt_layer("four"))
        self.assertEqual(self._made(), self.mine)

    def test_what_is_no_longer_written(self) -> None:
        del _layer(self.mine, "one")["source"]["width"]
        self.theirs["seed"] = 5
        made = self._made()
        self.assertNotIn("width", _layer(made, "one")["source"])
        self.assertEqual(made["seed"], 5)

    def test_what_names_what_is_gone(self) -> None:
        """Mine takes away a layer and a point; theirs has begun to name both."""
        del self.mine["layers"][1], self.mine["points"][1]
        one = _layer(self.theirs, "one")
        one["steps"].append({"kind": "displace", "id": "push", "by": "two"})
        one["source"]["start"] = {"moves": "follow", "point": "q", "offset": [1, 2]}
        made = self._made()
        self.assertEqual(_layer(made, "one")["steps"][1]["by"], "")
        self.assertEqual(_layer(made, "one")["source"]["start"], [91, 62])

    def test_two_things_of_one_name(self) -> None:
        """Both have added a layer, a point and a step under the same name; what names mine names it still."""
        like = {"moves": "like", "setting": {"layer": "one", "of": "blur", "setting": "deviation"}}
        for each, size in ((self.mine, 5), (self.theirs, 7)):
            each["points"].append({"name": "new", "at": [size, size]})
            each["layers"].append(bolt_layer("bolt", width=size, start={"moves": "follow", "point": "new"}))  # fmt: skip
            _layer(each, "one")["steps"].append({"kind": "blur", "id": "blur", "deviation": size})
            each["finish"] = [{"kind": "flow", "id": "f", "by": "bolt"}]
        self.mine["finish"][0]["id"] = "g"
        _layer(self.mine, "three")["steps"].append({"kind": "blur", "id": "b", "deviation": like})
        made = self._made()
        self.assertEqual(_layer(made, "bolt")["source"]["width"], 7)
        mine = _layer(made, "bolt-2")["source"]
        self.assertEqual((mine["width"], mine["start"]["point"]), (5, "new 2"))
        self.assertEqual({p["name"]: p["at"] for p in made["points"]}["new 2"], [5, 5])
        steps = {step["id"]: step["deviation"] for step in _layer(made, "one")["steps"][1:]}
        self.assertEqual(steps, {"blur": 7, "blur-2": 5})
        self.assertEqual(_layer(made, "three")["steps"][0]["deviation"]["setting"]["of"], "blur-2")
        self.assertEqual({step["id"]: step["by"] for step in made["finish"]}, {"f": "bolt", "g": "bolt-2"})  # fmt: skip


class Met(TestCase):
    """Where both have set the same, mine holds, and it is told where."""

    def _made(self, mine: dict[str, Any], theirs: dict[str, Any]) -> Together:
        return brought_together(BASE, mine, theirs)

    def test_the_same_value(self) -> None:
        mine, theirs = _recipe(), _recipe()
        _layer(mine, "two")["source"]["width"] = 9
        _layer(theirs, "two")["source"]["width"] = 11
        del theirs["layers"][0]
        made = self._made(mine, theirs)
        self.assertEqual(_layer(made.recipe, "two")["source"]["width"], 9)
        self.assertEqual((made.both, made.kept), (["layers[0].source.width"], []))

    def test_a_way_of_moving_is_one_value(self) -> None:
        rate = {"moves": "rate", "start": 4, "per_second": 1}
        mine, theirs = _recipe(), _recipe()
        _layer(mine, "two")["source"]["width"] = rate
        _layer(theirs, "two")["source"]["width"] = rate | {"per_second": 2}
        made = self._made(mine, theirs)
        self.assertEqual(_layer(made.recipe, "two")["source"]["width"], rate)
        self.assertEqual(made.both, ["layers[1].source.width"])

    def test_another_kind_is_not_mixed_with_the_settings_of_the_first(self) -> None:
        mine, theirs = _recipe(), _recipe()
        _layer(mine, "two")["source"] = {"kind": "flash"}
        _layer(theirs, "two")["source"]["width"] = 11
        for one, other, holds in ((mine, theirs, {"kind": "flash"}),
                                  (theirs, mine, _layer(theirs, "two")["source"])):  # fmt: skip
            made = self._made(one, other)
            self.assertEqual(_layer(made.recipe, "two")["source"], holds)
            self.assertEqual(made.both, ["layers[1].source"])

    def test_taken_away_here_and_changed_there(self) -> None:
        """It is kept as it was changed, whoever of the two took it away."""
        gone, changed = _recipe(), _recipe()
        del gone["layers"][1]
        _layer(changed, "two")["source"]["width"] = 11
        for mine, theirs in ((gone, changed), (changed, gone)):
            made = self._made(mine, theirs)
            self.assertEqual(_layer(made.recipe, "two")["source"]["width"], 11)
            self.assertEqual((made.both, made.kept), ([], ["layers[1]"]))

    def test_what_cannot_be_gone_through(self) -> None:
        with self.assertRaises(RecipeError):
            self._made(_recipe() | {"layers": [{"id": "one"}]}, _recipe() | {"layers": [7]})


class Laws(TestCase):
    """What holds for any three recipes: made of the demo's, a few values of which are set by chance."""

    def _changed(self, recipe: dict[str, Any], chance: random.Random) -> dict[str, Any]:
        made = copy.deepcopy(recipe)
        for _ in range(4):
            layer = chance.choice(made["layers"])
            match chance.randrange(4):
                case 0:
                    layer["opacity"] = chance.randrange(100)
                case 1:
                    layer["name"] = f"Called {chance.randrange(1000)}"
                case 2:
                    chance.shuffle(made["layers"])
                case 3:
                    layer["steps"] = [*layer.get("steps", []), {"kind": "blur", "id": f"b{chance.random()}"}]  # fmt: skip
        return made

    def test_of_one_alone(self) -> None:
        chance = random.Random(5)
        for path in DEMO.parent.glob("*.json"):
            base = json.loads(path.read_text())
            with self.subTest(recipe=path.name):
                one = self._changed(base, chance)
                for mine, theirs in ((one, base), (base, one), (one, one)):
                    made = brought_together(base, mine, theirs)
                    self.assertEqual(made, (one, [], []))

    def test_of_two(self) -> None:
        """All that one alone has set is there; where both have, mine is; steps of both are there."""
        chance = random.Random(6)
        for path in DEMO.parent.glob("*.json"):
            base = json.loads(path.read_text())
            for _ in range(5):
                mine, theirs = self._changed(base, chance), self._changed(base, chance)
                made = brought_together(base, mine, theirs).recipe
                with self.subTest(recipe=path.name):
                    self.assertEqual(set(_ids(made)), set(_ids(base)))
                    for before in base["layers"]:
                        layer, here, there = (_layer(each, before["id"]) for each in (made, mine, theirs))  # fmt: skip
                        for field in ("opacity", "name"):
                            holds = here if here.get(field) != before.get(field) else there
                            self.assertEqual(layer.get(field), holds.get(field))
                        steps = {step["id"] for each in (here, there) for step in each.get("steps", [])}  # fmt: skip
                        self.assertEqual({step["id"] for step in layer.get("steps", [])}, steps)
