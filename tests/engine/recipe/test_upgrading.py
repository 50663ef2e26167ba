"""Recipes of earlier versions are read as they were meant."""

import json
from pathlib import Path
from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import read_recipe, render_frame
from handful.engine.recipe import VERSION, upgraded

KEPT = Path(__file__).parent / "kept"
"""Files as they were written by the version in their names."""


def _kept(name: str) -> dict[str, Any]:
    data: dict[str, Any] = json.loads((KEPT / name).read_text())
    return data


class FirstVersion(TestCase):
    def test_is_read(self) -> None:
        """Words that changed: the trail, the still value of a formula, an element's time in seconds;
        what was looked at alone is forgotten."""
        recipe = read_recipe(_kept("version-1.json"))
        self.assertEqual(recipe.version, VERSION)
        bolt, placed = recipe.layers
        self.assertEqual([step.kind for step in bolt.steps], ["trail"])
        drawn: Any = bolt.source
        self.assertEqual(drawn.width.formula, "still * (1 + 0.2 * sin(t))")
        self.assertEqual(drawn.end.formula, ("still + 40 * t", "still"))
        element: Any = placed.source
        self.assertEqual(element.time.keys[1].value, 48 / 24)
        self.assertEqual(
            [step.kind for step in recipe.elements[0].recipe.layers[0].steps], ["trail"]
        )

    def test_nothing_else_changes(self) -> None:
        """The pictures are those of the same recipe written by hand in the new words."""
        old, new = _kept("version-1.json"), _kept("version-2.json")
        for frame in (1001, 1013):
            np.testing.assert_array_equal(
                render_frame(read_recipe(old), frame, 0.5),
                render_frame(read_recipe(new), frame, 0.5),
            )

    def test_every_way_an_element_ran(self) -> None:
        """A place in time that moved in frames moves in seconds, at the element's rate."""

        def second(frame: Any) -> Any:
            old = _kept("version-1.json")
            old["layers"][1]["source"]["frame"] = frame
            return upgraded(old)["layers"][1]["source"]["time"]

        self.assertEqual(second(12), 0.5)
        self.assertEqual(
            second({"moves": "rate", "start": 24, "per_second": 48, "offset": 1}),
            {"moves": "rate", "start": 1, "per_second": 2, "offset": 1},
        )
        self.assertEqual(
            second({"moves": "jitter", "value": 24, "amount": 12, "per_second": 2})["amount"], 0.5
        )
        formula = second({"moves": "formula", "value": 24, "formula": "value + f"})
        self.assertEqual((formula["value"], formula["formula"]), (1, "((still * 24) + f) / 24"))

    def test_the_second_stays_as_it_is(self) -> None:
        second = _kept("version-2.json")
        self.assertEqual(
            upgraded(second) | {"version": 2}, second | {"elements": upgraded(second)["elements"]}
        )


class SecondVersion(TestCase):
    def test_fires_keep_their_times(self) -> None:
        """A fire burns as it did, in whatever it lies; what else there is stays, and so does a new one."""
        fire = {"id": "f", "name": "F", "source": {"kind": "fire", "width": 90}}
        noise = {"id": "n", "name": "N", "source": {"kind": "noise"}}
        inner = {"version": 2, "name": "In", "layers": [fire]}
        old = {
            "version": 2,
            "name": "Old",
            "layers": [fire, noise, "no layer"],
            "elements": [{"name": "e", "recipe": inner}],
        }
        new = upgraded(old)
        self.assertEqual(
            new["layers"][0]["source"], {"kind": "fire", "width": 90, "paced": "as it is set"}
        )
        self.assertEqual(new["layers"][1:], [noise, "no layer"])
        self.assertEqual(
            new["elements"][0]["recipe"]["layers"][0]["source"]["paced"], "as it is set"
        )
        self.assertEqual(upgraded(new), new)
        for broken in ({"version": 2, "layers": 5}, {"version": 2}):
            self.assertEqual(upgraded(broken), broken | {"version": 3})
