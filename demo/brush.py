"""Brushes for the scenes: they draw in linear light on a wide view `(H, W, 3)`."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Light = NDArray[np.float32]

MARGIN = 160
"""px drawn beyond the frame on each side, for the window to move over."""


def cloud(rows: int, columns: int, key: int = 7) -> Light:
    """Layered noise, stretched sideways, from 0 to 1."""
    random = np.random.Generator(np.random.Philox(key=key))
    total = np.zeros((rows, columns), np.float32)
    for octave in range(7):
        cells = (3 * 2**octave, 4 * 2**octave)
        layer = random.standard_normal(cells).astype(np.float32)
        total += cv2.resize(layer, (columns, rows), interpolation=cv2.INTER_CUBIC) * 0.56**octave
    total -= total.min()
    return total / total.max()


def fill(wide: Light, corners: list[tuple[float, float]], light: tuple[float, ...]) -> None:
    """A filled outline through corners, to a sixteenth of a px."""
    points = np.round(np.array(corners) * 16).astype(np.int32)
    cv2.fillPoly(wide, [points], light, cv2.LINE_AA, 4)


def box(wide: Light, x: float, y: float, w: float, h: float, light: tuple[float, ...]) -> None:
    """A filled rectangle from its corner."""
    fill(wide, [(x, y), (x + w, y), (x + w, y + h), (x, y + h)], light)


def lamp(wide: Light, x: float, y: float, radius: float, light: tuple[float, ...]) -> None:
    """A point of light with a soft fall around it, added."""
    rows, columns = np.ogrid[: wide.shape[0], : wide.shape[1]]
    fall = 1 / (1 + ((columns - x) ** 2 + (rows - y) ** 2) / radius**2) ** 1.6
    wide += fall[..., None].astype(np.float32) * np.array(light, np.float32)


def water(wide: Light, horizon: int) -> None:
    """The mirrored upper part, darker and drawn out downwards."""
    rows = wide.shape[0] - horizon
    mirror = wide[horizon - rows : horizon][::-1]
    smeared = cv2.GaussianBlur(mirror, (0, 0), sigmaX=2.5, sigmaY=16)
    fade = np.linspace(0.75, 0.3, rows, dtype=np.float32)[:, None, None]
    wide[horizon:] = smeared * fade * np.array([0.8, 0.95, 1.0], np.float32) + 0.0012
