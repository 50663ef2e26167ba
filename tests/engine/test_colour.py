"""Transfer functions against the standard's own numbers."""

from unittest import TestCase

import numpy as np

from handful.engine.colour.temperature import colour_of, rgb_to_xyz
from handful.engine.colour.transfer import colour_from_hex, decode_srgb, encode_srgb, hex_of
from handful.engine.picture import luminance, straighten


class SRGB(TestCase):
    def test_constants_of_the_standard(self) -> None:
        """IEC 61966-2-1:1999, clause 5.2: the linear part up to 0.0031308, slope 12.92, exponent 2.4."""
        self.assertAlmostEqual(float(encode_srgb(np.array(0.0031308))), 12.92 * 0.0031308, 12)
        self.assertAlmostEqual(float(encode_srgb(np.array(1.0))), 1.0, 12)
        self.assertAlmostEqual(float(decode_srgb(np.array(0.5))), 0.21404114, 7)
        self.assertAlmostEqual(float(encode_srgb(np.array(0.18))) * 255, 117.6, 0)

    def test_8_bit_levels_come_back(self) -> None:
        """Closed form: encoding undoes decoding for every 8-bit level."""
        levels = np.arange(256)
        back = np.round(encode_srgb(decode_srgb(levels / 255)) * 255)
        np.testing.assert_array_equal(back, levels)

    def test_hex(self) -> None:
        """IEC 61966-2-1: 0xBC is 0.5029 of linear light (from its table, by calculation)."""
        colour = colour_from_hex("#ffbc00")
        self.assertAlmostEqual(colour.red, 1.0, 6)
        self.assertAlmostEqual(colour.green, 0.502886, 5)
        self.assertEqual(colour.blue, 0.0)
        with self.assertRaisesRegex(ValueError, "#rrggbb"):
            colour_from_hex("blue")


class Temperature(TestCase):
    def test_illuminants(self) -> None:
        """CIE 15:2004: illuminant A at 2856 K is x 0.4476, y 0.4074; D65 is white."""
        for kelvin, wanted in ((2856, (0.4476, 0.4074)), (6504, (0.3127, 0.3290))):
            x, y, z = rgb_to_xyz() @ np.array(colour_of(kelvin))
            np.testing.assert_allclose((x / (x + y + z), y / (x + y + z)), wanted, atol=0.002)
        self.assertGreaterEqual(min(colour_of(6504)), 0.98)

    def test_as_people_write_it(self) -> None:
        """Definition: the brightest channel is full; cool light is bluish, warm light reddish."""
        self.assertEqual(hex_of(colour_of(2000))[1:3], "ff")
        self.assertEqual(hex_of(colour_of(15000))[5:7], "ff")
        self.assertEqual(hex_of(colour_from_hex("#12ab9f")), "#12ab9f")


class Pictures(TestCase):
    def test_luminance(self) -> None:
        """Rec. ITU-R BT.709-6, item 3.2: the weights of the primaries."""
        primaries = np.zeros((1, 3, 4), np.float32)
        for i in range(3):
            primaries[0, i, i] = 1
        np.testing.assert_allclose(luminance(primaries)[0], [0.2126, 0.7152, 0.0722], rtol=1e-6)

    def test_straighten(self) -> None:
        """Closed form: premultiplied over cover; nothing where there is no cover."""
        picture = np.array([[[0.2, 0.1, 0.0, 0.5], [0.3, 0, 0, 0]]], np.float32)
        np.testing.assert_allclose(
            straighten(picture), np.array([[[0.4, 0.2, 0.0, 0.5], [0, 0, 0, 0]]]), rtol=1e-6
        )
