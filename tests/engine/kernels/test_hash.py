"""The counter-based hash against its authors' known answers."""

from unittest import TestCase

import numpy as np
from scipy import stats

from handful.engine.kernels.chance.hash import (
    boiling_normal,
    key_for,
    level_at,
    normal,
    philox,
    uniform,
)


class Philox(TestCase):
    def test_known_answers(self) -> None:
        """Philox 4x32-10 vectors published with Random123 (Salmon et al. 2011), file kat_vectors."""
        ones = 0xFFFFFFFF
        for counter, key, answer in (
            ((0, 0, 0, 0), (0, 0), (0x6627E8D5, 0xE169C58D, 0xBC57AC4C, 0x9B00DBD8)),
            ((ones,) * 4, (ones, ones), (0x408F276D, 0x41C83B0E, 0xA20BC7C6, 0x6D5451FD)),
            (
                (0x243F6A88, 0x85A308D3, 0x13198A2E, 0x03707344),
                (0xA4093822, 0x299F31D0),
                (0xD16CFE09, 0x94FDCCEB, 0x5001E420, 0x24126EA1),
            ),
        ):
            self.assertEqual(tuple(int(word) for word in philox(*counter, *key)), answer)


class Numbers(TestCase):
    def test_uniform(self) -> None:
        """Kolmogorov and Smirnov's test by SciPy, at a level that a good source fails once in 1000."""
        key = key_for(1, "uniform")
        drawn = [uniform(*key, i, 0) for i in range(20_000)]
        self.assertGreater(stats.kstest(drawn, "uniform").pvalue, 0.001)

    def test_levels_after_any_number_of_turns(self) -> None:
        """A level for each turn, counted in words of 32 bits, which go on from nothing."""
        key = key_for(1, "level")
        for turn in (0, 5, 2**32 - 1):
            level = 2 * uniform(*key, turn, 0) - 1
            for far in (turn, turn - 2**32, turn + 2**52):
                self.assertEqual(level_at(key, float(far)), level)
        for phase in (1e19, -1e19, 1e300):
            self.assertLessEqual(abs(level_at(key, phase)), 1)

    def test_normal(self) -> None:
        """The same against the normal distribution."""
        key = key_for(1, "normal")
        drawn = [normal(*key, i, 0, 0) for i in range(20_000)]
        self.assertGreater(stats.kstest(drawn, "norm").pvalue, 0.001)

    def test_boiling_keeps_its_variance(self) -> None:
        """Closed form: cos^2 + sin^2 = 1, so the variance is 1 between the turns as well."""
        key = key_for(1, "boil")
        for phase in (0.0, 0.25, 0.5, 0.9):
            drawn = [boiling_normal(*key, i, 0, phase) for i in range(20_000)]
            self.assertAlmostEqual(float(np.var(drawn)), 1.0, delta=0.04)

    def test_boiling_has_no_jumps(self) -> None:
        """A hundredth of a turn changes a value by little, also across a whole turn."""
        key = key_for(1, "boil")
        path = np.array([boiling_normal(*key, 3, 0, step / 100) for step in range(500)])
        self.assertLess(float(np.abs(np.diff(path)).max()), 0.15)

    def test_keys_differ(self) -> None:
        """Every part of a purpose counts, and parts do not run together."""
        keys = {
            key_for(1, "a"),
            key_for(2, "a"),
            key_for(1, "b"),
            key_for(1, "a", ""),
            key_for("1a"),
        }
        self.assertEqual(len(keys), 5)
