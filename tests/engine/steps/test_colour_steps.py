"""Steps that change colour, against published formulas, tables and reference libraries."""

import math
from typing import Any, Literal
from unittest import TestCase

import numpy as np
from scipy.interpolate import PchipInterpolator

from handful.engine.colour.temperature import balancing, chromaticity, planckian, rgb_to_xyz
from handful.engine.colour.transfer import Colour, colour_from_hex, decode_srgb, encode_srgb
from handful.engine.kernels.pixels.monotone import monotone
from handful.engine.kinds import At, Step, changed, steps
from handful.engine.picture import Region, Tile, blank, luminance
from handful.engine.steps.colour.curves import CurvePoint, Curves
from handful.engine.steps.colour.grade import Grade
from handful.engine.steps.colour.hue import Hue, hue_matrix
from handful.engine.steps.colour.ramp import RampStop
from handful.engine.values import Point

FIELD = Region(0, 0, 64, 48)
AT = At(FIELD, 1.0, ("seed",), FIELD)


def _colours(cover: float = 1.0, brightest: float = 1.0) -> Tile:
    picture = np.random.default_rng(6).random((48, 64, 4), np.float32) * brightest
    picture[..., :3] *= cover
    picture[..., 3] = cover
    return Tile(picture.astype(np.float32), FIELD)


def _even(light: float, cover: float = 0.0) -> Tile:
    picture = blank(FIELD)
    picture[..., :3], picture[..., 3] = light, cover
    return Tile(picture, FIELD)


def _made(name: str, **settings: Any) -> Any:
    """A step with its plain defaults and some settings of its own."""
    kind = steps()[name]
    plain = {known.name: known.default for known in kind.settings}
    for known in kind.settings:
        if known.type == "colour":
            plain[known.name] = colour_from_hex(known.default)
    return kind(**(plain | settings))


def _applied(step: Step, tile: Tile) -> np.ndarray:
    return step.apply(tile, AT).pixels


