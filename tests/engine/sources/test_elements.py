"""Another shot's recipe placed in this one."""

from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import Recipe, RecipeError, read_recipe, render_frame
from handful.engine.recipe.document import Shutter


def _bar() -> dict[str, Any]:
    """A long thin canvas with a bar that is there for its frames 11 to 20."""
    source = {"kind": "beam", "start": [20, 20], "end": [180, 20], "width": 12, "far_width": 12,
              "core_light": 0, "sheath_light": -12, "sheath": "#ffffff", "uneven": 0, "rough": 0,
              "flicker": 0, "near_tip": "flat", "far_tip": "flat"}  # fmt: skip
    layer = {"id": "bar", "name": "Bar", "source": source, "first": 11}
    canvas = {"width": 200, "height": 40, "first": 1, "last": 20}
    return {"version": 3, "name": "Bar", "canvas": canvas, "layers": [layer]}


def _shot(elements: list[dict[str, Any]] | None = None, **settings: object) -> Recipe:
    source = {"kind": "element", "of": "bar", "at": [150, 100], "pivot": [100, 20], "time": 12 / 25}
    layer = {"id": "placed", "name": "Placed", "source": source | settings, "blend": "add"}
    canvas = {"width": 300, "height": 200, "first": 1, "last": 50}
    known = [{"name": "bar", "recipe": _bar()}] if elements is None else elements
    return read_recipe(
        {"version": 3, "name": "Shot", "canvas": canvas, "elements": known, "layers": [layer]}
    )


def _middle_and_energy(recipe: Recipe, frame: int = 1, scale: float = 1.0) -> tuple[Any, float]:
    light = render_frame(recipe, frame, scale)[..., 0]
    y, x = np.mgrid[: light.shape[0], : light.shape[1]] + 0.5
    energy = float(light.sum())
    if energy == 0:
        return None, 0.0
    middle = ((light * x).sum() / energy / scale, (light * y).sum() / energy / scale)
    return middle, energy / scale**2


class Placing(TestCase):
    def test_pivot_lies_where_it_is_put(self) -> None:
        """Closed form: 160 x 12 px of light around the pivot, at any turn; area goes with size^2."""
        for turn in (0, 30, 90):
            for size in (50, 80, 115):
                for scale in (1.0, 0.5):
                    with self.subTest(turn=turn, size=size, scale=scale):
                        recipe = _shot(turn=turn, size=size)
                        middle, energy = _middle_and_energy(recipe, scale=scale)
                        np.testing.assert_allclose(middle, (150, 100), atol=0.6)
                        self.assertAlmostEqual(
                            energy / (160 * 12 * (size / 100) ** 2), 1, delta=0.04
                        )

    def test_turn_is_clockwise(self) -> None:
        """As y goes down, a quarter turn stands the bar upright."""
        light = render_frame(_shot(turn=90), 1)[..., 0] > 0.5
        self.assertGreater(int(light.any(axis=1).sum()), 120)
        self.assertLess(int(light.any(axis=0).sum()), 20)

    def test_it_plays(self) -> None:
        """Its own frames pass as this layer's do: the bar comes on its eleventh."""
        recipe = _shot(time={"moves": "rate", "start": 0, "per_second": 1, "since": "layer"})
        energies = [_middle_and_energy(recipe, frame)[1] for frame in (1, 10, 11, 20, 21)]
        self.assertEqual([energy > 0 for energy in energies], [False, False, True, True, False])

    def test_own_pace(self) -> None:
        """Seconds are seconds: at 50 a second in a shot of 25 it goes on by two of its frames."""
        fast = _bar()
        fast["canvas"]["rate"] = 50
        placed = [{"name": "bar", "recipe": fast}]
        clock = {"moves": "rate", "start": 0, "per_second": 1, "since": "layer"}
        energies = [
            _middle_and_energy(_shot(placed, time=clock), frame)[1] for frame in (5, 6, 10, 11)
        ]
        self.assertEqual([energy > 0 for energy in energies], [False, True, True, False])

    def test_open_shutter_on_first_and_last_frame(self) -> None:
        """It shows on a frame for as long as that frame's shutter is open."""
        clock = {"moves": "rate", "start": 0, "per_second": 1, "since": "layer"}
        whole = _shot(time=clock)
        layer = whole.layers[0].model_copy(update={"shutter": Shutter(angle=360, samples=8)})
        blurred = whole.model_copy(update={"layers": [layer]})
        for frame in (11, 15, 20):
            self.assertAlmostEqual(
                _middle_and_energy(blurred, frame)[1] / _middle_and_energy(whole, frame)[1],
                1,
                places=3,
            )

    def test_what_it_does_after_its_last_frame(self) -> None:
        for after, shows in (("shows nothing", False), ("holds", True), ("starts again", False)):
            recipe = _shot(time=1, after=after)
            self.assertEqual(_middle_and_energy(recipe)[1] > 0, shows, after)
        self.assertGreater(_middle_and_energy(_shot(time=32 / 25, after="starts again"))[1], 0)

    def test_several(self) -> None:
        """Three of it, each the stated way on: the light of three, around the middle one."""
        recipe = _shot(count=3, apart=[0, 30], at=[150, 70], later=0)
        middle, energy = _middle_and_energy(recipe)
        np.testing.assert_allclose(middle, (150, 100), atol=0.6)
        self.assertAlmostEqual(energy / (3 * 160 * 12), 1, delta=0.04)

    def test_later_ones_are_earlier_in_their_frames(self) -> None:
        recipe = _shot(count=2, apart=[0, 60], at=[150, 70], later=5)
        light = render_frame(recipe, 1)[..., 0]
        self.assertGreater(float(light[60:80].max()), 0.5)
        self.assertEqual(float(light[110:160].max()), 0)


class Wrong(TestCase):
    def _problem(self, recipe: dict[str, Any] | None = None, **settings: object) -> str:
        with self.assertRaises(RecipeError) as caught:
            _shot(None if recipe is None else [{"name": "bar", "recipe": recipe}], **settings)
        return str(caught.exception)

    def test_unknown(self) -> None:
        self.assertIn(
            "No element is called 'bra'. The nearest that works is 'bar'", self._problem(of="bra")
        )

    def test_wrong_within(self) -> None:
        """What is wrong in the placed recipe is told with its whole path."""
        bad = _bar()
        bad["layers"][0]["source"]["start"] = {"moves": "follow", "point": "gone"}
        self.assertIn("elements[0].recipe.layers[0].source.start", self._problem(bad))

    def test_doubled(self) -> None:
        """Two of one name are told, here and within what is placed."""
        bar = {"name": "bar", "recipe": _bar()}
        with self.assertRaises(RecipeError) as caught:
            _shot([bar, bar])
        self.assertIn("elements[1].name: 'bar' stands here 2 times", str(caught.exception))
        bad = _bar()
        bad["layers"] *= 2
        self.assertIn("elements[0].recipe.layers[1].id: 'bar' stands here 2", self._problem(bad))

    def test_too_deep(self) -> None:
        deep = _bar()
        for _ in range(3):
            deep = _bar() | {"elements": [{"name": "bar", "recipe": deep}]}
        self.assertIn("3 is the most", self._problem(deep))

    def test_too_many_pictures(self) -> None:
        """What a placed recipe asks for counts, as often as it is placed."""
        many = _bar()
        many["layers"] += [
            {"id": f"r{i}", "name": "R", "source": {"kind": "repeat", "of": "bar", "count": 64}}
            for i in range(2)
        ]
        self.assertIn("Use fewer copies", self._problem(many, count=32))
