"""Blends against W3C's formulas, Pillow, and what is promised above 1."""

import math
from collections.abc import Callable
from unittest import TestCase

import numpy as np
from PIL import Image, ImageChops

from handful.engine.colour.transfer import as_light, as_seen
from handful.engine.mix import BlendSpace, Part, blends, mixed
from handful.engine.picture import Region, Tile


def blended(
    below: np.ndarray,
    above: np.ndarray,
    blend: str,
    opacity: float = 1.0,
    space: BlendSpace = "light",
) -> np.ndarray:
    """Two premultiplied pictures mixed."""
    region = Region(0, 0, below.shape[1], below.shape[0])
    parts = [Part(Tile(below, region), "normal"), Part(Tile(above, region), blend, opacity, space)]
    return mixed(parts, region).pixels


def _soft(b: float, s: float) -> float:
    lifted = ((16 * b - 12) * b + 4) * b if b <= 0.25 else math.sqrt(b)
    return b - (1 - 2 * s) * b * (1 - b) if s <= 0.5 else b + (2 * s - 1) * (lifted - b)


def _hard(b: float, s: float) -> float:
    return b * 2 * s if s <= 0.5 else b + (2 * s - 1) - b * (2 * s - 1)


FORMULAS: dict[str, Callable[[float, float], float]] = {
    "multiply": lambda b, s: b * s,
    "screen": lambda b, s: b + s - b * s,
    "overlay": lambda b, s: _hard(s, b),
    "darken": min,
    "lighten": max,
    "dodge": lambda b, s: 0 if b == 0 else 1 if s == 1 else min(1, b / (1 - s)),
    "burn": lambda b, s: 1 if b == 1 else 0 if s == 0 else 1 - min(1, (1 - b) / s),
    "hard light": _hard,
    "soft light": _soft,
    "difference": lambda b, s: abs(b - s),
    "exclusion": lambda b, s: b + s - 2 * b * s,
}
"""W3C, Compositing and Blending Level 1, chapter 10: B(Cb, Cs)."""


def _lum(c: np.ndarray, weights: np.ndarray) -> float:
    return float(c @ weights)


def _set_lum(c: np.ndarray, lum: float, weights: np.ndarray) -> np.ndarray:
    c = c + (lum - _lum(c, weights))
    level, least, most = _lum(c, weights), c.min(), c.max()
    if least < 0:
        c = level + (c - level) * level / (level - least)
    if most > 1:
        c = level + (c - level) * (1 - level) / (most - level)
    return c


def _set_sat(c: np.ndarray, sat: float) -> np.ndarray:
    spread = c.max() - c.min()
    return (c - c.min()) * sat / spread if spread > 0 else np.zeros(3)


