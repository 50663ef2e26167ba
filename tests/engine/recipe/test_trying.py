"""A step that is tried, and layers that are looked at by themselves."""

from typing import Any
from unittest import TestCase

from handful.engine.recipe import RecipeError, looked_at_alone, with_step
from tests.engine.recipes import bolt_layer, small

NOISE = {"id": "noise", "name": "Noise", "source": {"kind": "noise", "comes_as": "offsets"}}
MIST = {"id": "mist", "name": "Mist", "source": {"kind": "noise"}}


class Tried(TestCase):
    def test_at_the_end_of_a_layer_or_of_the_finish(self) -> None:
        recipe = small(bolt_layer(steps=[{"kind": "blur", "id": "b"}]), MIST)
        of_layer = with_step(recipe, "bolt", "glow")
        self.assertEqual([step.kind for step in of_layer.layers[0].steps], ["blur", "glow"])
        self.assertEqual(of_layer.layers[1].steps, recipe.layers[1].steps)
        self.assertEqual([step.kind for step in with_step(recipe, None, "glow").finish], ["glow"])

    def test_it_looks_at_another_layer_of_a_kind_that_it_takes(self) -> None:
        """Never at its own, and at none that makes what it cannot take."""
        recipe = small(NOISE, MIST, bolt_layer())
        warp: Any = with_step(recipe, "mist", "warp").layers[1].steps[-1]
        self.assertEqual(warp.by, "noise")
        alone: Any = with_step(small(MIST), "mist", "warp").layers[0].steps[-1]
        self.assertEqual(alone.by, "")
        displaced: Any = (
            with_step(small(MIST, bolt_layer()), "mist", "displace").layers[0].steps[-1]
        )
        self.assertEqual(displaced.by, "bolt")

    def test_what_there_is_not(self) -> None:
        recipe = small(MIST)
        for layer, kind, word in (("mist", "paint", "no step"), ("nobody", "glow", "no layer")):
            with self.assertRaisesRegex(RecipeError, word):
                with_step(recipe, layer, kind)


class Alone(TestCase):
    def test_what_shows(self) -> None:
        """The layers, what holds them and what they hold; all others are off. None that is known changes
        nothing."""
        group = {"id": "group", "name": "Group", "source": {"kind": "group"}}
        inside = [MIST | {"id": name, "within": "group"} for name in ("one", "two")]
        recipe = small(group, *inside, MIST)

        def shown(*ids: str) -> set[str]:
            return {layer.id for layer in looked_at_alone(recipe, ids).layers if layer.on}

        self.assertEqual(shown("one"), {"group", "one"})
        self.assertEqual(shown("group"), {"group", "one", "two"})
        self.assertEqual(shown("mist", "two"), {"mist", "group", "two"})
        self.assertEqual(shown("nobody"), {"group", "one", "two", "mist"})
