"""Px taken from elsewhere, against closed forms and numpy."""

from typing import Any
from unittest import TestCase

import cv2
import numpy as np

from handful.engine.kernels.forms.places import places_by, shifted, sized, turned, undone
from handful.engine.kernels.pixels.resample import Edge, resampled, sampled
from handful.engine.picture import Region, Tile

FIELD = Region(0, 0, 96, 64)


def _wave(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    return 2 + np.sin(x / 6) + np.cos(y / 7)


def _waves(region: Region = FIELD) -> Tile:
    y, x = np.mgrid[region.top : region.bottom, region.left : region.right] + 0.5
    return Tile(np.repeat(_wave(x, y)[..., None], 4, axis=2).astype(np.float32), region)


def _random() -> Tile:
    return Tile(np.random.default_rng(3).random((64, 96, 4), np.float32), FIELD)


class Taking(TestCase):
    def test_identity_and_whole_px(self) -> None:
        """Definition: the px itself to the bit where nothing moves, and moved px by whole px."""
        tile = _random()
        same = resampled(tile, places_by(np.eye(3), FIELD), FIELD, "clear", FIELD)
        np.testing.assert_array_equal(same.pixels, tile.pixels)
        moved = resampled(tile, places_by(shifted(-5.0, 3.0), FIELD), FIELD, "clear", FIELD)
        np.testing.assert_array_equal(moved.pixels[:61, 5:], tile.pixels[3:, :91])
        self.assertFalse(moved.pixels[61:].any() or moved.pixels[:, :5].any())

    def test_smooth_pictures(self) -> None:
        """Closed form: a wave taken between px is the wave there, within a thousandth."""
        matrix = shifted(3.3, -2.7) @ turned(20) @ sized(0.9, 0.8)
        region = Region(30, 20, 60, 40)
        places = places_by(matrix, region)
        got = resampled(_waves(), places, region, "clear", FIELD).pixels[..., 1]
        np.testing.assert_allclose(got, _wave(places[..., 0], places[..., 1]), atol=2e-3)

    def test_light_stays(self) -> None:
        """Light is neither made nor lost by a shift: of a single px exactly at halves, and within
        half a hundredth of a spot wider than 0.7 px."""
        y, x = np.mgrid[:64, :96] + 0.5
        for size in (0.0, 0.5, 0.8, 2.0):
            spot = np.exp(-((x - 40.3) ** 2 + (y - 30.6) ** 2) / (2 * max(size, 1e-3) ** 2))
            if size == 0:
                spot = np.zeros((64, 96))
                spot[30, 40] = 1
            tile = Tile(np.repeat(spot[..., None], 4, axis=2).astype(np.float32), FIELD)
            for across in (0.1, 0.25, 0.5, 0.8):
                for down in (0.0, 0.3, 0.5):
                    places = places_by(shifted(across, down), FIELD)
                    got = resampled(tile, places, FIELD, "clear", FIELD).pixels[..., 0]
                    self.assertAlmostEqual(
                        float(got.sum() / spot.sum()), 1, delta=0.005 if size >= 0.8 else 0.05
                    )
                    if size == 0 and across == down == 0.5:
                        self.assertAlmostEqual(float(got.sum()), 1, places=6)

    def test_colours_from_places_of_their_own(self) -> None:
        """Each channel to the bit as if the whole picture were taken from where its colour comes from, over
        every kind of edge; cover goes with green."""
        random = np.random.default_rng(5)
        region = Region(0, 0, 60, 40)
        picture = Tile(random.random((40, 60, 4)).astype(np.float32), region)
        ways = [random.uniform(-12, 70, (40, 60, 2)).astype(np.float32) for _ in range(3)]
        ways[0][3, 4] = np.nan
        edges: list[Edge] = ["clear", "hold", "wrap", "mirror"]
        for edge in edges:
            prepared = sampled(picture, edge, region, shrinks=False)
            found = prepared.taken_apart(ways[0], ways[1], ways[2], region).pixels
            whole = [prepared.taken(places, region).pixels for places in ways]
            for channel, way in enumerate((0, 1, 2, 1)):
                np.testing.assert_array_equal(found[..., channel], whole[way][..., channel])

    def test_no_ringing(self) -> None:
        """A hard edge taken between px stays within what it is made from."""
        tile = _random()
        tile.pixels[...] = 0
        tile.pixels[:, 48:] = 20
        places = places_by(shifted(0.4, 0.3), FIELD)
        got = resampled(tile, places, FIELD, "hold", FIELD).pixels
        self.assertGreaterEqual(float(got.min()), 0)
        self.assertLessEqual(float(got.max()), 20)

    def test_shrinking(self) -> None:
        """OpenCV's area average: a picture made four times smaller keeps what is in it."""
        region = Region(0, 0, 24, 16)
        small = resampled(_waves(), places_by(sized(4.0, 4.0), region), region, "hold", FIELD)
        wanted = cv2.resize(_waves().pixels, (24, 16), interpolation=cv2.INTER_AREA)
        np.testing.assert_allclose(small.pixels, wanted, atol=0.05)
        noise = resampled(_random(), places_by(sized(4.0, 4.0), region), region, "hold", FIELD)
        self.assertLess(float(noise.pixels[2:-2, 2:-2].std()), 0.1)

    def test_edges(self) -> None:
        """numpy.pad's edge, wrap and symmetric, by whole px."""
        tile = _random()
        wide = Region(-20, -10, 116, 74)
        ways: dict[Edge, Any] = {"hold": "edge", "wrap": "wrap", "mirror": "symmetric"}
        for edge, way in ways.items():
            got = resampled(tile, places_by(np.eye(3), wide), wide, edge, FIELD).pixels
            wanted = np.pad(tile.pixels, ((10, 10), (20, 20), (0, 0)), way)
            np.testing.assert_array_equal(got, wanted)

    def test_maps_undone(self) -> None:
        """A map and the map back put a place where it was."""
        matrix = shifted(3.0, 4.0) @ turned(35) @ sized(2.0, 0.5)
        np.testing.assert_allclose(undone(matrix) @ matrix, np.eye(3), atol=1e-12)
