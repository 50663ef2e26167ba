"""The harbour light on its rock, over a rough sea at night."""

from __future__ import annotations

import cv2
import numpy as np

from demo.brush import MARGIN, Light, box, cloud, fill, lamp, water

SEA = 0.8
"""Where the sea begins, of the frame's height."""

LANTERN = (560.0, 316.0)
"""Where the lantern is in the frame at the first frame of 1920 x 1080."""

_TOWER = (0.012, 0.0135, 0.017)
_DARK = (0.004, 0.0045, 0.006)


def lighthouse(width: int, height: int) -> Light:
    """A tower on a rock, a mole beside it, cloud above and a mirroring sea."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    sea = int(MARGIN + SEA * height)
    unit = width / 1920
    wide[:sea] = _sky(sea, wide.shape[1])
    _far_shore(wide, sea, unit)
    _tower(wide, sea, unit)
    _rock(wide, sea, unit)
    water(wide, sea)
    _swell(wide, sea)
    return cv2.GaussianBlur(wide, (0, 0), 0.9)


def _sky(rows: int, columns: int) -> Light:
    low = np.linspace(0, 1, rows, dtype=np.float32)[:, None] ** 2
    shade = 0.004 + 0.022 * cloud(rows, columns, 23) ** 2.4 + 0.012 * low
    sky: Light = shade[..., None] * np.array([0.66, 0.84, 1.0], np.float32)
    return sky


def _far_shore(wide: Light, sea: int, unit: float) -> None:
    """A low line of land with a few lights of the town."""
    columns = np.arange(0, wide.shape[1], 40)
    hills = [
        (float(x), sea - (14 + 13 * np.sin(x * 0.004) + 7 * np.sin(x * 0.013)) * unit)
        for x in columns
    ]
    fill(wide, [*hills, (float(wide.shape[1]), float(sea)), (0.0, float(sea))], _DARK)
    random = np.random.Generator(np.random.Philox(key=5))
    for _ in range(26):
        x = MARGIN + (900 + 980 * random.random()) * unit
        warm = 0.12 + 0.5 * random.random()
        lamp(
            wide,
            x,
            sea - (6 + 12 * random.random()) * unit,
            2.2 * unit,
            (warm, 0.55 * warm, 0.22 * warm),
        )


def _tower(wide: Light, sea: int, unit: float) -> None:
    x, y = MARGIN + LANTERN[0] * unit, MARGIN + LANTERN[1] * unit
    foot = sea - 60 * unit
    fill(wide, [(x - 27 * unit, y + 34 * unit), (x + 27 * unit, y + 34 * unit),
                (x + 52 * unit, foot), (x - 52 * unit, foot)], _TOWER)  # fmt: skip
    fill(wide, [(x + 4 * unit, y + 34 * unit), (x + 27 * unit, y + 34 * unit),
                (x + 52 * unit, foot), (x + 8 * unit, foot)], _DARK)  # fmt: skip
    for share in (0.3, 0.56, 0.8):
        top = y + 34 * unit + share * (foot - y - 34 * unit)
        box(wide, x - 20 * unit, top, 9 * unit, 15 * unit, (0.16, 0.085, 0.03))
    box(wide, x - 40 * unit, y + 24 * unit, 80 * unit, 12 * unit, _DARK)
    box(wide, x - 19 * unit, y - 22 * unit, 38 * unit, 46 * unit, (0.05, 0.04, 0.026))
    for post in (-19, -7, 5, 17):
        box(wide, x + post * unit, y - 22 * unit, 2.5 * unit, 46 * unit, _DARK)
    fill(
        wide,
        [(x - 27 * unit, y - 22 * unit), (x, y - 58 * unit), (x + 27 * unit, y - 22 * unit)],
        _DARK,
    )
    cv2.line(
        wide,
        (int(x), int(y - 56 * unit)),
        (int(x), int(y - 92 * unit)),
        _DARK,
        max(1, int(3 * unit)),
        cv2.LINE_AA,
    )


def _rock(wide: Light, sea: int, unit: float) -> None:
    """The rock under the tower, and a mole that runs out of the frame."""
    x = MARGIN + LANTERN[0] * unit
    random = np.random.Generator(np.random.Philox(key=9))
    for layer, light in ((0, (0.007, 0.008, 0.0105)), (1, _DARK)):
        edge = [(x - 420 * unit, float(sea + 8))]
        for i in range(29):
            share = i / 28
            lift = np.sin(np.pi * share) ** 0.7 * (96 - 34 * layer) * unit
            edge.append(
                (
                    x + (-400 + 800 * share + 30 * layer) * unit,
                    sea - lift * (0.78 + 0.34 * random.random()),
                )
            )
        fill(wide, [*edge, (x + 430 * unit, float(sea + 8))], light)
    box(wide, 0, sea - 30 * unit, x - 300 * unit, 36 * unit, _DARK)
    for post in range(6):
        box(wide, (40 + 90 * post) * unit, sea - 56 * unit, 5 * unit, 30 * unit, _DARK)


def _swell(wide: Light, sea: int) -> None:
    """Rows of crests that catch what light there is, finer towards the horizon."""
    rows, columns = wide.shape[0] - sea, wide.shape[1]
    depth = np.linspace(0.02, 1, rows, dtype=np.float32)[:, None]
    x = np.arange(columns, dtype=np.float32)[None, :]
    rough = cloud(rows, columns, 31)
    crests = np.sin(26 / (depth + 0.12) + 0.011 * x + 9 * rough) * np.sin(
        0.017 * x / (0.3 + depth) + 7 * rough
    )
    wide[sea:] += (0.010 * np.maximum(0, crests) ** 3 * (0.4 + depth))[..., None] * np.array(
        [0.7, 0.9, 1.0], np.float32
    )
