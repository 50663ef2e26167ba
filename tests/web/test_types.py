"""The descriptions that the front end's types are made from are those of the program."""

import json
import runpy
from unittest import TestCase

from handful.engine.recipe import recipe_outline
from tests.web.test_units import WEB

NAMED_IN_THE_BENCH = {
    *("Canvas", "Change", "Key", "Layer", "Marker", "Move", "NamedElement", "NamedPoint", "Node"),
    *("Path", "Piece", "Plain", "Recipe", "Reference", "Step", "Sway", "Value"),
}


class Types(TestCase):
    def test_of_the_recipe(self) -> None:
        written = runpy.run_path(str(WEB / "write_types.py"))
        kept = json.loads(written["RECIPE"].read_text())
        self.assertEqual(kept, json.loads(json.dumps(written["outline"]())))
        self.assertLessEqual(NAMED_IN_THE_BENCH, set(kept["components"]["schemas"]))

    def test_no_kind_is_in_the_outline(self) -> None:
        """A node is of any kind and a value moves in any way, so that new ones fit."""
        outline = recipe_outline()
        self.assertNotIn("Bolt", outline)
        self.assertNotIn("discriminator", json.dumps(outline))
        self.assertEqual(outline["Layer"]["properties"]["source"], {"$ref": "#/$defs/Node"})
        self.assertEqual(outline["NamedPoint"]["properties"]["at"], {"$ref": "#/$defs/Value"})
        self.assertEqual(outline["Layer"]["properties"]["steps"]["items"]["$ref"], "#/$defs/Step")
        self.assertNotIn("enum", outline["Layer"]["properties"]["blend"])
