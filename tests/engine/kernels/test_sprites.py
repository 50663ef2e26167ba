"""Sprites: where they are, how large and how bright, whatever their size and turn."""

import math
from typing import Any
from unittest import TestCase

import cv2
import numpy as np

from handful.engine.kernels.drawing.sheets import Album, album_of, sheet_of, sheet_of_figures
from handful.engine.kernels.drawing.sprites import draw_album, draw_sprites
from handful.engine.picture import Region

REGION = Region(-20, 10, 200, 170)


def sprite(
    half: float = 32.0, turn: float = 0.0, cover: float = 0.0, light: float = 1.0
) -> np.ndarray:
    """One in the middle of px at (90, 90)."""
    row = [90, 90, half, half, math.cos(turn), math.sin(turn), 0, light, light, light, cover, 0]
    return np.array([row], np.float32)


def everywhere(one: np.ndarray) -> np.ndarray:
    """A sprite at sixteen places within a px, far from one another: the mean is what counts."""
    many = np.repeat(one, 16, axis=0)
    many[:, 0] += np.arange(16) % 4 * 0.25
    many[:, 1] += np.arange(16) // 4 * 0.25
    return many


def drawn(sheet: Any, sprites: np.ndarray, over: bool = False) -> np.ndarray:
    if isinstance(sheet, Album):
        return draw_album(sheet, sprites, REGION, over).within(REGION)
    return draw_sprites(sheet, sprites, REGION, (0.0, -1.0), over).within(REGION)


def coloured() -> np.ndarray:
    """A picture of 64 x 64 px, smooth, of three colours and with a soft edge."""
    steps = (np.arange(64) + 0.5) / 32 - 1
    across, down = np.meshgrid(steps, steps)
    cover = np.clip(4 - 4 * np.hypot(across, down), 0, 1)
    light = np.stack([1 + across, 1 + down, 1.5 - across], axis=2) * cover[..., None]
    return np.concatenate([light, cover[..., None]], axis=2).astype(np.float32)


class Albums(TestCase):
    def test_a_picture_in_its_own_size(self) -> None:
        """Is that picture, px for px."""
        found = drawn(album_of([coloured()]), sprite(cover=1))
        np.testing.assert_allclose(found[48:112, 78:142], coloured(), atol=1e-5)
        self.assertAlmostEqual(float(found.sum()), float(coloured().sum()), delta=0.1)

    def test_turned(self) -> None:
        """By a quarter, clockwise as angles go down the screen; and by another as OpenCV turns it."""
        found = drawn(album_of([coloured()]), sprite(turn=math.pi / 2, cover=1))
        np.testing.assert_allclose(found[48:112, 78:142], np.rot90(coloured(), -1), atol=1e-4)
        found = drawn(album_of([coloured()]), sprite(turn=0.4, cover=1))[48:112, 78:142]
        about = cv2.getRotationMatrix2D((31.5, 31.5), -math.degrees(0.4), 1)
        wanted = cv2.warpAffine(coloured(), about, (64, 64), flags=cv2.INTER_LINEAR)
        self.assertLess(np.abs(found - wanted).max(), 0.06)

    def test_whole_up_to_its_corners(self) -> None:
        """Definition: straight between its px and one of nothing round it, at every px, however it is turned."""
        album = album_of([np.ones((64, 64, 4), np.float32)])
        for half, turn in ((30.0, 0.0), (30.0, math.pi / 4), (55.0, 0.3), (55.0, math.pi / 4)):
            side = next(int(side) for side in album.sides if side <= 2.5 * half)
            found = drawn(album, sprite(half=half, turn=turn, cover=1))[..., 3]
            rows, columns = np.indices(found.shape, np.float64) + 0.5
            dx, dy = columns + REGION.left - 90, rows + REGION.top - 90
            across = math.cos(turn) * dx + math.sin(turn) * dy
            down = math.cos(turn) * dy - math.sin(turn) * dx
            # Half a square beyond the outermost px it is gone.
            edges = [
                np.clip(side / 2 * (1 - np.abs(way) / half) + 0.5, 0, 1) for way in (across, down)
            ]
            np.testing.assert_allclose(found, edges[0] * edges[1], atol=3e-3)

    def test_light_at_any_size(self) -> None:
        """As much as its area says, down to far below a px."""
        album = album_of([coloured()])
        whole = coloured().sum(axis=(0, 1))[:3]
        for half in (60.0, 21.0, 7.0, 2.0, 0.5, 0.1):
            found = drawn(album, everywhere(sprite(half=half, light=0.5))).sum(axis=(0, 1))[:3] / 16
            with self.subTest(half=half):
                np.testing.assert_allclose(found / (0.5 * whole * (half / 32) ** 2), 1, atol=0.05)

    def test_over(self) -> None:
        """One that covers hides what is behind it; added up it does not."""
        album, pair = album_of([coloured()]), np.concatenate([sprite(cover=1), sprite(cover=1)])
        over, added = drawn(album, pair, over=True), drawn(album, pair)
        np.testing.assert_allclose(over[80, 110, :3], coloured()[32, 32, :3], rtol=1e-4)
        np.testing.assert_allclose(added[80, 110, :3], 2 * coloured()[32, 32, :3], rtol=1e-4)

    def test_an_oblong(self) -> None:
        """Lies in the middle of a square, as long as that; of none nothing is left."""
        album = album_of([np.ones((16, 64, 4), np.float32)])
        found = drawn(album, sprite(half=32, cover=1))[..., 3]
        rows, columns = (
            np.flatnonzero(found.max(axis=1) > 0.5),
            np.flatnonzero(found.max(axis=0) > 0.5),
        )
        self.assertEqual((len(rows), len(columns)), (16, 64))
        self.assertEqual(album_of([]).pages, 0)


