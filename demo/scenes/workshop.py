"""The smith's corner of the works: a bench, a grinding wheel, a cold window."""

from __future__ import annotations

import cv2
import numpy as np

from demo.brush import MARGIN, Light, box, cloud, fill, lamp

GROUND = 0.86
"""Where the ground begins, of the frame's height."""

WHEEL = (560.0, 520.0)
"""Where the piece meets the wheel, at the first frame of 1920 x 1080."""


def workshop(width: int, height: int) -> Light:
    """A wall of brick, a window, the wheel on its stand with its guard, and the ground."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    rows, columns = wide.shape[:2]
    ground, unit = int(MARGIN + GROUND * height), width / 1920
    wall = 0.010 + 0.012 * cloud(rows, columns, 81)
    wide += wall[..., None] * np.array([0.9, 0.86, 0.84], np.float32)
    _bricks(wide, ground, unit)
    left, top = MARGIN + 1330 * unit, MARGIN + 120 * unit
    box(wide, left, top, 330 * unit, 380 * unit, (0.05, 0.075, 0.10))
    for share in (1 / 3, 2 / 3):
        box(wide, left + share * 330 * unit, top, 9 * unit, 380 * unit, (0.008, 0.008, 0.01))
        box(wide, left, top + share * 380 * unit, 330 * unit, 9 * unit, (0.008, 0.008, 0.01))
    lamp(wide, left + 165 * unit, top + 190 * unit, 260 * unit, (0.012, 0.02, 0.03))
    floor = 0.012 + 0.014 * cloud(rows - ground, columns, 82)
    wide[ground:] = floor[..., None] * np.array([0.95, 0.9, 0.85], np.float32)
    _wheel(wide, ground, unit)
    return cv2.GaussianBlur(wide, (0, 0), 0.9)


def _bricks(wide: Light, ground: int, unit: float) -> None:
    tall, long = round(34 * unit), round(96 * unit)
    for row in range(0, ground, tall):
        wide[row : row + 2, :] *= 0.6
        for column in range((row // tall % 2) * long // 2, wide.shape[1], long):
            wide[row : row + tall, column : column + 2] *= 0.65


def _wheel(wide: Light, ground: int, unit: float) -> None:
    x, y = MARGIN + (WHEEL[0] - 96) * unit, MARGIN + (WHEEL[1] - 24) * unit
    dark, steel = (0.006, 0.006, 0.007), (0.03, 0.032, 0.036)
    fill(wide, [(x - 40 * unit, y), (x + 40 * unit, y), (x + 86 * unit, ground + 6), (x - 86 * unit, ground + 6)], dark)  # fmt: skip
    cv2.circle(wide, (round(x), round(y)), round(104 * unit), (0.02, 0.018, 0.017), -1, cv2.LINE_AA)
    cv2.circle(wide, (round(x), round(y)), round(26 * unit), steel, -1, cv2.LINE_AA)
    cv2.ellipse(wide, (round(x), round(y)), (round(116 * unit), round(116 * unit)), 0, 150, 320, steel, round(13 * unit), cv2.LINE_AA)  # fmt: skip
    box(wide, x + 92 * unit, y + 34 * unit, 240 * unit, 15 * unit, steel)
