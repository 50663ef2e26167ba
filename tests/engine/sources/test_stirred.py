"""Particles that are stirred, drawn and walled in, and those born of other layers."""

import os
from typing import Any
from unittest import TestCase, mock

import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.recipe import RecipeError
from handful.engine.render.cache import Cache
from handful.engine.sources.particles import flock
from handful.engine.sources.particles.flights import BY_STEPS, Flight
from handful.engine.sources.particles.looks import Look
from handful.engine.sources.particles.overs import Overs
from handful.engine.sources.particles.particles import Particles
from handful.engine.sources.particles.sheds import Shed
from handful.engine.sources.particles.sights import Sight
from tests.engine.counted import Counted
from tests.engine.recipes import small

CARD = {
    "id": "card", "name": "Card", "on": False,
    "source": {"kind": "noise", "comes_as": "cover", "brightness": 100},
    "limits": [{"kind": "rectangle", "centre": [220, 90], "width": 40, "height": 60, "feather": 0}],
}  # fmt: skip


LINE = {"name": "line", "vertices": [{"at": [260, 0]}, {"at": [260, 180]}], "closed": False}
EYE = {"name": "eye", "pan": {"moves": "rate", "start": 0, "per_second": 9}}


def recipe(*more: dict[str, Any], **settings: Any) -> Recipe:
    source = {
        "kind": "particles", "at": [100, 90], "speed": 90, "rate": 120, "life": 2, "gravity": [0, 200],
        "cone": 200, "size": 4, **settings,
    }  # fmt: skip
    return small(
        {"id": "p", "name": "P", "source": source, "steps": []}, *more, paths=[LINE], cameras=[EYE]
    )


def middle(picture: np.ndarray) -> tuple[float, float]:
    light = picture[..., 0]
    across, down = np.meshgrid(np.arange(light.shape[1]), np.arange(light.shape[0]))
    return float((light * across).sum() / light.sum()), float((light * down).sum() / light.sum())


class Memory(TestCase):
    def test_the_same_however_one_comes_to_it(self) -> None:
        """To the bit: at once, frame by frame, back and forth, on one thread, and between frames."""
        made = recipe(
            CARD, stir=150, drag=2, walls="card", preroll=0.4, burst=20, gusts=60, wind=[40, 0]
        )
        wanted = render_frame(made, 12)
        for way in ([12], range(1, 13), [20, 3, 12]):
            cache = Cache(1 << 28)
            for frame in way:
                render_frame(made, frame, 1.0, cache)
            np.testing.assert_array_equal(render_frame(made, 12, 1.0, cache), wanted)
        with mock.patch.dict(os.environ, HANDFUL_THREADS="1"):
            np.testing.assert_array_equal(render_frame(made, 12), wanted)
        late, after = render_frame(made, 12.8), render_frame(made, 13)
        self.assertLess(np.abs(late - after).mean(), 0.6 * np.abs(wanted - after).mean())

    def test_a_state_knows_no_look(self) -> None:
        """Where more are alive than are seen with ribbons, it is the same whether they were stepped with or without."""
        plain, ribbons = (recipe(stir=150, rate=900, ribbon=ribbon) for ribbon in (0, 0.3))
        with mock.patch.object(flock, "MOST_ALIVE", 650):
            wanted = render_frame(ribbons, 12)
            cache = Cache(1 << 28)
            render_frame(plain, 12, 1.0, cache)
            np.testing.assert_array_equal(render_frame(ribbons, 12, 1.0, cache), wanted)
            again = Cache(1 << 28)
            render_frame(ribbons, 12, 1.0, again)
            alone = render_frame(plain, 12)
            np.testing.assert_array_equal(render_frame(plain, 12, 1.0, again), alone)

    def test_looks_find_the_state(self) -> None:
        """Whatever is declared to be of the look steps nothing again, and all else does."""
        cache = Cache(1 << 28)
        with Counted(Particles) as first:
            render_frame(recipe(stir=150), 9, 1.0, cache)
        self.assertEqual(first.frames, 8)
        flown = {"sway", "flutter", "flutter_pace", "deep", "shed_size"}
        looks = flown.union(*(part.__annotations__ for part in (Look, Overs, Sight)))
        self.assertEqual({known.name for known in Particles.settings if known.look}, looks)
        with Counted(Particles) as again:
            for name in sorted(looks - {"sway", "pictured"}):
                known = next(each for each in Particles.settings if each.name == name)
                value: Any = "eye" if name == "camera" else known.choices[-2] if known.choices else "7" if known.type == "words" else [{}] if known.type == "pieces" else True if known.type == "switch" else [9, 9] if known.type == "point" else "#00ff00" if known.type == "colour" else known.usual[1] if known.usual else 77  # fmt: skip
                render_frame(recipe(stir=150, **{name: value}), 9, 1.0, cache)
            render_frame(recipe(stir=150), 9, 0.5, cache)
        self.assertEqual(again.frames, 0)
        with Counted(Particles) as moved:
            render_frame(recipe(stir=151), 9, 1.0, cache)
        self.assertEqual(moved.frames, 8)

    def test_steps_are_asked_for_only_where_they_must(self) -> None:
        """Each setting that needs them brings them about, and where it does nothing the picture is that of
        the closed form: the same ones are born at the same moments, and fly as they did."""
        plain = recipe(
            floor=150, lands="bounce on a floor", drag=0.7, inherits=50, preroll=0.4, burst=9
        )
        with Counted(Particles) as closed:
            wanted = render_frame(plain, 15)
        self.assertEqual(closed.frames, 0)
        for name in BY_STEPS:
            value = "card" if name == "walls" else 0.001 if name == "drag_fast" else 15
            with self.subTest(setting=name), Counted(Particles) as stepped:
                render_frame(recipe(CARD, **{name: value}), 3, 0.25)
            self.assertEqual(stepped.frames, 2)
        again = recipe(
            floor=150,
            lands="bounce on a floor",
            drag=0.7,
            inherits=50,
            preroll=0.4,
            burst=9,
            gusts=1e-6,
        )
        found = render_frame(again, 15)
        self.assertLess(np.abs(found - wanted).mean(), 0.01 * wanted.mean())

    def test_a_moving_emitter_leaves_no_gaps(self) -> None:
        """Stepped as in closed form: births lie all along the way of a frame."""
        at = {"moves": "keys", "keys": [{"frame": 1, "value": [10, 90]}, {"frame": 2, "value": [310, 90]}]}  # fmt: skip
        still = {"speed": 0, "gravity": [0, 0], "rate": 4000, "streak": 0, "size": 3, "comes": 0, "drag": 0}  # fmt: skip
        closed, stepped = (
            render_frame(recipe(at=at, **still, **more), 2)[85:95, 20:300, 0].sum(axis=0)
            for more in ({}, {"gusts": 1e-6})
        )
        self.assertGreater(stepped.min(), 0)
        np.testing.assert_allclose(stepped, closed, atol=1e-3 * closed.max())


