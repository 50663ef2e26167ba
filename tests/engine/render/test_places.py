"""Where all that a person takes hold of is at a frame."""

from typing import Any
from unittest import TestCase

from handful.engine import read_recipe
from handful.engine.render.places import places
from handful.engine.render.plan import PlanError
from handful.engine.values import Point

MOVING = {"moves": "rate", "start": [10, 20], "per_second": [25, 50]}
ROUND = {"kind": "ellipse", "centre": [70, 80], "width": 40, "height": 30}


def recipe() -> Any:
    step = {"kind": "blur", "id": "soft", "deviation": 3, "limits": [ROUND | {"centre": [11, 12]}]}
    return read_recipe({
        "version": 3, "name": "Places", "canvas": {"width": 320, "height": 180, "rate": 25, "first": 1, "last": 50},
        "points": [{"name": "mast", "at": MOVING}],
        "paths": [{"name": "rim", "vertices": [{"at": MOVING}, {"at": [5, 6], "leaving": [7, 8]}]}],
        "layers": [
            {"id": "a", "name": "A", "source": {"kind": "bolt", "start": {"moves": "follow", "point": "mast"}},
             "limits": [ROUND], "steps": [step]},
            {"id": "b", "name": "B", "source": {"kind": "flare", "at": [1, 2]}},
        ],
        "finish": [{"kind": "blur", "id": "last", "deviation": 9}],
    })  # fmt: skip


class PlacesOf(TestCase):
    def test_of_a_layer(self) -> None:
        """Its source, its limits, its steps and theirs, as they are on that frame, and no other's."""
        found = places(recipe(), 26, "a")
        self.assertEqual(set(found.nodes), {"source", "limits/0", "soft", "soft/0"})
        self.assertEqual(found.nodes["source"]["start"], Point(35, 70))
        self.assertEqual(found.nodes["limits/0"]["centre"], Point(70, 80))
        self.assertEqual(found.nodes["soft/0"]["centre"], Point(11, 12))
        self.assertEqual(found.nodes["soft"]["deviation"], 3)
        self.assertNotIn("colour", found.nodes["source"])
        self.assertEqual(places(recipe(), 26, "b").nodes["source"]["at"], Point(1, 2))

    def test_of_pieces(self) -> None:
        """Each by the setting that holds it and which it is."""
        pegs = [{"at": MOVING}, {"across": 25, "at": [5, 6]}]
        cloth = {"id": "c", "name": "C", "source": {"kind": "cloth", "pegs": pegs}}
        made = read_recipe({
            "version": 3, "name": "Pegs", "canvas": {"width": 320, "height": 180, "rate": 25, "first": 1, "last": 50},
            "layers": [cloth],
        })  # fmt: skip
        found = places(made, 26, "c").nodes
        self.assertEqual(set(found), {"source", "source/pegs/0", "source/pegs/1"})
        self.assertEqual(found["source/pegs/0"]["at"], Point(35, 70))
        self.assertEqual(found["source/pegs/1"], {"across": 25, "down": 0, "at": Point(5, 6)})

    def test_of_the_whole(self) -> None:
        """Without a layer, what the finish has; points and paths in any case."""
        found = places(recipe(), 1, None)
        self.assertEqual(set(found.nodes), {"last"})
        self.assertEqual(found.nodes["last"]["deviation"], 9)
        self.assertEqual(found.points, {"mast": Point(10, 20)})
        first, second = places(recipe(), 26, "a").paths["rim"]
        self.assertEqual((first["at"], second["at"]), (Point(35, 70), Point(5, 6)))
        self.assertEqual(second["leaving"], Point(7, 8))

    def test_of_none(self) -> None:
        with self.assertRaisesRegex(PlanError, "there is no layer 'gone'"):
            places(recipe(), 1, "gone")
