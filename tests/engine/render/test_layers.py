"""How layers make one another: groups, copies, repeats, limits, shutters and time."""

from collections.abc import Iterable
from typing import Any
from unittest import TestCase

import numpy as np
from scipy.special import ndtr

from handful.engine import Recipe, render_frame
from handful.engine.mix import blends, joined
from handful.engine.recipe import RecipeError, looked_at_alone
from handful.engine.render import plan
from handful.engine.render.cache import Cache
from handful.engine.render.evaluate import evaluate
from tests.engine.recipes import bolt_layer, small

GLOW = {"kind": "glow", "id": "glow", "lobes": [{"radius": 6}]}
FOLLOWING = {"start": {"moves": "follow", "point": "from"}, "boil": 0}


def _own(recipe: Recipe, layer: str, frame: float = 1) -> np.ndarray:
    """A layer's own picture."""
    return evaluate(plan(recipe, frame, 1.0, layer), Cache(0)).pixels


def _copy(**settings: Any) -> dict[str, Any]:
    return {"id": "copy", "name": "copy", "source": {"kind": "copy", "of": "bolt", **settings}}


def _added(pictures: Iterable[np.ndarray]) -> np.ndarray:
    return np.stack(list(pictures)).sum(axis=0)


class Copies(TestCase):
    def test_twin_and_another(self) -> None:
        """With seed 0 it is the same to the bit, steps included; with another seed it is not."""
        original = bolt_layer(steps=[GLOW])
        recipe = small(original, _copy(seed=0))
        np.testing.assert_array_equal(_own(recipe, "copy"), _own(recipe, "bolt"))
        other = small(original, _copy(seed=1))
        self.assertFalse(np.array_equal(_own(other, "copy"), _own(other, "bolt")))

    def test_stays_linked(self) -> None:
        """What changes in the original changes in the copy, though the original may be off."""
        thin, thick = (
            small(bolt_layer(width=width) | {"on": False}, _copy(seed=3)) for width in (1, 6)
        )
        self.assertGreater(_own(thick, "copy").sum(), 2 * _own(thin, "copy").sum())

    def test_own_settings(self) -> None:
        """Settings of its own stand in for the original's, and for no other layer's."""
        recipe = small(bolt_layer(), _copy(seed=0, own={"width": 9, "end": [40, 160]}))
        alone = small(bolt_layer(width=9, end=[40, 160]))
        np.testing.assert_array_equal(_own(recipe, "copy"), _own(alone, "bolt"))

    def test_as_another_kind_of_picture(self) -> None:
        """A copy of a height that is light by a setting of its own is light, and mixed as that; and a step that
        comes along and does not take it is told where the copy names its layer."""
        noise: dict[str, Any] = {
            "id": "bolt", "name": "Noise", "source": {"kind": "noise", "comes_as": "height"}
        }  # fmt: skip
        light = noise | {"source": {"kind": "noise", "comes_as": "light"}}
        recipe = small(noise, _copy(seed=0, own={"comes_as": "light"}))
        np.testing.assert_array_equal(_own(recipe, "copy"), _own(small(light), "bolt"))
        np.testing.assert_array_equal(render_frame(recipe, 1), render_frame(small(light), 1))
        with self.assertRaises(RecipeError) as raised:
            small(
                light | {"steps": [{"kind": "glow", "id": "g"}]},
                _copy(seed=0, own={"comes_as": "height"}),
            )
        self.assertIn("layers[1].source.of", str(raised.exception))
        self.assertIn("glow takes light, and here comes a height", str(raised.exception))

    def test_ahead_in_time_but_not_in_place(self) -> None:
        """Boil runs ahead by the frames; the point that it follows is where it is now."""
        points = [
            {"name": "from", "at": {"moves": "rate", "start": [30, 40], "per_second": [50, 0]}}
        ]
        layer = bolt_layer(boil={"moves": "rate", "start": 0, "per_second": 2})
        layer["source"]["start"] = {"moves": "follow", "point": "from"}
        recipe = small(layer, _copy(seed=0, ahead=10), points=points)
        still = small(bolt_layer(start=[40, 40], boil=2 * 15 / 25))
        np.testing.assert_array_equal(_own(recipe, "copy", 6), _own(still, "bolt"))

    def test_a_rate_since_its_layer(self) -> None:
        """It starts where its layer begins to show: a copy that begins by itself starts it anew."""
        rate = {"moves": "rate", "start": 1, "per_second": 25, "since": "layer"}
        layer = bolt_layer(boil=0, width=rate) | {"first": 11}
        recipe = small(layer, _copy(seed=0) | {"first": 21})
        for frame, width in ((11, 1), (14, 4)):
            alone = small(bolt_layer(boil=0, width=width))
            np.testing.assert_array_equal(_own(recipe, "bolt", frame), _own(alone, "bolt"))
        for frame, width in ((21, 1), (24, 4)):
            alone = small(bolt_layer(boil=0, width=width))
            np.testing.assert_array_equal(_own(recipe, "copy", frame), _own(alone, "bolt"))

    def test_has_its_own_life(self) -> None:
        """A setting that goes with life follows the copy's life, not the original's."""
        layer = bolt_layer(boil=0, width={"moves": "life", "start": 1, "end": 8})
        recipe = small(layer, _copy(seed=0) | {"life": {"rise": 20, "drives": "nothing"}})
        wide = small(bolt_layer(boil=0, width=4.5))
        np.testing.assert_array_equal(_own(recipe, "copy", 11), _own(wide, "bolt"))

    def test_repeat(self) -> None:
        """n copies with their seeds, added, are those copies added by hand."""
        repeat = {"id": "r", "name": "r", "source": {"kind": "repeat", "of": "bolt", "count": 3}}
        recipe = small(bolt_layer(), repeat)
        by_hand = _added(_own(small(bolt_layer(), _copy(seed=seed)), "copy") for seed in (0, 1, 2))
        np.testing.assert_allclose(_own(recipe, "r")[..., :3], by_hand[..., :3], atol=1e-5)

    def test_a_place_that_moves_farther_than_any_that_is_written(self) -> None:
        """A copy that has gone so far is at the farthest place there is, and is not seen."""
        gone = {"moves": "rate", "start": [290, 140], "per_second": [0, 1e6]}
        source = {"kind": "repeat", "of": "bolt", "spots": [{"at": [290, 140]}, {"at": gone}]}
        recipe = small(bolt_layer(), {"id": "r", "name": "r", "source": source})
        alone = source | {"spots": [{"at": [290, 140]}, {"at": [290, 100_000]}]}
        still = small(bolt_layer(), {"id": "r", "name": "r", "source": alone})
        np.testing.assert_array_equal(_own(recipe, "r", 26), _own(still, "r", 26))

    def test_seeds_go_on_through_copies_of_copies(self) -> None:
        """Copies in a repeat are its step apart; a copy of a copy is none of the others."""
        source = {"kind": "repeat", "of": "bolt", "count": 2, "seed_step": 4}
        recipe = small(bolt_layer(), {"id": "r", "name": "r", "source": source})
        by_hand = _added(_own(small(bolt_layer(), _copy(seed=seed)), "copy") for seed in (0, 4))
        np.testing.assert_allclose(_own(recipe, "r")[..., :3], by_hand[..., :3], atol=1e-5)
        over = {"id": "over", "name": "over", "source": {"kind": "copy", "of": "copy", "seed": 2}}
        recipe = small(bolt_layer(), _copy(seed=3), over)
        others = [_own(recipe, "bolt"), _own(recipe, "copy")]
        others += [_own(small(bolt_layer(), _copy(seed=seed)), "copy") for seed in (2, 5)]
        for other in others:
            self.assertFalse(np.array_equal(_own(recipe, "over"), other))

    def test_one_for_each_spot(self) -> None:
        """Five stays in one go: each spot is the end of one copy."""
        spots = [[60, 150], [150, 20], [280, 90]]
        source = {
            "kind": "repeat", "of": "bolt", "seed_step": 0, "spots": [{"at": spot} for spot in spots],
        }  # fmt: skip
        recipe = small(bolt_layer(boil=0), {"id": "r", "name": "r", "source": source})
        by_hand = _added(_own(small(bolt_layer(boil=0, end=spot)), "bolt") for spot in spots)
        np.testing.assert_allclose(_own(recipe, "r")[..., :3], by_hand[..., :3], atol=1e-5)

    def test_formulas_know_the_copy(self) -> None:
        """`n` counts the copies from 0."""
        width = {"moves": "formula", "value": 1, "formula": "1 + 2 * n"}
        source = {"kind": "repeat", "of": "bolt", "count": 2, "seed_step": 0}
        recipe = small(bolt_layer(boil=0, width=width), {"id": "r", "name": "r", "source": source})
        by_hand = _added(_own(small(bolt_layer(boil=0, width=width)), "bolt") for width in (1, 3))
        np.testing.assert_allclose(_own(recipe, "r")[..., :3], by_hand[..., :3], atol=1e-5)