class Ways(TestCase):
    def test_what_draws_gathers(self) -> None:
        """To a point, to a line, to a layer; and where it swallows, none is left there."""
        settings = {
            "gravity": [0, 0],
            "drag": 3,
            "speed": 60,
            "life": 6,
            "life_uneven": 0,
            "preroll": 1,
        }
        for more in ({"draws_at": [260, 90]}, {"draws": "a line", "draws_path": "line"}, {"draws": "a layer", "draws_of": "card"}):  # fmt: skip
            made = recipe(CARD, **settings, **more, pull=900, reach=60)
            with self.subTest(**more):
                self.assertGreater(middle(render_frame(made, 40))[0], 180)
        drawn = {**settings, "draws_at": [260, 90], "pull": 900, "reach": 60}
        free, gone = (
            render_frame(recipe(**drawn, swallows=by), 50)[70:110, 240:280, 0].sum()
            for by in (0, 30)
        )
        self.assertLess(gone, 0.3 * free)

    def test_stirred_air_carries_what_it_holds(self) -> None:
        """What air does not hold it does not carry."""
        calm, loose = (render_frame(recipe(stir=stir, drag=0), 15) for stir in (0, 400))
        self.assertLess(np.abs(calm - loose).mean(), 0.01 * calm.mean())
        calm, held = (render_frame(recipe(stir=stir, drag=8), 15) for stir in (0, 400))
        self.assertGreater(np.abs(calm - held).mean(), 0.5 * calm.mean())

    def test_walls_keep_out(self) -> None:
        """Nothing shows within a card that nothing passes; without it something does."""
        inside = slice(64, 116), slice(204, 236)
        settings = {"at": [60, 90], "speed": 300, "direction": 0, "cone": 40, "gravity": [0, 0], "size": 1, "streak": 0}  # fmt: skip
        free, walled = (
            render_frame(recipe(CARD, **settings, walls=walls), 20) for walls in ("", "card")
        )
        self.assertGreater(free[inside].sum(), 1)
        self.assertEqual(walled[inside].sum(), 0)


class TooLong(TestCase):
    def test_what_goes_before(self) -> None:
        """Minutes of steps before the first frame are told, with how long would do; without steps it is read."""
        settings = {"rate": 100_000, "life": 8, "preroll": 60}
        recipe(**settings)
        with self.assertRaises(RecipeError) as raised:
            recipe(**settings, stir=100)
        [problem] = raised.exception.problems
        self.assertEqual(problem.path, "layers[0].source.preroll")
        recipe(**settings | {"preroll": problem.nearest}, stir=100)


