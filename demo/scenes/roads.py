"""The roads at dusk: a moored ship with her riding light, lamps of a far quay, still water to the viewer."""

from __future__ import annotations

import cv2
import numpy as np

from demo.brush import MARGIN, Light, box, cloud, fill, lamp, water

ROADS = 0.40
"""Where the water begins, of the frame's height."""

RIDING_LIGHT = (566.0, 262.0)
"""Where the ship's lamp hangs, in the frame of 1920 x 1080."""


def roads(width: int, height: int) -> Light:
    """A clear sky after the sun, hills, the quay's lamps, the ship, and all that in the water."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    line, unit = int(MARGIN + ROADS * height), width / 1920
    wide[:line] = _sky(line, wide.shape[1])
    _hills(wide, line, unit)
    _quay(wide, line, unit)
    _ship(wide, line, unit)
    # The sky reaches higher than the frame shows, so the water mirrors all of it drawn out.
    deep = wide.shape[0] - line
    upper = cv2.resize(wide[:line], (wide.shape[1], deep), interpolation=cv2.INTER_AREA)
    mirror = np.concatenate([upper, np.zeros_like(upper)])
    near = min(line, int(0.3 * deep))
    mirror[deep - near : deep] = wide[line - near : line]
    water(mirror, deep)
    wide[line:] = 1.15 * mirror[deep:]
    return cv2.GaussianBlur(wide, (0, 0), 1.0)


def _sky(rows: int, columns: int) -> Light:
    low = np.linspace(0, 1, rows, dtype=np.float32)[:, None, None] ** 2
    high, glow = np.array([0.012, 0.03, 0.062]), np.array([0.30, 0.15, 0.07])
    streaks = 0.7 + 0.6 * cloud(rows, columns, 83)[..., None]
    sky: Light = ((high * (1 - low) + glow * low) * streaks).astype(np.float32)
    return sky


def _hills(wide: Light, line: int, unit: float) -> None:
    columns = np.arange(0, wide.shape[1] + 40, 40)
    for tall, waves, light in (
        (64, 0.0021, (0.05, 0.035, 0.032)),
        (30, 0.0047, (0.018, 0.017, 0.02)),
    ):
        tops = [
            (
                float(x),
                line - (tall + 0.5 * tall * np.sin(x * waves) + 5 * np.sin(x * 0.031)) * unit,
            )
            for x in columns
        ]
        fill(wide, [*tops, (float(wide.shape[1]), float(line)), (0.0, float(line))], light)


def _quay(wide: Light, line: int, unit: float) -> None:
    box(wide, MARGIN + 1180 * unit, line - 12 * unit, 900 * unit, 12 * unit, (0.01, 0.01, 0.012))
    for place in (1220, 1345, 1490, 1610, 1760):
        x = MARGIN + place * unit
        box(wide, x - 2 * unit, line - 40 * unit, 4 * unit, 32 * unit, (0.008, 0.008, 0.01))
        lamp(wide, x, line - 42 * unit, 5 * unit, (1.6, 0.95, 0.42))


def _ship(wide: Light, line: int, unit: float) -> None:
    left, dark = MARGIN + 330 * unit, (0.006, 0.006, 0.008)
    hull = [(0, -46), (470, -40), (440, 0), (40, 0)]
    fill(wide, [(left + x * unit, line + y * unit) for x, y in hull], dark)
    box(wide, left + 70 * unit, line - 88 * unit, 110 * unit, 44 * unit, dark)
    for mast, tall in ((130, 270), (300, 232)):
        box(wide, left + mast * unit, line - tall * unit, 5 * unit, tall * unit, dark)
    stays = [
        ((132, 270), (468, 42)),
        ((302, 232), (468, 42)),
        ((132, 270), (2, 48)),
        ((302, 232), (132, 70)),
    ]
    for (x0, y0), (x1, y1) in stays:
        begin, end = (
            (int((left + x * unit) * 16), int((line - y * unit) * 16))
            for x, y in ((x0, y0), (x1, y1))
        )
        cv2.line(wide, begin, end, dark, 1, cv2.LINE_AA, 4)
    lamp(
        wide,
        MARGIN + RIDING_LIGHT[0] * unit,
        MARGIN + RIDING_LIGHT[1] * unit,
        4 * unit,
        (0.5, 0.4, 0.24),
    )
    for port in range(4):
        box(
            wide,
            left + (215 + 42 * port) * unit,
            line - 26 * unit,
            7 * unit,
            6 * unit,
            (0.5, 0.3, 0.12),
        )