class Groups(TestCase):
    def test_mixed_on_its_own(self) -> None:
        """A group is the mix of its layers; steps on it act on that."""
        pair = [bolt_layer("a", width=3), bolt_layer("b", width=2)]
        group = {"id": "g", "name": "g", "source": {"kind": "group"}, "steps": [GLOW]}
        grouped = small(group, *(layer | {"within": "g"} for layer in pair))
        finished = small(*pair, finish=[GLOW])
        np.testing.assert_array_equal(render_frame(grouped, 1), render_frame(finished, 1))

    def test_alone(self) -> None:
        """Only what is shown alone shows, among those beside it."""
        recipe = looked_at_alone(small(bolt_layer("a"), bolt_layer("b")), ["b"])
        np.testing.assert_array_equal(
            render_frame(recipe, 1), render_frame(small(bolt_layer("b")), 1)
        )

    def test_copy_of_a_group(self) -> None:
        """A copy of a group has other seeds for all in it."""
        group = {"id": "g", "name": "g", "source": {"kind": "group"}, "on": False}
        recipe = small(group, bolt_layer("a") | {"within": "g"}, _copy(seed=2, of="g"))
        self.assertTrue(_own(recipe, "copy").any())
        self.assertFalse(np.array_equal(_own(recipe, "copy"), _own(recipe, "g")))