class Decisions(TestCase):
    def _grade(self, slope: float, offset: float, power: float, saturation: float) -> Grade:
        names = [f"{what}_{channel}" for what in ("slope", "offset", "power") for channel in ("red", "green", "blue")]  # fmt: skip
        values = [slope, slope * 1.2, slope * 0.8, offset, -offset, 0.0, power, 1.0, 1 / power]
        return Grade(**dict(zip(names, values, strict=True)), saturation=saturation)

    def test_asc_cdl(self) -> None:
        """ASC CDL 1.2: out = clamp(in x slope + offset) ^ power, then saturation by Rec. 709 luma."""
        tile = _colours()
        for slope, offset, power, saturation in ((1.3, 0.08, 1.4, 0.7), (0.6, -0.1, 0.8, 1.5)):
            got = _applied(self._grade(slope, offset, power, saturation), tile)[..., :3]
            source = tile.pixels[..., :3].astype(float)
            graded = source * [slope, slope * 1.2, slope * 0.8] + [offset, -offset, 0]
            graded = np.maximum(graded, 0) ** [power, 1, 1 / power]
            luma = graded @ [0.2126, 0.7152, 0.0722]
            wanted = np.maximum(luma[..., None] + saturation * (graded - luma[..., None]), 0)
            np.testing.assert_allclose(got, wanted, atol=2e-3)

    def test_at_any_light(self) -> None:
        """ASC CDL 1.2 from a thousandth to 60,000, opaque or as light: within a thousandth; and the
        same closed form for levels along a gamma."""
        for cover in (0.0, 1.0):
            for light in (1e-3, 0.18, 1.0, 5.0, 64.0, 200.0, 3000.0, 60000.0):
                for power in (0.5, 1.3, 2.0):
                    plain = {f"power_{name}": power for name in ("red", "green", "blue")}
                    got = float(_applied(_made("grade", **plain), _even(light, cover))[0, 0, 0])
                    self.assertAlmostEqual(got / min(65504, light**power), 1, delta=1e-3)
                got = float(_applied(_made("levels", gamma=2.0), _even(light, cover))[0, 0, 0])
                self.assertAlmostEqual(got / light**0.5, 1, delta=1e-3)

    def test_no_darker_for_more_light(self) -> None:
        """A curve that rises keeps the order of lights, whatever a px covers."""
        lights = np.linspace(0, 1.5, 64, dtype=np.float32)
        for cover in (0.0, 0.02, 0.2, 0.7, 1.0):
            picture = blank(Region(0, 0, 64, 1))
            picture[0, :, :3], picture[..., 3] = lights[:, None], cover
            tile = Tile(picture, Region(0, 0, 64, 1))
            for power in (0.4, 2.0, 6.0):
                plain = {f"power_{name}": power for name in ("red", "green", "blue")}
                got = _applied(_made("grade", **plain), tile)[0, :, 0]
                self.assertGreaterEqual(float(np.diff(got).min()), -1e-6, (cover, power))

    def test_premultiplied(self) -> None:
        """Of a half-covered surface it changes the colour, not the cover: twice the cover, the same."""
        step = self._grade(1.3, 0.08, 1.4, 1.0)
        whole = _applied(step, _colours(1.0))[..., :3]
        half = _applied(step, _colours(0.5))[..., :3]
        np.testing.assert_allclose(half, 0.5 * whole, atol=2e-4)

    def test_clear_stays_clear(self) -> None:
        """An offset, an inverted light or a raised black adds nothing where there is nothing."""
        for step in (
            self._grade(1.0, 0.5, 1.0, 1.0),
            _made("invert"),
            _made("levels", darkest=40.0),
            _made("tint", dark=Colour(1, 1, 1), amount=100.0),
        ):
            self.assertFalse(_applied(step, _even(0.0)).any())

    def test_light_above_one(self) -> None:
        """Light is not cut off: a slope doubles what is far above 1 as well."""
        got = _applied(self._grade(2.0, 0.0, 1.0, 1.0), _even(9.0))
        np.testing.assert_allclose(got[0, 0, :3], [18, 21.6, 14.4], rtol=1e-3)


class Ramps(TestCase):
    def test_bounded_whatever_its_stops(self) -> None:
        """One stop at nothing is that colour for all; above white light goes on in proportion."""
        for level in (0.0, 0.01, 30.0, 100.0):
            stop = RampStop(level=level, colour=Colour(1, 0.5, 0.25), light=0.0)
            for light, wanted in ((0.2, 1), (1.0, 1), (8.0, 8), (5000.0, 5000)):
                got = _applied(_made("ramp", stops=(stop,)), _even(light, min(light, 1)))[0, 0]
                there = min(light, 1)
                np.testing.assert_allclose(
                    got[:3], np.array([1, 0.5, 0.25]) * wanted * there, rtol=1e-3
                )


class Hues(TestCase):
    def test_luminance_and_grey_stay(self) -> None:
        """Haeberli 1993: neither a turn nor a saturation changes luminance, and grey stays grey."""
        tile = Tile(0.3 + 0.1 * _colours().pixels, FIELD)
        for turn, saturation in ((15.0, 100.0), (-20.0, 40.0), (0.0, 0.0)):
            got = _applied(Hue(turn=turn, saturation=saturation), tile)
            np.testing.assert_allclose(luminance(got), luminance(tile.pixels), atol=1e-5)
        grey = _applied(Hue(turn=77.0, saturation=180.0), _even(0.4))
        np.testing.assert_allclose(grey[..., :3], 0.4, atol=1e-6)

    def test_luminance_of_pure_colours(self) -> None:
        """BT.709 luminance of every colour of the gamut, its corners and its edges, at any turn and
        saturation; nothing is negative, and what is within the gamut turns as the matrix says."""
        corners = np.array(
            [[r, g, b, 1] for r in (0, 0.5, 1) for g in (0, 0.5, 1) for b in (0, 0.5, 1)]
        )
        region = Region(0, 0, 27, 3)
        tile = Tile(
            np.stack([corners, corners * [9, 9, 9, 1], corners * [0.2, 0.2, 0.2, 1]]).astype(
                np.float32
            ),
            region,
        )
        for turn in (-180.0, -90.0, 33.0, 90.0, 180.0):
            for saturation in (50.0, 100.0, 200.0, 1000.0):
                got = _applied(Hue(turn=turn, saturation=saturation), tile)
                np.testing.assert_allclose(
                    luminance(got), luminance(tile.pixels), rtol=2e-4, atol=1e-6
                )
                self.assertGreaterEqual(float(got.min()), 0)

    def test_turns_add_up(self) -> None:
        """Three turns by a third of a circle are nothing."""
        np.testing.assert_allclose(
            np.linalg.matrix_power(hue_matrix(120, 1), 3), np.eye(3), atol=1e-9
        )

    def test_no_saturation(self) -> None:
        """BT.709: all channels become the luminance."""
        tile = _colours()
        got = _applied(Hue(turn=0.0, saturation=0.0), tile)
        np.testing.assert_allclose(got[..., 1], luminance(tile.pixels), atol=1e-6)


