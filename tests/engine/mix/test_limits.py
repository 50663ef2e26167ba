"""What limits do to a picture, wherever its tiles lie, and shapes at every scale."""

from unittest import TestCase, mock

import numpy as np

from handful.engine import render_frame
from handful.engine.kinds import At, Limit
from handful.engine.limits.ellipse import Ellipse
from handful.engine.limits.outline import Outline
from handful.engine.limits.rectangle import Rectangle
from handful.engine.mix import limited
from handful.engine.named import Path
from handful.engine.named.path import Vertex
from handful.engine.picture import Region, Tile
from handful.engine.values import Point
from tests.engine.recipes import as_it_comes, bolt_layer, small


class Limited(TestCase):
    def test_tiles_that_lie_apart(self) -> None:
        """A matte that begins elsewhere than the picture still goes with the px that it is for, with an
        outside that begins elsewhere again."""
        everywhere = Region(-7, 3, 43, 33)
        random = np.random.default_rng(4)
        matte = Tile(random.random((30, 50), np.float32), everywhere)
        inside = Tile(random.random((12, 20, 4), np.float32), Region(5, 9, 25, 21))
        outside = Tile(random.random((18, 16, 4), np.float32), Region(-2, 5, 14, 23))
        for below in (None, outside):
            got = limited(inside, matte, below).within(everywhere)
            kept = 0 if below is None else below.within(everywhere)
            share = matte.pixels[..., None]
            wanted = inside.within(everywhere) * share + kept * (1 - share)
            np.testing.assert_allclose(got, wanted, atol=1e-6)

    def test_heights_and_offsets(self) -> None:
        """Of one or two channels, as pictures of four."""
        region = Region(0, 0, 9, 7)
        random = np.random.default_rng(5)
        matte = Tile(random.random((7, 9), np.float32), region)
        for shape in ((7, 9), (7, 9, 2)):
            pixels = random.normal(0, 9, shape).astype(np.float32)
            share = matte.pixels if len(shape) == 2 else matte.pixels[..., None]
            got = limited(Tile(pixels, region), matte)
            np.testing.assert_allclose(got.within(region), pixels * share, atol=1e-5)


class Shapes(TestCase):
    def test_a_rectangle_is_as_wide_and_high_as_it_says(self) -> None:
        """By the area that it covers and by its middle row and column, at every scale."""
        limit = as_it_comes(Rectangle, centre=Point(100, 60), width=80.0, height=30.0, feather=0.0)
        for scale in (1.0, 0.5, 2.0):
            region = Region(0, 0, round(200 * scale), round(120 * scale))
            cover = limit.coverage(region, At(region, scale, (), region))
            self.assertAlmostEqual(float(cover.sum()), 80 * 30 * scale**2, delta=0.01)
            self.assertAlmostEqual(float(cover[round(60 * scale)].sum()), 80 * scale, delta=0.01)
            self.assertAlmostEqual(
                float(cover[:, round(100 * scale)].sum()), 30 * scale, delta=0.01
            )


class Extents(TestCase):
    def test_a_rectangle_ends_at_its_corners(self) -> None:
        """However it is turned it is within the circle through them: 3, 4, 5."""
        for turn in (0.0, 37.0):
            limit = as_it_comes(
                Rectangle, centre=Point(100, 60), width=60.0, height=80.0, turn=turn, feather=0.0
            )
            everywhere = Region(0, 0, 200, 120)
            self.assertEqual(
                limit.extent(At(everywhere, 1.0, (), everywhere)), Region(50, 10, 150, 110)
            )

    def test_what_is_left_out_shows_nowhere(self) -> None:
        """With limits that tell where they end, a layer is the picture that it is without being told."""
        ellipse = {"kind": "ellipse", "centre": [150, 80], "width": 90, "height": 60, "feather": 12}
        glow = {"kind": "glow", "id": "glow"}
        cases = [
            [ellipse],
            [ellipse | {"turn": 40}, {"kind": "rectangle", "centre": [120, 90], "width": 80, "height": 50}],
            [ellipse, ellipse | {"joins": "add", "centre": [40, 40]}],
            [ellipse | {"inverted": True}],
        ]  # fmt: skip
        for limits in cases:
            recipe = small(bolt_layer(steps=[glow], boil=0) | {"limits": limits})
            told = render_frame(recipe, 1)
            with mock.patch.object(Rectangle, "bounds", return_value=None):
                untold = render_frame(recipe, 1)
            with self.subTest(limits=limits):
                self.assertGreater(told.max(), 0.1)
                np.testing.assert_allclose(told, untold, atol=1e-5)

    def test_nothing_is_beyond_the_bounds(self) -> None:
        """Of each shape at every scale, soft or hard: all that it covers lies within the bounds that it tells,
        and those are not much larger than what it covers."""
        none = Point(0, 0)
        corners = tuple(
            Vertex(at=Point(x, y), arriving=none, leaving=none)
            for x, y in ((30, 20), (150, 50), (90, 110))
        )
        path = Path(vertices=corners, closed=True)
        shapes: list[Limit] = [
            as_it_comes(
                Rectangle, centre=Point(90, 60), width=80.0, height=30.0, feather=12.0, turn=30.0
            ),
            as_it_comes(Ellipse, centre=Point(90, 60), width=80.0, height=30.0, feather=0.0),
            as_it_comes(Outline, path=path, feather=12.0),
        ]
        for limit in shapes:
            for scale in (1.0, 0.5, 2.0):
                region = Region(0, 0, round(200 * scale), round(140 * scale)).grown(60)
                at = At(region, scale, (), region)
                bounds = limit.bounds(at)
                assert bounds is not None
                there = np.argwhere(limit.draw(at) > 1e-4)
                top, left = there.min(axis=0) - 60
                bottom, right = there.max(axis=0) - 59
                found = Region(int(left), int(top), int(right), int(bottom))
                self.assertEqual(found.meet(bounds), found)
                self.assertLess(bounds.width, found.width + 60 * scale + 12)
                self.assertLess(bounds.height, found.height + 100 * scale + 12)
