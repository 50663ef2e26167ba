"""What pictures are told to cost, against a clock that counts nodes."""

from __future__ import annotations

import itertools
import pickle
from pathlib import Path
from typing import Any
from unittest import TestCase, mock

from handful.engine import Cache, load_recipe
from handful.engine.render import cost_of, evaluate, plan
from handful.engine.render.costs import FIXED_PX, SECONDS_A_PX, Costs
from handful.engine.render.nodes import Node, Work
from tests.engine.recipes import small

ROOT = Path(__file__).parents[3]
BOLT = {"kind": "bolt", "start": [20, 20], "end": [300, 160]}


def _seconds(nodes: list[Node], cache: Cache) -> float:
    return cost_of(nodes, cache).at(1)


class Learning(TestCase):
    def test_by_px_of_its_kind(self) -> None:
        costs = Costs()
        self.assertEqual(costs.of(Work("step Glow", 0)).at(1), SECONDS_A_PX * FIXED_PX)
        for _ in range(3):
            costs.learn(Work("step Glow", 950_000), 2.0)
        self.assertAlmostEqual(costs.of(Work("step Glow", 1_950_000)).at(1), 4.0)
        self.assertAlmostEqual(costs.of(Work("step Blur", 950_000)).at(1), SECONDS_A_PX * 1_000_000)

    def test_smaller(self) -> None:
        """Half as wide and high a quarter of the px; what is fixed stays."""
        cost = Costs().of(Work("step Glow", 950_000))
        self.assertAlmostEqual(cost.at(2), SECONDS_A_PX * (950_000 / 4 + FIXED_PX))

    def test_one_that_was_slow_by_chance_counts_for_nothing(self) -> None:
        """The first waits for its kernel; what lasts is believed."""
        costs, work = Costs(), Work("step Glow", 950_000)
        costs.learn(work, 90.0)
        self.assertAlmostEqual(costs.of(work).at(1), SECONDS_A_PX * 1_000_000)
        for _ in range(2):
            costs.learn(work, 0.1)
        self.assertAlmostEqual(costs.of(work).at(1), 0.1)
        for _ in range(5):
            costs.learn(work, 3.0)
        self.assertAlmostEqual(costs.of(work).at(1), 3.0)


class Pictures(TestCase):
    def _learnt(self, cache: Cache, *layers: dict[str, Any]) -> None:
        """Three frames, each of whose nodes took a second by the clock."""
        with mock.patch("time.perf_counter", side_effect=itertools.count()):
            for frame in (11, 12, 13):
                evaluate(plan(small(*layers), frame), cache)

    def test_each_node_once(self) -> None:
        """Two layers alike are computed once, and so they are told."""
        glow = {"kind": "glow", "id": "glow"}
        moving = BOLT | {"boil": {"moves": "rate", "start": 0, "per_second": 1}}
        one = {"id": "a", "name": "A", "source": moving, "steps": [glow]}
        cache = Cache(1 << 28)
        self._learnt(cache, one)
        nodes, seen, waiting = 0, set(), [plan(small(one), 14)]
        while waiting:
            node = waiting.pop()
            if node.key not in seen and not cache.has(node.key):
                nodes += 1
                seen.add(node.key)
                waiting.extend(node.inputs)
        self.assertGreaterEqual(nodes, 3)
        told = _seconds([plan(small(one), 14)], cache)
        self.assertAlmostEqual(told, nodes, delta=0.4 * nodes)
        self.assertEqual(_seconds([plan(small(one), 14)] * 2, cache), told)
        evaluate(plan(small(one), 14), cache)
        self.assertEqual(_seconds([plan(small(one), 14)], cache), 0)

    def test_a_quarter_of_the_px_costs_less_and_more_layers_cost_more(self) -> None:
        cache = Cache(1 << 28)
        layers = [
            {"id": f"l{i}", "name": f"L{i}", "source": BOLT | {"seed": i}, "steps": []} for i in range(12)
        ]  # fmt: skip
        whole, half, one = (
            _seconds([plan(small(*some), 11, scale)], cache)
            for some, scale in ((layers, 1.0), (layers, 0.5), (layers[:1], 1.0))
        )
        self.assertLess(half, whole)
        self.assertGreater(whole, 4 * one)

    def test_states_are_not_counted(self) -> None:
        """They are gone through while something else is shown."""
        fire = {"id": "f", "name": "F", "source": {"kind": "fire"}, "steps": []}
        recipe = small(fire)
        early, late = (_seconds([plan(recipe, frame)], Cache(1 << 20)) for frame in (2, 40))
        self.assertAlmostEqual(early, late, delta=0.01 * late)


class Travelling(TestCase):
    def test_a_recipe_in_another_process_is_the_same(self) -> None:
        """Every starter and every shot of the demo is equal to itself there, and its pictures have the same names."""
        demo = sorted((ROOT / "demo" / "recipes").glob("*.json"))
        paths = [*(ROOT / "starters").glob("*/*.json"), *demo]
        self.assertGreater(len(paths), 100)
        for path in paths:
            with self.subTest(recipe=path.stem):
                recipe = load_recipe(path)
                self.assertEqual(pickle.loads(pickle.dumps(recipe)), recipe)
        recipe = load_recipe(demo[0].with_stem("mast-strike"))
        there = pickle.loads(pickle.dumps(recipe))
        self.assertEqual(plan(there, 1012, 0.1).key, plan(recipe, 1012, 0.1).key)
