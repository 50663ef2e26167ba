"""A ship's deck in a storm at dusk: mast and yard before a torn sky, the sea, a lantern."""

from __future__ import annotations

import cv2
import numpy as np

from demo.brush import MARGIN, Light, box, cloud, fill, lamp, water

SEA = 0.7
"""Where the sea begins, of the frame's height."""

YARD = (1010.0, 150.0)
"""The middle of the yard that the sail hangs from, in the frame of 1920 x 1080."""

LANTERN = (1716.0, 640.0)


def storm_deck(width: int, height: int) -> Light:
    """Sky, sea, the mast with its yard and ropes, the rail, and a lantern on its post."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    line, unit = int(MARGIN + SEA * height), width / 1920
    wide[:line] = _sky(line, wide.shape[1])
    _waves(wide, line, unit)
    water(wide, line)
    _rig(wide, unit, height)
    return cv2.GaussianBlur(wide, (0, 0), 1.0)


def _sky(rows: int, columns: int) -> Light:
    low = np.linspace(0, 1, rows, dtype=np.float32)[:, None]
    torn = cloud(rows, columns, 71)
    shade = 0.018 + 0.07 * torn**1.7 + 0.05 * low**3
    tint = np.array([0.66, 0.82, 1.0], np.float32)
    glow = np.array([1.0, 0.62, 0.36], np.float32) * (0.045 * low**5)[..., None]
    sky: Light = (shade[..., None] * tint + glow).astype(np.float32)
    return sky


def _waves(wide: Light, line: int, unit: float) -> None:
    for n, (top, light) in enumerate(((-16, 0.021), (4, 0.017))):
        columns = np.arange(0, wide.shape[1], 24)
        crests = [
            (
                float(x),
                line + (top + 9 * np.sin(x * 0.006 + 2 * n) + 5 * np.sin(x * 0.021 + n)) * unit,
            )
            for x in columns
        ]
        shape = [*crests, (float(wide.shape[1]), line + 60.0 * unit), (0.0, line + 60.0 * unit)]
        fill(wide, shape, (0.72 * light, 0.9 * light, light))


def _rig(wide: Light, unit: float, height: int) -> None:
    dark, rope = (0.006, 0.0062, 0.007), (0.009, 0.0095, 0.011)
    x, y = MARGIN + YARD[0] * unit, MARGIN + YARD[1] * unit
    foot = float(MARGIN + height + MARGIN)
    fill(
        wide,
        [(x - 13 * unit, 0.0), (x + 13 * unit, 0.0), (x + 21 * unit, foot), (x - 21 * unit, foot)],
        dark,
    )
    fill(wide, [(x - 690 * unit, y - 3 * unit), (x + 690 * unit, y - 3 * unit), (x + 680 * unit, y - 17 * unit), (x - 680 * unit, y - 17 * unit)], dark)  # fmt: skip
    for across, end in ((-660, -980), (660, 980), (-330, -20), (330, 20)):
        cv2.line(
            wide, (int(x + across * unit), int(y - 10 * unit)), (int(x + end * unit), 0), rope,
            max(1, int(3 * unit)), cv2.LINE_AA,
        )  # fmt: skip
    rail = MARGIN + 940 * unit
    box(wide, 0, rail, wide.shape[1], 20 * unit, dark)
    box(wide, 0, rail + 86 * unit, wide.shape[1], foot, (0.0045, 0.0045, 0.005))
    for post in range(-1, 16):
        box(wide, MARGIN + post * 140 * unit, rail, 16 * unit, 100 * unit, dark)
    lantern_x, lantern_y = MARGIN + LANTERN[0] * unit, MARGIN + LANTERN[1] * unit
    box(wide, lantern_x - 5 * unit, lantern_y, 10 * unit, foot, dark)
    lamp(wide, lantern_x, lantern_y, 150 * unit, (0.16, 0.085, 0.03))
    lamp(wide, lantern_x, lantern_y, 18 * unit, (1.6, 1.0, 0.5))