def _full(**more: Any) -> dict[str, Any]:
    """A layer that is even light over all the canvas: a wide bolt far too bright, held to 1."""
    layer = bolt_layer(start=[-900, 90], end=[1220, 90], wander=0, branches=0, width=200, boil=0)
    levels = {"kind": "levels", "id": "levels", "white": 0.1}
    cut = {"kind": "curves", "id": "cut", "master": [{"level": 0, "becomes": 100}]}
    return layer | {"steps": [levels, cut]} | more


class Limits(TestCase):
    def test_feathered_rectangle(self) -> None:
        """Closed form: the light times the normal distribution across an edge, and nowhere a step."""
        box = {
            "kind": "rectangle",
            "centre": [160, 90],
            "width": 160,
            "height": 1000,
            "feather": 40,
        }
        free, held = _own(small(_full()), "bolt"), _own(small(_full(limits=[box])), "bolt")
        x = np.arange(320) + 0.5
        share = ndtr((x - 80) / 10) - ndtr((x - 240) / 10)
        np.testing.assert_allclose(held[90, :, 0], free[90, :, 0] * share, atol=6e-3)

    def test_ellipse_area(self) -> None:
        """Closed form: pi a b, turned or not; inverted, all the rest."""
        free = _own(small(_full()), "bolt")[..., 0].sum(dtype=float)
        level = _own(small(_full()), "bolt")[90, 160, 0]
        round_ = {
            "kind": "ellipse",
            "centre": [160, 90],
            "width": 120,
            "height": 60,
            "turn": 30,
            "feather": 0,
        }
        inside = _own(small(_full(limits=[round_])), "bolt")[..., 0].sum(dtype=float)
        self.assertAlmostEqual(inside / (level * np.pi * 60 * 30), 1, delta=2e-3)
        rest = small(_full(limits=[round_ | {"inverted": True}]))
        outside = _own(rest, "bolt")[..., 0].sum(dtype=float)
        self.assertAlmostEqual((inside + outside) / free, 1, places=5)

    def test_joining(self) -> None:
        """Definitions: a b, 1 - (1 - a)(1 - b), a (1 - b); the first begins from all or nothing."""
        a, b = np.random.default_rng(2).random((2, 8, 9), np.float32)
        for ways, wanted in (
            (["intersect", "intersect"], a * b),
            (["add", "add"], 1 - (1 - a) * (1 - b)),
            (["intersect", "subtract"], a * (1 - b)),
            (["subtract", "add"], 1 - a * (1 - b)),
        ):
            np.testing.assert_allclose(joined([a, b], ways), wanted, atol=1e-6)

    def test_matte(self) -> None:
        """Another layer's cover or brightness, straight or inverted; that layer itself is off."""
        matte = bolt_layer("matte", width=8, core_light=0) | {"on": False}
        for by, channel in (("cover", 3), ("brightness", None)):
            limit = {"kind": "matte", "layer": "matte", "by": by}
            recipe = small(_full(limits=[limit]), matte)
            known = _own(recipe, "matte")
            share = known[..., 3] if channel else known[..., :3] @ [0.2126, 0.7152, 0.0722]
            free = _own(small(_full()), "bolt")
            wanted = free[..., 1] * np.clip(share, 0, 1)
            np.testing.assert_allclose(_own(recipe, "bolt")[..., 1], wanted, atol=2e-3)

    def test_path_follows_a_moving_point(self) -> None:
        """A mask in a path whose vertices follow a point goes where the point goes."""
        corners = ((0, 0), (40, 0), (40, 40), (0, 40))
        vertices = [
            {"at": {"moves": "follow", "point": "p", "offset": list(corner)}} for corner in corners
        ]
        recipe = small(
            _full(limits=[{"kind": "outline", "path": "door", "feather": 0}]),
            points=[
                {"name": "p", "at": {"moves": "rate", "start": [20, 30], "per_second": [100, 0]}}
            ],
            paths=[{"name": "door", "vertices": vertices}],
        )
        for frame, left in ((1, 20), (26, 120)):
            lit = np.flatnonzero(_own(recipe, "bolt", frame)[50, :, 0])
            self.assertEqual((lit[0], lit[-1]), (left, left + 39))

    def test_limited_step(self) -> None:
        """Inside the limit it is as with the step, outside as without, to the bit."""
        box = {"kind": "rectangle", "centre": [80, 90], "width": 160, "height": 400, "feather": 0}
        brighter = {"kind": "exposure", "id": "up", "stops": 2}
        plain, all_of_it, half = (
            _own(small(bolt_layer(steps=steps)), "bolt")
            for steps in ([], [brighter], [brighter | {"limits": [box]}])
        )
        np.testing.assert_allclose(half[:, :160], all_of_it[:, :160], rtol=1e-6)
        np.testing.assert_allclose(half[:, 160:], plain[:, 160:], rtol=1e-6)

    def test_what_a_limited_step_keeps_out_is_whole(self) -> None:
        """A step that takes the picture from elsewhere needs what was there before all the same."""
        box = {"kind": "rectangle", "centre": [300, 90], "width": 20, "height": 40, "feather": 0}
        plain = _own(small(bolt_layer(boil=0)), "bolt")
        for step in (
            {"kind": "tiles", "centre": [40, 30], "width": 40, "height": 40},
            {"kind": "place", "move": [900, 0]},
            {"kind": "card", "away": 4000},
        ):
            chain = [
                {"kind": "blur", "id": "b", "deviation": 0},
                step | {"id": "s", "limits": [box]},
            ]
            got = _own(small(bolt_layer(boil=0, steps=chain)), "bolt")
            np.testing.assert_array_equal(got[:, :280], plain[:, :280])