class OfLayers(TestCase):
    def test_where_they_are_born(self) -> None:
        """In a card, on its edge, by its light; none where there is nothing to be born of."""
        still = {
            "speed": 0,
            "gravity": [0, 0],
            "drag": 0,
            "rate": 3000,
            "size": 1,
            "streak": 0,
            "comes": 0,
        }
        body = slice(60, 120), slice(200, 240)
        core = slice(70, 110), slice(210, 230)
        for more in ({}, {"gusts": 1e-6}):
            with self.subTest(**more):
                cover = render_frame(recipe(CARD, **still, **more, born="in a layer", of="card"), 8)[..., 0]  # fmt: skip
                edge = render_frame(recipe(CARD, **still, **more, born="on the edge of a layer", of="card"), 8)[..., 0]  # fmt: skip
                self.assertGreater(cover[body].sum(), 0.93 * cover.sum())
                self.assertGreater(cover[core].sum(), 0.25 * cover.sum())
                self.assertEqual(edge[core].sum(), 0)
                self.assertGreater(edge.sum(), 0.5 * cover.sum())
                dark = CARD | {"source": {"kind": "noise", "comes_as": "cover", "brightness": -100}}
                nothing = render_frame(recipe(dark, **still, **more, born="in a layer", of="card", burst=5), 8)  # fmt: skip
                self.assertEqual(nothing.max(), 0)

    def test_coloured_as_where_they_are_born(self) -> None:
        """They keep the colour of the side of a card that they come from, wherever they go; what is born of no
        layer is white."""
        red = CARD | {
            "id": "red",
            "source": {
                "kind": "noise", "comes_as": "cover", "brightness": 100, "colour": "#ff0000"
            },
        }  # fmt: skip
        born = {"born": "in a layer", "of": "red", "glows": "as what it is born from, not in", "rate": 3000, "life_uneven": 0}  # fmt: skip
        for more in ({}, {"gusts": 1e-6}, {"sheds": 20.0}, {"sheds": 20.0, "gusts": 1e-6}):
            with self.subTest(**more):
                light = render_frame(recipe(red, **born, **more), 12)
                self.assertGreater(light[..., 0].sum(), 100)
                self.assertLess(light[..., 1].max(), 1e-6)
                plain = render_frame(recipe(red, **born | {"born": "in a box"}, **more), 12)
                np.testing.assert_array_equal(plain[..., 0], plain[..., 1])

    def test_some_stick(self) -> None:
        """On a floor those that stick stay where they come down, and the others do not."""
        falls = {"floor": 150, "lands": "bounce on a floor", "bounce": 0, "slide": 100, "speed": 0, "wind": [200, 0],
                 "drag": 2, "rate": 0, "burst": 400, "life": 9, "life_uneven": 0, "size": 2, "size_uneven": 0,
                 "goes": 0, "size_end": 100, "streak": 0}  # fmt: skip
        then, later = (
            render_frame(recipe(**falls, sticks=100), frame)[..., 0] for frame in (40, 48)
        )
        np.testing.assert_array_equal(then > 0, later > 0)
        half, all_of = (
            render_frame(recipe(**falls, sticks=sticks), 40)[..., 0] for sticks in (50, 100)
        )
        column = int(middle(render_frame(recipe(**falls, sticks=100), 40))[0])
        near = slice(column - 4, column + 5)
        self.assertAlmostEqual(float(half[:, near].sum() / all_of[:, near].sum()), 0.5, delta=0.1)

    def test_what_sticks_is_still(self) -> None:
        """A shape that spins and flutters as it falls does neither where it lies, from the step on in which it came down;
        in the air it still does."""
        falls = {"floor": 150, "lands": "bounce on a floor", "speed": 0, "rate": 0, "burst": 12, "life": 9, "life_uneven": 0,
                 "born": "on a line", "width": 260, "size": 14, "size_uneven": 0, "goes": 0, "size_end": 100, "streak": 0,
                 "light_uneven": 0, "look": "a shard", "spin": 300, "flutter": 20, "flutter_pace": 1, "gusts": 1e-6}  # fmt: skip
        then, later = (
            render_frame(recipe(**falls, sticks=100), frame, 1.0)[..., 0] for frame in (30, 38)
        )
        self.assertGreater(then.max(), 0)
        np.testing.assert_array_equal(then, later)
        loose = [render_frame(recipe(**falls, sticks=0), frame)[..., 0] for frame in (30, 38)]
        self.assertGreater(np.abs(loose[0] - loose[1]).max(), 0.1)

    def test_outwards_from_an_edge(self) -> None:
        """They leave it: later they are farther from its middle."""
        settings = {
            "born": "on the edge of a layer", "of": "card", "heads": "away from the middle, and",
            "direction": 0, "cone": 10, "speed": 40, "gravity": [0, 0], "rate": 0, "burst": 400, "drag": 0,
            "life": 9, "size": 1, "streak": 0,
        }  # fmt: skip
        spreads = []
        for frame in (2, 24):
            light = render_frame(recipe(CARD, **settings), frame)[..., 0]
            across, down = np.meshgrid(
                np.arange(light.shape[1]) - 220, np.arange(light.shape[0]) - 90
            )
            spreads.append(float((light * np.hypot(across, down)).sum() / light.sum()))
        self.assertAlmostEqual(spreads[1] - spreads[0], 0.7 * 40 * 22 / 25, delta=6)

    def test_it_says_what_it_declares(self) -> None:
        """Each that needs steps is a setting of flight, or of what is shed on its way."""
        known = set(Flight.__annotations__) | set(Shed.__annotations__)
        self.assertLessEqual(set(BY_STEPS), known)
