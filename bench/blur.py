"""The wide blur beside OpenCV's."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import cv2
import numpy as np

from bench.rows import Row, median_seconds, milliseconds
from handful.engine.kernels.pixels.blur import gaussian
from handful.engine.steps.light.glow import HALF_ENERGY

WIDTH, HEIGHT, DEVIATION = 1920, 1080, 100.0
RADII = (1, 4, 10, 100, 500)


def glow() -> Iterator[Row]:
    """Speed and error of a blur of deviation 100 px on a float picture of 1920 x 1080."""
    impulse = np.zeros((HEIGHT, WIDTH, 4), np.float32)
    impulse[533, 967] = 1
    step = np.zeros_like(impulse)
    step[:, : WIDTH // 2 + 7] = 1
    wanted = {"impulse": _by_opencv(impulse), "step": _by_opencv(step)}
    ours = median_seconds(lambda: gaussian(step, DEVIATION), 15)
    theirs = median_seconds(lambda: _by_opencv(step), 1)
    ratio = theirs / ours
    name = "blur of 100 px, 1920 × 1080"
    reference = f"{milliseconds(theirs)} cv2.GaussianBlur"
    yield Row(name, milliseconds(ours), reference, ratio, "≥ 50 times faster", ratio >= 50)
    for what, picture in (("impulse", impulse), ("step", step)):
        error = float(np.abs(gaussian(picture, DEVIATION) - wanted[what]).max())
        share = error / float(wanted[what].max())
        yield Row(
            f"largest error on {what}", f"{100 * share:.3f} % of peak", "cv2.GaussianBlur",
            share, "< 1 %", share < 0.01,
        )  # fmt: skip
    taken = {r: median_seconds(partial(gaussian, step, r / HALF_ENERGY), 9) for r in RADII}
    slowest, fastest = max(taken.values()), min(taken.values())
    listed = ", ".join(f"{r} px {milliseconds(taken[r])}" for r in RADII)
    spread = slowest / fastest
    yield Row("radius 1 to 500 px", listed, "the fastest of them", spread, "≤ 4 apart", spread <= 4)


def _by_opencv(picture: np.ndarray) -> np.ndarray:
    return cv2.GaussianBlur(picture, (0, 0), DEVIATION, borderType=cv2.BORDER_CONSTANT)