class Time(TestCase):
    def setUp(self) -> None:
        self.layer = bolt_layer(boil={"moves": "rate", "start": 0, "per_second": 3})
        self.plain = small(self.layer)

    def _with(self, **step: Any) -> Recipe:
        return small(self.layer | {"steps": [{"id": "t"} | step]})

    def test_one_moment_for_another(self) -> None:
        """Hold, reverse and offset show the layer as it is at the frame they speak of."""
        for step, frame, shown in (
            ({"kind": "hold", "every": 4}, 12, 9),
            ({"kind": "hold", "every": 2.5}, 4, 3.5),
            ({"kind": "reverse"}, 12, 39),
            ({"kind": "offset", "frames": -5}, 12, 7),
        ):
            np.testing.assert_array_equal(
                _own(self._with(**step), "bolt", frame), _own(self.plain, "bolt", shown)
            )

    def test_nothing_outside_its_frames(self) -> None:
        """Before its first frame the layer is not there, also for a step that looks back."""
        self.assertFalse(_own(self._with(kind="offset", frames=-20), "bolt", 3).any())

    def test_trail(self) -> None:
        """Definition: the sum, or the brightest, of earlier moments, each fainter by the fade."""
        moments = [_own(self.plain, "bolt", 20 - 2 * i) * 0.5**i for i in range(4)]
        for mix, wanted in (("add", np.sum(moments, 0)), ("lighten", np.max(moments, 0))):
            step = {"kind": "trail", "count": 3, "every": 2, "fade": 50, "mix": mix}
            got = _own(self._with(**step), "bolt", 20)
            np.testing.assert_allclose(got[..., :3], wanted[..., :3], rtol=1e-5, atol=1e-6)

    def test_trail_of_what_hides(self) -> None:
        """Cover adds up to all of it and no more, and each px stays its own."""
        covers = {"kind": "cover from light", "id": "c"}
        trail = {"kind": "trail", "id": "t", "count": 3, "every": 2, "fade": 70, "mix": "add"}
        plain = self._with(**covers)
        moments = [_own(plain, "bolt", 20 - 2 * i) * np.float32(0.7) ** i for i in range(4)]
        wanted = np.sum(moments, 0)
        self.assertGreater(float(wanted[..., 3].max()), 1.2)
        wanted[..., 3] = np.minimum(1, wanted[..., 3])
        got = _own(small(self.layer | {"steps": [covers, trail]}), "bolt", 20)
        np.testing.assert_allclose(got, wanted, rtol=1e-5, atol=1e-6)

    def test_shutter(self) -> None:
        """The mean in linear light of pictures spread evenly over the time it is open."""
        layer = self.layer | {"shutter": {"angle": 180, "samples": 4}}
        moments = [20 + 0.5 * ((i + 0.5) / 4 - 0.5) for i in range(4)]
        wanted = np.mean([_own(self.plain, "bolt", moment) for moment in moments], 0)
        np.testing.assert_allclose(_own(small(layer), "bolt", 20), wanted, atol=1e-6)

    def test_even_from_the_first_frame_to_the_last(self) -> None:
        """What shows on a frame does so for as long as its shutter is open: in a group, and driven
        by a life, of the shot and of a layer within it; and a loop looks round."""
        beam = {
            "kind": "beam",
            "start": [20, 60],
            "end": [300, 60],
            "uneven": 0,
            "flicker": 0,
            "rough": 0,
        }
        canvas = {"width": 320, "height": 120, "first": 1, "last": 10}
        for open_for in (180, 720):
            group = {
                "id": "g",
                "name": "g",
                "source": {"kind": "group"},
                "shutter": {"angle": open_for},
            }
            inner = {"id": "b", "name": "b", "source": beam, "within": "g"}
            driven = beam | {"core_light": {"moves": "life", "start": -10, "end": 2}}
            own = {"id": "d", "name": "d", "source": driven, "shutter": {"angle": open_for}}
            for layers, frames in (
                ([group, inner], (1, 5, 10)),
                ([group, inner | {"first": 3, "last": 6}], (3, 4, 6)),
                ([own], (1, 5, 10)),
                ([own | {"first": 3, "last": 6}], (3, 4, 6)),
            ):
                for loop in (0, 4):
                    recipe = small(*layers, canvas=canvas, loop=loop)
                    lights = [
                        float(render_frame(recipe, frame, 0.5)[..., 0].sum()) for frame in frames
                    ]
                    for light in lights:
                        self.assertAlmostEqual(light / lights[1], 1, delta=0.002)
            outside = small(group, inner | {"first": 3, "last": 6}, canvas=canvas)
            self.assertFalse(
                render_frame(outside, 2, 0.5).any() or render_frame(outside, 7, 0.5).any()
            )

    def test_a_life_that_overshoots(self) -> None:
        """Cover stays within 0 to 1 and light at least nothing, whatever the ease; light may shine
        above full on the way."""
        layer = _full(life={"rise": 10, "ease": [0.34, 1.56, 0.64, 1]})
        steady = render_frame(small(_full()), 30, 0.5)
        peaks = []
        for blend in blends():
            for ease in ([0.34, 1.56, 0.64, 1], [0.3, 3, 0.7, 3], [0.3, -3, 0.7, 1]):
                recipe = small(
                    bolt_layer("under"),
                    layer | {"blend": blend, "life": layer["life"] | {"ease": ease}},
                )
                for frame in (2, 4, 7, 9):
                    picture = render_frame(recipe, frame, 0.5)
                    self.assertTrue(((picture[..., 3] >= 0) & (picture[..., 3] <= 1)).all(), blend)
                    self.assertGreaterEqual(float(picture.min()), 0, blend)
                    if blend == "add":
                        peaks.append(float(picture[..., 1].max() / steady[..., 1].max()))
        self.assertGreater(max(peaks), 1.5)

    def test_still_shutter_costs_nothing(self) -> None:
        """A layer that does not move is drawn once, however many samples there are."""
        still = bolt_layer(boil=0) | {"shutter": {"angle": 360, "samples": 64}}
        self.assertEqual(plan(small(still), 5).key, plan(small(bolt_layer(boil=0)), 5).key)


