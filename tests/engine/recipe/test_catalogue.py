"""What the catalogue tells is enough to write a recipe with, and no more than a recipe takes."""

from typing import Any
from unittest import TestCase

from handful.engine.recipe import RecipeError, catalogue, read_recipe
from handful.engine.values import MOVES

NOW: dict[str, Any] = {"number": 40.0, "point": [3.0, 4.0], "colour": "#ff8000"}
NONE: dict[str, Any] = {"number": 0.0, "point": [0.0, 0.0], "colour": [0.0, 0.0, 0.0]}
LEAST: dict[str, Any] = {**NONE, "number": 0.5, "colour": "#000000"}
"""As near to nothing as the settings below may be."""
SETTINGS = {"number": "width", "point": "start", "colour": "core"}


def begun(way: dict[str, Any], sort: str) -> dict[str, Any]:
    """A value of a sort as it begins to move, by what is declared of a way alone."""
    move: dict[str, Any] = {"moves": way["name"]}
    for field in way["fields"]:
        begins = field["begins"]
        if field["names"]:
            move[field["names"][0].removesuffix("s")] = "mast"
        elif field["type"] == "setting":
            move[field["name"]] = {"layer": "other", "setting": SETTINGS[sort]}
        elif field["type"] == "keys":
            move[field["name"]] = [{"frame": 1001, "value": NOW[sort]}]
        elif begins == "now":
            move[field["name"]] = NOW[sort]
        elif begins == "none":
            move[field["name"]] = (LEAST if field["type"] == "still" else NONE)[sort]
        elif begins is not None:
            move[field["name"]] = begins
    return move


def recipe_with(setting: str, value: Any) -> dict[str, Any]:
    bolt = {"kind": "bolt", setting: value}
    return {
        "version": 3, "name": "Moves", "points": [{"name": "mast", "at": [5, 5]}],
        "layers": [
            {"id": "main", "name": "Main", "source": bolt},
            {"id": "other", "name": "Other", "source": {"kind": "bolt"}},
        ],
    }  # fmt: skip


class Ways(TestCase):
    def test_each_begins_as_it_is_declared(self) -> None:
        """For every sort of value that it suits, what is declared makes a recipe that is read."""
        for way in catalogue()["moves"]:
            for sort in MOVES[way["name"]].suits:
                with self.subTest(way=way["name"], sort=sort):
                    value = begun(way, sort)
                    read = read_recipe(recipe_with(SETTINGS[sort], value))
                    moving = getattr(read.layers[0].source, SETTINGS[sort])
                    self.assertIsInstance(moving, MOVES[way["name"]])

    def test_every_field_is_one_of_the_way(self) -> None:
        """What is carried, dragged, told and edited is there; bounds are those of the reading."""
        for way in catalogue()["moves"]:
            fields = MOVES[way["name"]].model_fields
            names = {field["name"] for field in way["fields"]}
            self.assertLessEqual(set(way["carried"]) | {way["dragged"]} - {""}, names)
            self.assertLessEqual(names, set(fields))
            for field in way["fields"]:
                if field["type"] not in ("number", "whole"):
                    continue
                for bound, beyond in ((field["least"], -1e-3), (field["most"], 1.0)):
                    sort = sorted(MOVES[way["name"]].suits)[0]
                    for value, allowed in ((bound, True), (bound + beyond, False)):
                        move = begun(way, sort) | {field["name"]: value}
                        with self.subTest(way=way["name"], field=field["name"], value=value):
                            self.assertEqual(self._is_read(SETTINGS[sort], move), allowed)

    def _is_read(self, setting: str, move: dict[str, Any]) -> bool:
        try:
            read_recipe(recipe_with(setting, move))
        except RecipeError:
            return False
        return True


class Layers(TestCase):
    def test_parts_have_the_bounds_of_the_reading(self) -> None:
        """Life, shutter and opacity: the least and the most are read, a little beyond is not."""
        parts = catalogue()["layer"]
        single = {"opacity": parts["opacity"]}
        for part in ("life", "shutter"):
            for setting in parts[part]["settings"]:
                single[f"{part}.{setting['name']}"] = setting
        for name, setting in single.items():
            for edge, way in ((setting["least"], -1), (setting["most"], 1)):
                for value, allowed in ((edge, True), (edge + way, False)):
                    if setting["type"] == "whole":
                        value = int(value)
                    part, _, inner = name.partition(".")
                    layer = {
                        "id": "main", "name": "Main", "source": {"kind": "bolt"},
                        part: {inner: value} if inner else value,
                    }  # fmt: skip
                    with self.subTest(name=name, value=value):
                        try:
                            read_recipe({"version": 3, "name": "Parts", "layers": [layer]})
                            self.assertTrue(allowed)
                        except RecipeError:
                            self.assertFalse(allowed)
