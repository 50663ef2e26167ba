"""The sail loft: rafters in the dark, a lamp on its hook, canvas over a rail."""

from __future__ import annotations

import cv2
import numpy as np

from demo.brush import MARGIN, Light, box, cloud, fill, lamp

BOARDS = 0.84
"""Where the boards begin, of the frame's height."""

HOOK = (1240.0, 250.0)
"""Where the lamp hangs, at the first frame of 1920 x 1080."""


def loft(width: int, height: int) -> Light:
    """Boards and rafters, a lamp with its cone of light, a rail with folded canvas."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    rows, columns = wide.shape[:2]
    boards, unit = int(MARGIN + BOARDS * height), width / 1920
    wood = 0.006 + 0.010 * cloud(rows, columns, 91)
    wide += wood[..., None] * np.array([1.0, 0.76, 0.52], np.float32)
    wide[:, :: round(74 * unit)] *= 0.35
    for i in range(5):
        x = MARGIN + (-120 + 480 * i) * unit
        fill(wide, [(x, 0), (x + 60 * unit, 0), (x + 330 * unit, MARGIN + 430 * unit), (x + 292 * unit, MARGIN + 430 * unit)], (0.004, 0.0034, 0.003))  # fmt: skip
    x, y = MARGIN + HOOK[0] * unit, MARGIN + HOOK[1] * unit
    _cone(wide, x, y, boards, unit)
    box(wide, x - 2 * unit, 0, 4 * unit, y, (0.003, 0.003, 0.003))
    fill(wide, [(x - 20 * unit, y), (x + 20 * unit, y), (x + 62 * unit, y + 54 * unit), (x - 62 * unit, y + 54 * unit)], (0.012, 0.012, 0.012))  # fmt: skip
    lamp(wide, x, y + 58 * unit, 15 * unit, (2.4, 1.7, 0.9))
    floor = 0.010 + 0.02 * cloud(rows - boards, columns, 92)
    wide[boards:] = floor[..., None] * np.array([1.0, 0.78, 0.55], np.float32)
    rail = boards - 150 * unit
    box(wide, MARGIN + 180 * unit, rail, 640 * unit, 16 * unit, (0.02, 0.015, 0.01))
    for i in range(9):
        box(wide, MARGIN + (250 + 54 * i) * unit, rail - 8 * unit, 46 * unit, (190 + 16 * (i % 3)) * unit, (0.05 + 0.012 * (i % 2), 0.045, 0.036))  # fmt: skip
    return cv2.GaussianBlur(wide, (0, 0), 1.0)


def _cone(wide: Light, x: float, y: float, boards: int, unit: float) -> None:
    """Light that falls from the lamp, fainter downwards."""
    rows = np.arange(wide.shape[0], dtype=np.float32)[:, None] - y - 50 * unit
    across = np.abs(np.arange(wide.shape[1], dtype=np.float32)[None, :] - x)
    half = np.maximum(1, rows) * 0.62 + 40 * unit
    there = np.clip((half - across) / (0.35 * half), 0, 1) * (rows > 0)
    light = 0.05 * there / (1 + rows.clip(0) / (360 * unit)) ** 1.4
    wide += light[..., None] * np.array([1.0, 0.74, 0.42], np.float32)
