"""What has burnt: its cracks, its embers and what stays as it was."""

from typing import Any
from unittest import TestCase

import numpy as np

from handful.engine.colour.heat import heat_of, heat_table
from handful.engine.kinds import At
from handful.engine.picture import MOST_LIGHT, Region, Tile
from handful.engine.steps.colour.char import Char
from tests.engine.recipes import as_it_comes

FIELD = Region(40, -10, 440, 290)
GREY = np.array([0.2126, 0.7152, 0.0722])


def charred(sheet: Any = 0.3, cover: float = 1.0, **settings: Any) -> np.ndarray:
    """A sheet of a light, charred; embers do not breathe unless they are told to."""
    picture = np.empty((FIELD.height, FIELD.width, 4), np.float32)
    picture[..., :3], picture[..., 3] = np.asarray(sheet) * cover, cover
    made = as_it_comes(
        Char, **{"breathes": 0.0, "breath": 0.0, "ash": 0.0, "size": 40.0} | settings
    )
    return made.apply(Tile(picture, FIELD), At(FIELD, 1.0, (1, "char"), FIELD)).pixels


class Chars(TestCase):
    def test_as_much_as_it_says(self) -> None:
        """Nothing at 0, and half way there at half; cover stays, and where nothing is there is nothing."""
        none, half, all_of = (charred(amount=amount) for amount in (0.0, 50.0, 100.0))
        self.assertEqual(float(np.ptp(none)), float(np.float32(1) - np.float32(0.3)))
        np.testing.assert_allclose(half, (none + all_of) / 2, atol=1e-5)
        np.testing.assert_array_equal(charred(cover=0.25)[..., 3], 0.25)
        self.assertEqual(float(np.abs(charred(0.0, 0.0)).max()), 0)

    def test_thin_cover_shines_as_little(self) -> None:
        """Premultiplied: what covers a quarter has a quarter of the light, embers and all."""
        np.testing.assert_allclose(charred(cover=0.25), charred() * 0.25, rtol=1e-4, atol=1e-6)

    def test_embers_shine_by_their_heat(self) -> None:
        """The middle of a crack has a black body's light of its temperature, so many stops brighter."""
        for kelvin, stops in ((1150.0, 0.0), (900.0, 2.0)):
            found = charred(
                0.0, kelvin=kelvin, light=stops, cracks=30.0, colour=np.zeros(3), turned=0.0
            )
            brightest = found[..., :3].reshape(-1, 3)[found[..., 0].argmax()]
            wanted = heat_of(np.array([kelvin]), heat_table(1150.0))[0] * 2**stops
            np.testing.assert_allclose(brightest, wanted, rtol=0.12)

    def test_cracks_are_as_wide_as_they_say(self) -> None:
        """Between places strewn at one to a square, borders are 2 long to a square (Meijering 1953, of Poisson's
        strewing, from memory; these are more even, and bent): of what is w wide 2 w is crack."""
        for cracks in (6.0, 12.0):
            found = charred(0.0, cracks=cracks, colour=np.zeros(3), turned=0.0, size=50.0)
            share = float((found[..., 0] > 1e-4).mean())
            self.assertAlmostEqual(share / (2 * cracks / 100), 1, delta=0.45)

    def test_bright_parts_turn_over(self) -> None:
        """Turned over, what was dark is the brighter, and the other way about; untouched else."""
        for turned, way in ((0.0, 1), (100.0, -1)):
            means = [
                float((charred(level, turned=turned, cracks=0.0)[..., :3] @ GREY).mean())
                for level in (0.02, 0.9)
            ]
            self.assertGreater(way * (means[1] - means[0]), 0)

    def test_breathes(self) -> None:
        """Some embers fade as others come; with no breath all stay as they are."""
        for breath, moves in ((0.0, False), (100.0, True)):
            one, other = (charred(0.0, breath=breath, breathes=at)[..., 0] for at in (0.0, 0.7))
            self.assertEqual(bool((one > 1.5 * other).any() and (other > 1.5 * one).any()), moves)

    def test_light_of_any_strength(self) -> None:
        """Of the picture and of the embers: never more than a file holds, nor less than nothing."""
        for light, settings in (
            (0.0, {}),
            (1e-6, {}),
            (65_000.0, {}),
            (0.3, {"kelvin": 3000.0, "light": 16.0}),
        ):
            found = charred(light, **settings)
            self.assertTrue(np.isfinite(found).all())
            self.assertGreaterEqual(float(found.min()), 0)
            self.assertLessEqual(float(found.max()), MOST_LIGHT)
