"""What sources with memory have gone through already, told by frames."""

import tempfile
from pathlib import Path
from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine import Recipe, render_frame
from handful.engine.render import Cache, Lasting, Stopped, evaluate, plan, remembered, standing_in
from tests.engine.recipes import bolt_layer, small

POND: dict[str, Any] = {
    "id": "pond", "name": "Pond",
    "source": {"kind": "ripples", "width": 300, "height": 160, "at": [160, 90], "detail": 40, "preroll": 0.2, "comes_as": "light"},
}  # fmt: skip


def frames_known(recipe: Recipe, cache: Cache, last: int = 50) -> list[int]:
    """Those of the shot's frames."""
    return [
        frame for frame in remembered(plan(recipe, last, 0.1), cache, last).frames if frame >= 1
    ]


class Frames(TestCase):
    def test_up_to_the_frame_that_was_drawn(self) -> None:
        """At any size, and again after more; nothing at first. Of the states the preroll's count too."""
        cache, recipe = Cache(1 << 28), small(POND)
        self.assertEqual(remembered(plan(recipe, 50, 0.1), cache, 50), ((), 0, 55))
        render_frame(recipe, 7, 0.5, cache)
        self.assertEqual(frames_known(recipe, cache), list(range(1, 8)))
        self.assertEqual(remembered(plan(recipe, 50, 0.1), cache, 50).known, 12)
        render_frame(recipe, 9, 1.0, cache)
        self.assertEqual(frames_known(recipe, cache), list(range(1, 10)))

    def test_all_that_has_a_memory(self) -> None:
        """A frame is known once each layer knows it; a copy that is ahead goes through more for it."""
        cache = Cache(1 << 28)
        ahead = {
            "id": "copy",
            "name": "C",
            "source": {"kind": "copy", "of": "pond", "ahead": 4, "seed": 0},
        }
        other = POND | {"id": "other", "source": POND["source"] | {"seed": 5}}
        render_frame(small(POND), 9, 0.5, cache)
        self.assertEqual(frames_known(small(POND, other), cache), [])
        self.assertEqual(frames_known(small(POND, ahead), cache), [1, 2, 3, 4, 5])

    def test_what_has_no_memory(self) -> None:
        cache = Cache(1 << 28)
        self.assertEqual(remembered(plan(small(bolt_layer()), 20, 0.1), cache, 20), ((), 0, 0))

    def test_on_disk(self) -> None:
        """A process that starts again knows the tenth ones."""
        with tempfile.TemporaryDirectory() as folder:
            recipe = small(POND | {"source": POND["source"] | {"preroll": 0}})
            render_frame(recipe, 25, 0.5, Cache(1 << 28, Lasting(Path(folder), 1 << 28)))
            again = Cache(1 << 28, Lasting(Path(folder), 1 << 28))
            self.assertEqual(frames_known(recipe, again), [11, 21])


class StandingIn(TestCase):
    def stands(self, recipe: Recipe, frame: int, cache: Cache) -> tuple[np.ndarray, int] | None:
        node = plan(recipe, frame, 0.5)
        found = standing_in([node], cache)
        return found and (evaluate(node, found[0]).pixels, found[1])

    def test_the_last_that_is_known(self) -> None:
        """It is the picture of that state, and it is not kept as the one that was wanted."""
        cache, recipe = Cache(1 << 28), small(POND)
        self.assertIsNone(self.stands(recipe, 30, cache))
        earlier = render_frame(recipe, 12, 0.5, cache)
        for _ in range(2):
            found = self.stands(recipe, 30, cache)
            assert found is not None
            self.assertEqual(found[1], 12)
            np.testing.assert_array_equal(found[0], earlier)
        wanted = render_frame(recipe, 30, 0.5, cache)
        np.testing.assert_array_equal(wanted, render_frame(recipe, 30, 0.5))
        self.assertFalse(np.array_equal(wanted, earlier))

    def test_before_the_shot(self) -> None:
        """Of what goes on before the first frame as well."""
        cache, recipe = Cache(1 << 28), small(POND)
        longer = small(POND | {"source": POND["source"] | {"preroll": 0.4}})
        render_frame(recipe, 1, 0.5, cache)
        self.assertIsNone(self.stands(longer, 1, cache), "another source has another past")
        stopped = iter([False] * 8 + [True])
        with self.assertRaises(Stopped):
            evaluate(plan(longer, 5, 0.5), cache, lambda: next(stopped))
        found = self.stands(longer, 5, cache)
        assert found is not None
        self.assertLess(found[1], 1)

    def test_of_several_the_earliest(self) -> None:
        """Each is shown of its own last state; the frame that is told is the one farthest back."""
        cache = Cache(1 << 28)
        other = POND | {"id": "other", "source": POND["source"] | {"seed": 5}}
        render_frame(small(POND), 12, 0.5, cache)
        self.assertIsNone(self.stands(small(POND, other), 30, cache))
        render_frame(small(other), 6, 0.5, cache)
        found = self.stands(small(POND, other), 30, cache)
        assert found is not None
        self.assertEqual(found[1], 6)
        apart = render_frame(small(POND), 12, 0.5) + render_frame(small(other), 6, 0.5)
        np.testing.assert_allclose(found[0][..., :3], apart[..., :3], rtol=1e-4, atol=1e-5)

    def test_where_nothing_is_missing(self) -> None:
        cache, recipe = Cache(1 << 28), small(POND)
        render_frame(recipe, 12, 0.5, cache)
        self.assertIsNone(self.stands(recipe, 12, cache))
