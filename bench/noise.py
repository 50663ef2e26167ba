"""Patterns of noise beside a generator in C++ and beside copying a picture."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np
from pyfastnoiselite.pyfastnoiselite import FastNoiseLite, FractalType, NoiseType

from bench.rows import Row, median_seconds, milliseconds
from handful.engine.kernels.chance.hash import Key
from handful.engine.kernels.chance.patterns import Laid, Octaves, Pattern, Warping, pattern_on
from handful.engine.picture import Region, blank

REGION = Region(0, 0, 1920, 1080)
SIZE, WAVES, WAVES_OF_CELLS = 200.0, 6, 2
MOST_COPIES, LEAST_FASTER = 12.0, 8.0
PATTERNS: dict[Pattern, int] = {
    "gradient": WAVES, "simplex": WAVES, "value": WAVES, "ridged": WAVES, "billowed": WAVES,
    "cells": WAVES_OF_CELLS, "far cells": WAVES_OF_CELLS, "cell borders": WAVES_OF_CELLS,
    "cell values": WAVES_OF_CELLS,
}  # fmt: skip


def noise() -> Iterator[Row]:
    """Each pattern at 1920 x 1080, one channel, turned waves of 200 px and finer that boil."""
    picture = blank(REGION)
    copying = median_seconds(picture.copy, 9)
    taken = {pattern: median_seconds(partial(_made, pattern), 5) for pattern in PATTERNS}
    generator = FastNoiseLite(seed=1)
    generator.noise_type = NoiseType.NoiseType_Perlin
    generator.fractal_type = FractalType.FractalType_FBm
    generator.fractal_octaves, generator.frequency = WAVES, 1 / SIZE
    y, x = np.mgrid[: REGION.height, : REGION.width].astype(np.float32)
    places = np.stack([x.ravel(), y.ravel(), np.full(x.size, 3.3, np.float32)])
    theirs = median_seconds(lambda: generator.gen_from_coords(places), 3)
    ratio = theirs / taken["gradient"]
    yield Row(
        f"gradient, {WAVES} waves, in three dimensions", milliseconds(taken["gradient"]),
        f"{milliseconds(theirs)} pyfastnoiselite", ratio, f"≥ {LEAST_FASTER:g} times faster",
        ratio >= LEAST_FASTER,
    )  # fmt: skip
    for pattern, waves in PATTERNS.items():
        copies = taken[pattern] / copying
        yield Row(
            f"{pattern}, {waves} waves", milliseconds(taken[pattern]),
            f"{milliseconds(copying)} a copy", copies, f"≤ {MOST_COPIES:g} copies",
            copies <= MOST_COPIES,
        )  # fmt: skip


def _made(pattern: Pattern) -> np.ndarray:
    octaves = Octaves(PATTERNS[pattern], 0.5, 2.0, 0.6, 0.3, 0, (0.0, 0.0), 1.0)
    laid = Laid("flat", (960.0, 540.0), (SIZE, SIZE), 0.0, 400.0, 12)
    return pattern_on(REGION, 1.0, pattern, octaves, laid, Warping(0, 0.0), 0.0, (Key(5, 9),))
