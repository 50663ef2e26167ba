"""The fairway at dawn in fog: pale water, a far shore that is hardly seen, a buoy."""

from __future__ import annotations

import cv2
import numpy as np

from demo.brush import MARGIN, Light, box, cloud, fill, lamp, water

WATER = 0.58
"""Where the water begins, of the frame's height."""


def fairway(width: int, height: int) -> Light:
    """Sky and fog in one, a low shore, piles, a buoy with its light, and still water."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    line, unit = int(MARGIN + WATER * height), width / 1920
    wide[:line] = _sky(line, wide.shape[1])
    _shore(wide, line, unit)
    _piles(wide, line, unit)
    water(wide, line)
    fog = 0.045 + 0.05 * cloud(*wide.shape[:2], 61)
    rows = np.arange(wide.shape[0], dtype=np.float32)[:, None]
    near = np.exp(-(((rows - line) / (0.24 * height)) ** 2))
    share = (0.55 * near)[..., None]
    wide = wide * (1 - share) + share * fog[..., None] * np.array([0.88, 0.97, 1.0], np.float32)
    return cv2.GaussianBlur(wide.astype(np.float32), (0, 0), 1.6)


def _sky(rows: int, columns: int) -> Light:
    low = np.linspace(0, 1, rows, dtype=np.float32)[:, None] ** 1.6
    shade = 0.05 + 0.03 * cloud(rows, columns, 60) + 0.09 * low
    cold, warm = np.array([0.74, 0.9, 1.0]), np.array([1.0, 0.86, 0.7])
    tint = cold * (1 - low[..., None]) + warm * low[..., None]
    sky: Light = (shade[..., None] * tint).astype(np.float32)
    return sky


def _shore(wide: Light, line: int, unit: float) -> None:
    columns = np.arange(0, wide.shape[1], 30)
    hills = [
        (float(x), line - (26 + 22 * np.sin(x * 0.003) + 9 * np.sin(x * 0.017)) * unit)
        for x in columns
    ]
    fill(
        wide,
        [*hills, (float(wide.shape[1]), float(line)), (0.0, float(line))],
        (0.062, 0.075, 0.084),
    )


def _piles(wide: Light, line: int, unit: float) -> None:
    for place, tall in ((180, 92), (212, 104), (1660, 70), (1700, 84), (1745, 66)):
        box(
            wide,
            MARGIN + place * unit,
            line - tall * unit,
            11 * unit,
            tall * unit + 4,
            (0.03, 0.035, 0.04),
        )
    x, y = MARGIN + 420.0 * unit, line + 4.0 * unit
    fill(wide, [(x - 26 * unit, y), (x + 26 * unit, y), (x + 8 * unit, y - 96 * unit), (x - 8 * unit, y - 96 * unit)], (0.05, 0.02, 0.016))  # fmt: skip
    lamp(wide, x, y - 108 * unit, 6 * unit, (0.9, 0.14, 0.08))