class Fused(TestCase):
    def test_pointwise_steps_in_a_row_are_one_node(self) -> None:
        """However many there are, unless a limit parts them."""

        def depth(*steps: dict[str, Any]) -> int:
            chain = [step | {"id": str(i)} for i, step in enumerate(steps)]
            node, deep = plan(small(bolt_layer(steps=chain)), 1, 1.0, "bolt"), 0
            while node.inputs:
                node, deep = node.inputs[0], deep + 1
            return deep

        up, hue = {"kind": "exposure"}, {"kind": "hue"}
        self.assertEqual(depth(up, hue, up, {"kind": "grain"}), depth(up))
        self.assertGreater(depth(up, up | {"limits": [{"kind": "ellipse"}]}, up), depth(up))


class Twice(TestCase):
    def test_nothing_is_computed_twice_in_a_frame(self) -> None:
        """A layer that three others are made from is drawn once, with no cache at all."""
        drawn: list[int] = []
        recipe = small(bolt_layer(), *(_copy(seed=0) | {"id": f"c{i}"} for i in range(3)))
        node = plan(recipe, 1)

        def counted(each: Any) -> Any:
            def compute(tiles: Any) -> Any:
                drawn.append(not each.inputs)
                return each.compute(tiles)

            return each._replace(inputs=tuple(map(counted, each.inputs)), compute=compute)

        evaluate(counted(node), Cache(0))
        self.assertEqual(sum(drawn), 1)