class Shapes(TestCase):
    def test_all_of_a_shape_is_drawn(self) -> None:
        """As much light as its cover has area, for every kind of every shape, at sizes between."""
        for name in ("a puff", "a shard", "a ring", "a glint"):
            sheet = sheet_of(name)
            side = sheet.sides[0]
            for kind in range(6):
                begins = sheet.starts[0] + kind * (side + 1) ** 2
                area = float(sheet.texels[begins : begins + (side + 1) ** 2, 0].sum()) / side**2
                for half in (40.0, 17.0, 3.0, 0.4):
                    one = sprite(half=half)
                    one[0, 6] = kind
                    found = float(drawn(sheet, everywhere(one))[..., 0].sum()) / 16
                    with self.subTest(shape=name, kind=kind, half=half):
                        self.assertAlmostEqual(found / (area * 4 * half**2), 1, delta=0.12)

    def test_nothing_beyond_its_reach(self) -> None:
        """Every square of a shape that holds anything lies within what is said of its size, and the
        farthest touches it."""
        for name in ("a puff", "a shard", "a ring", "a glint"):
            sheet = sheet_of(name)
            for level, side in enumerate(sheet.sides):
                # The lines between squares, in halves of a side from the middle.
                lines = (np.arange(-1, side + 1) + 0.5) / side * 2 - 1
                corners = np.hypot(*np.meshgrid(lines, lines))
                far = np.max(
                    [corners[:-1, :-1], corners[:-1, 1:], corners[1:, :-1], corners[1:, 1:]], 0
                )
                for kind in range(6):
                    begins = sheet.starts[level] + kind * (side + 1) ** 2
                    squares = sheet.texels[begins : begins + (side + 1) ** 2, :4]
                    holds = squares.any(axis=1).reshape(side + 1, side + 1)
                    with self.subTest(shape=name, side=side, kind=kind):
                        reach = float(sheet.reaches[level, kind])
                        self.assertAlmostEqual(float(far[holds].max()), reach, places=5)

    def test_figures(self) -> None:
        """Each is what is asked for, in a circle and on one line with the others: a full stop lies low, a
        quotation mark high, and a space is nothing."""
        figures = "8.' W"
        sheet = sheet_of_figures(figures)
        side = int(sheet.sides[0])
        covers = [
            sheet.texels[begins : begins + (side + 1) ** 2, 0].reshape(side + 1, side + 1)
            for begins in range(0, len(figures) * (side + 1) ** 2, (side + 1) ** 2)
        ]
        eight, stop, quote, space, wide = covers
        rows = np.arange(side + 1)
        low, high = (float((each.sum(axis=1) * rows).sum() / each.sum()) for each in (stop, quote))
        self.assertGreater(low, high + side / 4)
        self.assertEqual(float(space.max()), 0)
        self.assertGreater(eight.sum(), 2 * stop.sum())
        self.assertGreater(
            np.ptp(np.flatnonzero(wide.any(axis=0))), np.ptp(np.flatnonzero(eight.any(axis=0)))
        )
        # What has a part of a px counts up to the corners of the px round it.
        beyond = 2 * 2**0.5 * 2 / side
        self.assertLessEqual(float(sheet.reaches[0].max()), 0.98 + beyond)
        self.assertGreater(float(sheet.reaches[0].max()), 0.8)
        # An eight has two holes: what is not it falls into three parts.
        count, _ = cv2.connectedComponents((eight < 0.5).astype(np.uint8), connectivity=4)
        self.assertEqual(count - 1, 3)

    def test_lit_from_where_light_comes(self) -> None:
        """A puff is brighter on the side of the light, however it is turned."""
        for turn in (0.0, 2.0, 4.0):
            one = sprite(half=40, turn=turn)
            one[0, 11] = 1
            light = drawn(sheet_of("a puff"), one)[..., 0]
            plain = drawn(sheet_of("a puff"), sprite(half=40, turn=turn))[..., 0]
            upper, lower = (
                light[rows].sum() / plain[rows].sum() for rows in (slice(40, 80), slice(80, 120))
            )
            self.assertGreater(upper, 1.3 * lower)