def _toned(blend: str, b: np.ndarray, s: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """W3C, Compositing and Blending Level 1, 10.2: the four non-separable blends."""
    if blend == "luminosity":
        return _set_lum(b, _lum(s, weights), weights)
    if blend == "colour":
        return _set_lum(s, _lum(b, weights), weights)
    if blend == "hue":
        return _set_lum(_set_sat(s, float(np.ptp(b))), _lum(b, weights), weights)
    return _set_lum(_set_sat(b, float(np.ptp(s))), _lum(b, weights), weights)


TONED = ("hue", "saturation", "colour", "luminosity")


class Published(TestCase):
    def setUp(self) -> None:
        random = np.random.default_rng(8)
        colours = random.random((2, 12, 40, 3), np.float32)
        colours[:, :3] = random.choice([0.0, 0.25, 0.5, 1.0], (2, 3, 40, 3))
        covers = random.random((2, 12, 40, 1), np.float32)
        covers[:, ::4] = 1
        self.colours, self.covers = colours, covers
        self.pictures = np.concatenate([colours * covers, covers], axis=3).astype(np.float32)

    def test_formulas(self) -> None:
        """co = cs (1 - ab) + cb (1 - as) + as ab B(Cb, Cs), the specification's 5.8, for each B."""
        (below, above), (cover_below, cover) = self.colours, self.covers
        for blend, function in FORMULAS.items():
            with self.subTest(blend):
                b = np.vectorize(function, otypes=[float])(below.astype(float), above.astype(float))
                wanted = (
                    above * cover * (1 - cover_below)
                    + below * cover_below * (1 - cover)
                    + cover * cover_below * b
                )
                got = blended(self.pictures[0], self.pictures[1], blend)
                strong = self.covers.min(0)[..., 0] > 0.02
                np.testing.assert_allclose(got[strong][:, :3], wanted[strong], atol=3e-5)
                union = cover + cover_below - cover * cover_below
                np.testing.assert_allclose(got[..., 3:], union, atol=1e-6)

    def test_tones(self) -> None:
        """The specification's 10.2 with its own weights as seen, and with BT.709's in light."""
        (below, above), cover = self.colours, np.ones((12, 40, 1))
        tables: dict[BlendSpace, tuple[float, float, float]] = {
            "light": (0.2126, 0.7152, 0.0722),
            "seen": (0.3, 0.59, 0.11),
        }
        for space, weights in tables.items():
            lights = [as_light(part) if space == "seen" else part for part in (below, above)]
            pictures = [np.concatenate([part, cover], axis=2).astype(np.float32) for part in lights]
            for blend in TONED:
                got = blended(pictures[0], pictures[1], blend, space=space)[..., :3]
                got = as_seen(got) if space == "seen" else got
                wanted = np.array([
                    [_toned(blend, b, s, np.array(weights)) for b, s in zip(*rows, strict=True)]
                    for rows in zip(below.astype(float), above.astype(float), strict=True)
                ])  # fmt: skip
                np.testing.assert_allclose(got, wanted, atol=4e-4, err_msg=f"{blend} {space}")

    def test_as_seen(self) -> None:
        """The same formulas on sRGB signals (IEC 61966-2-1), their result decoded over its cover."""
        (below, above), (cover_below, cover) = self.colours, self.covers
        signals = [
            as_light(part) * part_cover
            for part, part_cover in ((below, cover_below), (above, cover))
        ]
        pictures = [
            np.concatenate([part, part_cover], axis=2).astype(np.float32)
            for part, part_cover in zip(signals, (cover_below, cover), strict=True)
        ]
        union = cover + cover_below - cover * cover_below
        normal = {"normal": lambda b, s: s}
        for blend, function in (FORMULAS | normal).items():
            b = np.vectorize(function, otypes=[float])(below.astype(float), above.astype(float))
            mixed_signal = (
                above * cover * (1 - cover_below)
                + below * cover_below * (1 - cover)
                + cover * cover_below * b
            )
            wanted = as_light(mixed_signal / union) * union
            got = blended(pictures[0], pictures[1], blend, space="seen")
            strong = self.covers.min(0)[..., 0] > 0.05
            np.testing.assert_allclose(got[strong][:, :3], wanted[strong], atol=3e-3, err_msg=blend)
            np.testing.assert_allclose(got[..., 3:], union, atol=1e-6)

    def test_added_as_seen(self) -> None:
        """Signals are added up where both are, and cover up to all of it."""
        one, other = np.full((1, 1, 4), 0.5, np.float32), np.full((1, 1, 4), 0.25, np.float32)
        got = blended(one, other, "add", space="seen")
        self.assertAlmostEqual(float(got[0, 0, 3]), 0.75, places=6)
        np.testing.assert_allclose(got[0, 0, :3], 0.75, rtol=1e-4)
        full = blended(one * 2, other * 4, "add", space="seen")
        self.assertEqual(float(full[0, 0, 3]), 1)
        np.testing.assert_allclose(full[0, 0, :3], float(as_light(np.array([2.0]))[0]), rtol=1e-3)

    def test_porter_duff(self) -> None:
        """Their table: each operator keeps a share of each picture, in all four channels."""
        below, above = self.pictures
        a, b = above[..., 3:], below[..., 3:]
        for blend, wanted in (
            ("in", above * b),
            ("out", above * (1 - b)),
            ("atop", above * b + below * (1 - a)),
            ("under", above * (1 - b) + below),
            ("keep in", below * a),
            ("keep out", below * (1 - a)),
            ("keep atop", above * (1 - b) + below * a),
            ("xor", above * (1 - b) + below * (1 - a)),
        ):
            np.testing.assert_allclose(blended(below, above, blend), wanted, atol=1e-6)

    def test_pillow(self) -> None:
        """Pillow's ImageChops on opaque 8-bit pictures, within its rounding of one level."""
        levels = np.random.default_rng(3).integers(0, 256, (2, 32, 32, 3)).astype(np.uint8)
        below, above = (np.ones((32, 32, 4), np.float32) for _ in range(2))
        below[..., :3], above[..., :3] = levels / 255.0
        images = [Image.fromarray(part) for part in levels]
        for blend, chop in (
            ("multiply", ImageChops.multiply), ("screen", ImageChops.screen),
            ("lighten", ImageChops.lighter), ("darken", ImageChops.darker),
            ("difference", ImageChops.difference), ("subtract", ImageChops.subtract),
            ("overlay", ImageChops.overlay), ("hard light", ImageChops.hard_light),
        ):  # fmt: skip
            wanted = np.asarray(chop(*images)).astype(float)
            got = blended(below, above, blend)[..., :3] * 255
            self.assertLess(float(np.abs(got - wanted).max()), 2.01, blend)


class Bright(TestCase):
    def test_finite_and_never_negative(self) -> None:
        """Light far above 1 and light without cover stay finite, and nothing turns negative."""
        random = np.random.default_rng(5)
        pictures = random.random((2, 30, 30, 4), np.float32) * np.array([9, 9, 9, 1], np.float32)
        pictures[0, :5], pictures[1, 5:10], pictures[:, 10:12, :, 3] = 0, 0, 0
        for blend in blends():
            result = blended(pictures[0], pictures[1], blend)
            self.assertTrue(np.isfinite(result).all(), blend)
            self.assertGreaterEqual(float(result.min()), -1e-5, blend)
            self.assertLessEqual(float(result[..., 3].max()), 1 + 1e-6, blend)

    def test_lighter_blends_never_darken(self) -> None:
        """Add, screen and lighten give at least what was below, however bright the layer is."""
        below = np.full((1, 50, 4), 0.4, np.float32)
        above = np.repeat(np.linspace(0, 8, 50, dtype=np.float32)[None, :, None], 4, axis=2)
        above[..., 3] = np.minimum(above[..., 3], 1)
        for blend in ("add", "screen", "lighten"):
            light = blended(below, above, blend)[0, :, 0]
            self.assertGreaterEqual(float(light.min()), 0.4 - 1e-6, blend)
            self.assertTrue((np.diff(light) >= -1e-6).all(), f"{blend} rises with the layer")

    def test_no_step_at_white(self) -> None:
        """Where the published function ends at 1 the other one goes on without a step."""
        below = np.full((1, 3, 4), 1.0, np.float32)
        below[..., :3] = 0.3
        above = np.ones((1, 3, 4), np.float32)
        above[0, :, :3] = np.array([0.9999, 1.0, 1.0001])[:, None]
        for blend in blends():
            light = blended(below, above, blend)[0, :, 0]
            self.assertLess(float(np.ptp(light)), 0.001, blend)

    def test_light_without_cover(self) -> None:
        """A glow, which covers nothing, still shows through every lighter blend."""
        below = np.full((1, 1, 4), 1.0, np.float32)
        below[..., :3] = 0.2
        glow = np.array([[[0.5, 0.5, 0.5, 0]]], np.float32)
        for blend in ("normal", "add", "screen", "lighten", "hard light"):
            self.assertGreater(float(blended(below, glow, blend)[0, 0, 0]), 0.2, blend)

    def test_half_of_a_picture(self) -> None:
        """At half its opacity a layer does what one of half its light and cover does."""
        random = np.random.default_rng(16)
        pictures = random.random((2, 9, 9, 4), np.float32)
        pictures[..., :3] *= pictures[..., 3:]
        for blend in ("normal", "add", "screen", *FORMULAS):
            half = blended(pictures[0], pictures[1] * np.float32(0.5), blend)
            got = blended(pictures[0], pictures[1], blend, 0.5)
            np.testing.assert_allclose(got, half, atol=1e-6, err_msg=blend)

    def test_one_with_nothing_below_it(self) -> None:
        """As much of it as is said, with a cover of 1 at most, by itself and below others; whole it is what it was."""
        region = Region(0, 0, 40, 70)
        pixels = np.random.default_rng(3).random((70, 40, 4), np.float32) * np.float32(0.9)
        bright = pixels * np.float32(1.5)
        none = Tile(np.zeros_like(pixels), region)
        for blend in ("normal", "add"):
            for picture, opacity in ((pixels, 1.0), (pixels, 0.4), (bright, 1.0), (bright, 0.4)):
                wanted = picture * np.float32(opacity)
                wanted[..., 3] = np.minimum(1, wanted[..., 3])
                part = Part(Tile(picture, region), blend, opacity)
                for parts in ([part], [part, Part(none, "add")]):
                    found = mixed(parts, region)
                    np.testing.assert_array_equal(found.within(region), wanted)
        self.assertIs(mixed([Part(Tile(pixels, region), "normal")], region).pixels.base, pixels)
        for name in ("out", "in"):
            alone = mixed([Part(Tile(pixels, region), name)], region).within(region)
            self.assertEqual(alone.any(), name == "out")

    def test_opacity(self) -> None:
        """At no opacity nothing changes, whatever the blend."""
        random = np.random.default_rng(6)
        pictures = random.random((2, 9, 9, 4), np.float32)
        pictures[..., :3] *= pictures[..., 3:]
        for blend in blends():
            np.testing.assert_array_equal(
                blended(pictures[0], pictures[1], blend, 0.0), pictures[0]
            )

    def test_in_and_out_clear_around_a_small_layer(self) -> None:
        """Outside the layer's own region, in and out leave nothing, and the others all."""
        region, corner = Region(0, 0, 20, 10), Region(0, 0, 5, 5)
        below = Tile(np.full((10, 20, 4), 0.5, np.float32), region)
        layer = Tile(np.full((5, 5, 4), 0.5, np.float32), corner)
        for blend in blends():
            result = mixed([Part(below, "normal", 1.0), Part(layer, blend, 1.0)], region).pixels
            outside = 0 if blend in ("in", "out", "keep in", "keep atop") else 0.5
            np.testing.assert_array_equal(result[6:, 6:], np.float32(outside), blend)


class Expose(TestCase):
    def test_brightens_what_is_below(self) -> None:
        """Closed form: below (1 + light), by the layer's opacity; cover and black stay as they are."""
        below = np.array([[[0.2, 0.4, 3.0, 0.5], [0, 0, 0, 0]]], np.float32)
        above = np.array([[[1.0, 0.5, 0.25, 0.3], [7, 7, 7, 1]]], np.float32)
        region = Region(0, 0, 2, 1)
        parts = [Part(Tile(below, region), "normal", 1), Part(Tile(above, region), "expose", 0.5)]
        result = mixed(parts, region).pixels
        np.testing.assert_allclose(result[0, 0], (0.3, 0.5, 3.375, 0.5), rtol=1e-6)
        np.testing.assert_array_equal(result[0, 1], 0)
