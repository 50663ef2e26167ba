"""Declarations and the catalogue made from them."""

import json
import os
import string
from pathlib import Path
from unittest import TestCase, mock

from handful.engine.everything import everything
from handful.engine.kinds import Kind, Step, register, setting, sources, steps
from handful.engine.recipe.catalogue import FAMILIES, catalogue
from handful.engine.render.edition import edition


class Declarations(TestCase):
    def test_every_kind_explains_itself(self) -> None:
        """Each kind has help, a family, a sentence naming settings, and help for each of those."""
        listed = catalogue()
        for kind in [*listed["sources"], *listed["steps"]]:
            with self.subTest(kind=kind["name"]):
                self.assertTrue(kind["help"] and kind["family"])
                named = [name for _, name, _, _ in string.Formatter().parse(kind["says"]) if name]
                self.assertTrue(set(named) <= {known["name"] for known in kind["settings"]})
                for known in kind["settings"]:
                    self.assertTrue(known["help"].endswith("."), known["name"])
                    if known["type"] == "number" and known["usual"]:
                        low, high = known["usual"]
                        self.assertTrue(known["least"] <= low < high <= known["most"])

    def test_catalogue_is_json(self) -> None:
        """It can be written and read again without loss."""
        self.assertEqual(json.loads(json.dumps(catalogue()))["moves"], catalogue()["moves"])

    def test_defaults_make_a_recipe(self) -> None:
        """Every default is within its own range: a recipe of all kinds as they come is accepted."""
        known = [layer.source.kind for recipe in everything() for layer in recipe.layers]
        self.assertEqual(set(known), set(sources()))

    def test_a_sentence_must_name_settings(self) -> None:
        """A wrong declaration is refused when its class is made."""
        with self.assertRaisesRegex(TypeError, "no such setting: width"):

            class Wrong(Step):
                """Wrong."""

                family = "light"
                says = "Has {width}."
                height: float = setting(1, least=0, most=2, help="Height.")

    def test_numbers_need_a_range(self) -> None:
        """A number without bounds could ask for anything."""
        with self.assertRaisesRegex(TypeError, "least and most"):

            class Boundless(Step):
                """Boundless."""

                family = "light"
                says = "Has {height}."
                height: float = setting(1, help="Height.")

    def test_a_setting_is_said_once(self) -> None:
        """Of two kinds that one is put together of, neither hides what the other says; a kind may say again what its own
        base does."""

        class Upright(Kind):
            tilt: float = setting(1, least=0, most=2, help="Of one.")

        class Leaning(Kind):
            tilt: float = setting(1, least=0, most=2, help="Of the other.")

        class Again(Upright):
            says = "{tilt}"
            tilt: float = setting(2, least=0, most=2, help="Of the same.")

        self.assertEqual([known.default for known in Again.settings], [2])
        with self.assertRaisesRegex(TypeError, "Both has tilt of Upright and of Leaning"):

            class Both(Upright, Leaning):
                says = "{tilt}"

    def test_names_are_given_once(self) -> None:
        """Two kinds of one name are a mistake."""
        with self.assertRaisesRegex(TypeError, "two kinds are called glow"):
            register(type("Glow", (steps()["glow"],), {"says": "Again."}))


class Further(TestCase):
    def test_a_studios_own_kinds_are_part_of_the_edition(self) -> None:
        """Pictures of theirs are found again only while they are as they were."""
        shipped = edition.__wrapped__()
        with mock.patch.dict(os.environ, {"HANDFUL_KINDS": "tests.browser.added_kinds"}):
            self.assertNotEqual(edition.__wrapped__(), shipped)
        self.assertEqual(edition.__wrapped__(), shipped)
        with mock.patch.object(Path, "read_bytes", return_value=b"another"):
            self.assertNotEqual(edition.__wrapped__(), shipped)


class Order(TestCase):
    def test_families_stand_together_in_the_order_in_which_they_are_offered(self) -> None:
        """Energy before flares before what is made of layers; a family that is new comes last."""
        families = [kind["family"] for kind in catalogue()["sources"]]
        self.assertEqual(
            list(dict.fromkeys(families)),
            [
                "energy",
                "flare",
                "fire",
                "particles",
                "shock",
                "water",
                "liquid",
                "cloth",
                "texture",
                "layers",
            ],
        )
        self.assertEqual(families, sorted(families, key=FAMILIES.index))
        steps_of = [kind["family"] for kind in catalogue()["steps"]]
        self.assertEqual(steps_of, sorted(steps_of, key=FAMILIES.index))
        with mock.patch.object(sources()["bolt"], "family", "smoke"):
            self.assertEqual(catalogue()["sources"][-1]["name"], "bolt")