class Temperatures(TestCase):
    def test_published_whites(self) -> None:
        """CIE 15: D50, D55, D65 and D75 at their temperatures; illuminant A, 2856 K, on Planck's."""
        for kelvin, x, y in (
            (5003, 0.3457, 0.3585), (5503, 0.3324, 0.3474), (6504, 0.3127, 0.3290), (7504, 0.2990, 0.3149),
            (2856, 0.4476, 0.4074),
        ):  # fmt: skip
            np.testing.assert_allclose(chromaticity(kelvin), (x, y), atol=6e-4)

    def test_black_body(self) -> None:
        """Planck's law over the CIE 1931 observer (Wyman, Sloan and Shirley 2013), within 0.006."""
        waves = np.arange(380.0, 781.0, 1.0)
        x, y, z = _observer(waves)
        for kelvin in (2000, 3000, 4000, 6000, 10000, 20000):
            power = waves**-5 / np.expm1(1.438777e7 / (waves * kelvin))
            total = np.array([(power * curve).sum() for curve in (x, y, z)])
            np.testing.assert_allclose(planckian(kelvin), total[:2] / total.sum(), atol=6e-3)

    def test_primaries(self) -> None:
        """IEC 61966-2-1, the matrix from linear sRGB to XYZ."""
        wanted = [[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]
        np.testing.assert_allclose(rgb_to_xyz(), wanted, atol=2e-4)

    def test_balance(self) -> None:
        """White becomes the light itself and keeps its luminance; at 6504 K nothing changes."""
        np.testing.assert_allclose(balancing(6504), np.eye(3), atol=2e-3)
        for kelvin in (2800, 4500, 9000):
            xyz = rgb_to_xyz() @ balancing(kelvin) @ np.ones(3)
            self.assertAlmostEqual(float(xyz[1]), 1, places=6)
            np.testing.assert_allclose(xyz[:2] / xyz.sum(), chromaticity(kelvin), atol=1e-6)


def _observer(waves: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The multi-lobe fit of Wyman, Sloan and Shirley, JCGT 2(2), 2013."""

    def lobe(peak: float, low: float, high: float) -> np.ndarray:
        width = np.where(waves < peak, low, high)
        return np.exp(-0.5 * ((waves - peak) / width) ** 2)

    x = (
        1.056 * lobe(599.8, 37.9, 31.0)
        + 0.362 * lobe(442.0, 16.0, 26.7)
        - 0.065 * lobe(501.1, 20.4, 26.2)
    )
    y = 0.821 * lobe(568.8, 46.9, 40.5) + 0.286 * lobe(530.9, 16.3, 31.1)
    z = 1.217 * lobe(437.0, 11.8, 36.0) + 0.681 * lobe(459.0, 26.0, 13.8)
    return x, y, z


class Drawn(TestCase):
    def test_monotone_as_scipy(self) -> None:
        """scipy.interpolate.PchipInterpolator, which follows the same paper, within its ends."""
        random = np.random.default_rng(7)
        for count in (2, 3, 6, 12):
            x = np.sort(random.random(count))
            y = random.random(count)
            at = np.linspace(x[0], x[-1], 200)
            np.testing.assert_allclose(monotone(x, y, at), PchipInterpolator(x, y)(at), atol=1e-12)

    def _curves(self, levels: Literal["seen", "light"], *points: tuple[float, float]) -> Curves:
        drawn = tuple(CurvePoint(level=level, becomes=becomes) for level, becomes in points)
        straight = (CurvePoint(level=0, becomes=0), CurvePoint(level=100, becomes=100))
        return Curves(
            master=drawn, red=straight, green=straight, blue=straight, cover=straight, levels=levels
        )

    def test_curves(self) -> None:
        """The curve by scipy on the sRGB signal, or on light itself."""
        points = ((0, 0), (30, 15), (70, 85), (100, 100))
        curve = PchipInterpolator(*np.array(points).T / 100)
        tile = _colours()
        light = tile.pixels[..., :3].astype(float)
        got = _applied(self._curves("light", *points), tile)[..., :3]
        np.testing.assert_allclose(got, curve(light), atol=1e-3)
        got = _applied(self._curves("seen", *points), tile)[..., :3]
        np.testing.assert_allclose(got, decode_srgb(curve(encode_srgb(light))), atol=2e-3)

    def test_straight_curve_is_nothing(self) -> None:
        """Straight from 0 to 100 it changes nothing, above 1 neither."""
        for light in (0.02, 0.5, 1.0, 3.0, 40.0):
            got = _applied(self._curves("seen", (0, 0), (100, 100)), _even(light))
            np.testing.assert_allclose(got[0, 0, :3], light, rtol=2e-3)

    def test_levels(self) -> None:
        """Common practice: low + (high - low) ((v - black) / (white - black)) ^ (1 / gamma)."""
        step = _made("levels", black=10.0, white=80.0, gamma=2.0, darkest=5.0, brightest=90.0)
        for light in (0.05, 0.12, 0.4, 0.8, 2.0):
            wanted = 0.05 + 0.85 * max(0.0, (light - 0.1) / 0.7) ** 0.5
            got = float(_applied(step, _even(light, 1.0))[0, 0, 1])
            self.assertAlmostEqual(got, wanted, delta=3e-3)

    def test_ramp(self) -> None:
        """Linear light between two stops by luminance; above the last on in proportion."""
        stops = tuple(
            RampStop(level=level, colour=Colour(*colour), light=0.0)
            for level, colour in ((0, (0, 0, 0)), (50, (1, 0, 0)), (100, (1, 1, 0)))
        )
        step = _made("ramp", stops=stops)
        for light, wanted in ((0.25, (0.5, 0, 0)), (0.75, (1, 0.5, 0)), (3.0, (3, 3, 0))):
            np.testing.assert_allclose(_applied(step, _even(light))[0, 0, :3], wanted, atol=2e-3)

    def test_invert(self) -> None:
        """1 - v of what covers; twice is nothing."""
        once = _applied(_made("invert"), _colours())
        np.testing.assert_allclose(once[..., :3], 1 - _colours().pixels[..., :3], atol=1e-3)
        twice = _applied(_made("invert"), Tile(once, FIELD))
        np.testing.assert_allclose(twice, _colours().pixels, atol=2e-3)


class Keeping(TestCase):
    def test_by_brightness(self) -> None:
        """Nothing below the soft edge, all above it, a half at the level; light and cover alike."""
        step = _made("threshold", level=50.0, softness=20.0)
        for light, share in ((0.39, 0.0), (0.5, 0.5), (0.61, 1.0)):
            got = _applied(step, _even(light, 1.0))[0, 0]
            np.testing.assert_allclose(got, np.array([light, light, light, 1]) * share, atol=1e-5)

    def test_by_colour(self) -> None:
        """Its own hue is kept at any brightness, another is not; inverted the other way round."""
        blue, red = blank(FIELD), blank(FIELD)
        blue[..., 2], red[..., 0] = 0.05, 3.0
        for inverted, kept, gone in ((False, blue, red), (True, red, blue)):
            step = _made("threshold", by="colour", colour=Colour(0, 0, 1), inverted=inverted)
            np.testing.assert_allclose(_applied(step, Tile(kept, FIELD)), kept, rtol=1e-5)
            self.assertFalse(_applied(step, Tile(gone, FIELD)).any())

    def test_vignette(self) -> None:
        """The amount in stops far out, half of it at the radius, nothing at the centre."""
        wide = Region(0, 0, 401, 3)
        picture = np.ones((3, 401, 4), np.float32)
        step = _made("vignette", amount=2.0, radius=200.0, softness=100.0, centre=Point(0.5, 1.5))
        row = step.apply(Tile(picture, wide), At(wide, 1.0, (), wide)).pixels[1]
        np.testing.assert_allclose(row[[0, 200, 400], 0], [1, 0.5, 0.25], atol=5e-3)
        np.testing.assert_array_equal(row[:, 3], 1)


class Noises(TestCase):
    def test_grain(self) -> None:
        """Deviation in proportion to light, mean kept, and another grain on the next change."""
        big = Tile(np.full((300, 400, 4), 0.5, np.float32), Region(0, 0, 400, 300))
        at = At(big.region, 1.0, ("seed",), big.region)
        first, second = (
            _made("grain", size=2.0, amount=10.0, change=change).apply(big, at).pixels
            for change in (3.2, 4.0)
        )
        for channel in range(3):
            self.assertAlmostEqual(float(first[..., channel].mean()), 0.5, delta=1e-3)
            self.assertAlmostEqual(float(first[..., channel].std()), 0.05, delta=3e-3)
        self.assertLess(
            abs(float(np.corrcoef(first[..., 0].ravel(), second[..., 0].ravel())[0, 1])), 0.02
        )
        self.assertLess(
            abs(float(np.corrcoef(first[..., 0].ravel(), first[..., 1].ravel())[0, 1])), 0.02
        )

    def test_dither(self) -> None:
        """Lipshitz et al. 1992: rounded after triangular noise, the mean is that of the light."""
        big = Region(0, 0, 400, 300)
        at = At(big, 1.0, ("seed",), big)
        for light in (0.004, 0.05, 0.3):
            tile = Tile(np.full((300, 400, 4), light, np.float32), big)
            got = _made("dither").apply(tile, at).pixels[..., :3].astype(float)
            signal = encode_srgb(np.array(light)) * 255
            errors = np.round(encode_srgb(got) * 255) - signal
            self.assertAlmostEqual(float(errors.mean()), 0, delta=0.02)
            self.assertAlmostEqual(float(errors.var()), 0.25, delta=0.02)

    def test_flicker(self) -> None:
        """Levels within the depth, held between changes, and not all alike."""
        gains = []
        for phase in np.arange(0, 40, 0.25):
            got = _applied(_made("flicker", depth=1.5, ease=50.0, phase=float(phase)), _even(1.0))
            gains.append(math.log2(float(got[0, 0, 0])))
        self.assertLessEqual(max(map(abs, gains)), 1.5)
        self.assertGreater(np.std(gains), 0.5)
        self.assertAlmostEqual(gains[0], gains[1], places=6)


class Fused(TestCase):
    def test_a_row_of_steps_is_each_in_turn(self) -> None:
        """What passes over a few rows for several steps is the same to the bit as one after another."""
        chain = [
            _made("exposure", stops=0.5),
            _made("levels", gamma=1.4),
            _made("hue", turn=30.0),
            _made("grain", change=0.0),
        ]
        tile = _colours(brightest=2.0)
        apart = tile
        for step in chain:
            apart = step.apply(apart, AT)
        together = changed(tile, [step.changer(AT) for step in chain])
        np.testing.assert_array_equal(together.pixels, apart.pixels)