class Edges(TestCase):
    def test_no_step_shows_the_edge_of_a_layer(self) -> None:
        """On a canvas that a bolt leaves, each step gives what it gives on a larger one, where the
        same bolt is whole. A few px in a thousand may differ where samples lie otherwise, or where
        of two nearest px either will do."""
        for step in (
            {"kind": "blur", "deviation": 14},
            {"kind": "directional", "length": 90, "direction": 30},
            {"kind": "zoom", "amount": 40, "centre": [160, 90]},
            {"kind": "spin", "angle": 40, "centre": [160, 90]},
            {"kind": "defocus", "radius": 14},
            {"kind": "sharpen", "size": 6},
            {"kind": "warp", "amount": 60, "size": 90},
            {"kind": "place", "turn": 35, "across": 60, "down": 60, "pivot": [160, 90]},
            {"kind": "shake", "across": 60, "down": 60, "turn": 30, "pivot": [160, 90]},
            {"kind": "edge band", "width": 12},
            {"kind": "grow", "distance": 9},
            {"kind": "rays", "centre": [300, 20]},
            GLOW,
        ):
            bolt = bolt_layer(
                start=[20, 30], end=[520, 240], width=10, boil=0, branches=3, core_light=0,
                steps=[step | {"id": "s"}],
            )  # fmt: skip
            large = {"width": 640, "height": 360, "rate": 25, "first": 1, "last": 50}
            with self.subTest(step=step["kind"]):
                near = _own(small(bolt), "bolt")
                far = _own(small(bolt, canvas=large), "bolt")[:180, :320]
                self.assertGreater(float(near.max()), 0.01)
                differs = np.abs(near - far) > 4e-3
                self.assertLess(float(differs.mean()), 4e-3)
