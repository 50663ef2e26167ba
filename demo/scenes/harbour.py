"""A night harbour: storm cloud, the glassworks on the quay, a moored ship."""

from __future__ import annotations

import cv2
import numpy as np

from demo.brush import MARGIN, Light, box, cloud, fill, lamp, water

HORIZON = 0.735
MAST_TOP = (1312.0, 372.0)
"""Where the mast's top is in the frame at the first frame of 1920 x 1080."""


def harbour(width: int, height: int) -> Light:
    """A night harbour: storm cloud, the glassworks on the quay, a moored ship."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    horizon = int(MARGIN + HORIZON * height)
    wide[:horizon] = _storm_sky(horizon, wide.shape[1])
    _glassworks(wide, horizon, width)
    _ship(wide, horizon, width, height)
    water(wide, horizon)
    return cv2.GaussianBlur(wide, (0, 0), 0.9)


def _storm_sky(rows: int, columns: int) -> Light:
    low = np.linspace(0, 1, rows, dtype=np.float32)[:, None] ** 2.2
    shade = 0.006 + 0.030 * cloud(rows, columns) ** 2.2 + 0.016 * low
    tint = np.array([0.62, 0.80, 1.0], np.float32)
    town = np.array([1.0, 0.55, 0.25], np.float32) * (0.012 * low**3)[..., None]
    sky: Light = shade[..., None] * tint + town
    return sky


def _glassworks(wide: Light, horizon: int, width: int) -> None:
    dark = (0.0045, 0.0055, 0.0075)
    left, unit = MARGIN - 60, width / 1920
    for x, w, h in ((0, 250, 150), (230, 180, 205), (400, 260, 128), (640, 120, 92)):
        box(wide, left + x * unit, horizon - h * unit, w * unit, h * unit + 2, dark)
    for x in (232, 292, 352):
        peak = horizon - 205 * unit
        fill(wide, [(left + x * unit, peak), (left + (x + 58) * unit, peak - 40 * unit),
                     (left + (x + 58) * unit, peak)], dark)  # fmt: skip
    fill(wide, [(left + 118 * unit, horizon), (left + 128 * unit, horizon - 390 * unit),
                 (left + 158 * unit, horizon - 390 * unit), (left + 170 * unit, horizon)], dark)  # fmt: skip
    warm = (1.0, 0.42, 0.12)
    for x, y, gain in (
        (262, 120, 0.5),
        (300, 120, 0.7),
        (338, 120, 0.35),
        (450, 70, 0.12),
        (520, 70, 0.2),
    ):
        light = tuple(gain * part for part in warm)
        box(wide, left + x * unit, horizon - y * unit, 16 * unit, 26 * unit, light)
        lamp(
            wide,
            left + (x + 8) * unit,
            horizon - (y - 13) * unit,
            26 * unit,
            tuple(0.05 * part for part in light),
        )
    box(wide, 0, horizon - 16 * unit, left + 800 * unit, 20 * unit, (0.006, 0.006, 0.007))
    lamp(wide, left + 742 * unit, horizon - 120 * unit, 15 * unit, (0.9, 0.62, 0.34))
    cv2.line(wide, (int(left + 742 * unit), int(horizon - 116 * unit)),
             (int(left + 742 * unit), horizon), (0.004, 0.004, 0.005), max(1, int(4 * unit)), cv2.LINE_AA)  # fmt: skip


def _ship(wide: Light, horizon: int, width: int, height: int) -> None:
    unit = width / 1920
    mast_x, mast_y = MARGIN + MAST_TOP[0] * unit, MARGIN + MAST_TOP[1] * height / 1080
    dark, rope = (0.0035, 0.004, 0.0052), (0.005, 0.006, 0.008)
    deck = horizon - 46 * unit
    fill(wide, [(mast_x - 330 * unit, deck - 34 * unit), (mast_x - 300 * unit, deck - 4 * unit),
                 (mast_x + 250 * unit, deck), (mast_x + 282 * unit, deck - 30 * unit),
                 (mast_x + 236 * unit, horizon + 16 * unit), (mast_x - 262 * unit, horizon + 16 * unit)], dark)  # fmt: skip
    box(wide, mast_x + 90 * unit, deck - 50 * unit, 120 * unit, 52 * unit, dark)
    box(wide, mast_x + 112 * unit, deck - 36 * unit, 15 * unit, 13 * unit, (0.36, 0.18, 0.06))
    for x, top, half in ((0.0, mast_y, 5.5), (-190.0, mast_y + 120 * unit, 4.5)):
        foot = mast_x + x * unit
        fill(wide, [(foot - 1.6 * unit, top), (foot + 1.6 * unit, top),
                     (foot + half * unit, deck), (foot - half * unit, deck)], dark)  # fmt: skip
        for share, reach in ((0.25, 96), (0.52, 128)):
            y = top + share * (deck - top)
            box(wide, foot - reach * unit, y, 2 * reach * unit, 4.5 * unit, dark)
            fill(wide, [(foot - reach * unit * 0.94, y + 4 * unit), (foot + reach * unit * 0.94, y + 4 * unit),
                         (foot + reach * unit * 0.9, y + 13 * unit), (foot - reach * unit * 0.9, y + 13 * unit)], dark)  # fmt: skip
        for spread in (-128, -70, 70, 128):
            end = (int(foot + spread * unit), int(deck))
            cv2.line(wide, (int(foot), int(top + 14 * unit)), end, rope, 1, cv2.LINE_AA)
    cv2.line(wide, (int(mast_x - 190 * unit), int(mast_y + 130 * unit)),
             (int(mast_x - 420 * unit), int(deck - 60 * unit)), dark, max(1, int(4 * unit)), cv2.LINE_AA)  # fmt: skip
