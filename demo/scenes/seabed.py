"""Under the quay: green water, shafts of light from above, a wreck's ribs on the ground."""

from __future__ import annotations

import cv2
import numpy as np

from demo.brush import MARGIN, Light, cloud, fill

GROUND = 0.82
"""Where the ground begins, of the frame's height."""


def seabed(width: int, height: int) -> Light:
    """Water that darkens downwards, shafts of light, ribs of a wreck, and rippled sand."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    rows, columns = wide.shape[:2]
    ground, unit = int(MARGIN + GROUND * height), width / 1920
    deep = np.linspace(1, 0, rows, dtype=np.float32)[:, None]
    shade = 0.012 + 0.16 * deep**2.4
    wide += shade[..., None] * np.array([0.25, 0.86, 0.8], np.float32)
    wide += (0.5 * shade * _shafts(rows, columns))[..., None] * np.array(
        [0.6, 1.0, 0.92], np.float32
    )
    _ribs(wide, ground, unit)
    sand = 0.02 + 0.035 * cloud(rows - ground, columns, 71)
    wide[ground:] = sand[..., None] * np.array([0.42, 0.86, 0.74], np.float32)
    return cv2.GaussianBlur(wide, (0, 0), 1.4)


def _shafts(rows: int, columns: int) -> Light:
    """Slanting light from the surface, from 0 to 1."""
    across = cloud(4, columns * 2, 72)[2]
    x = np.arange(columns, dtype=np.float32)[None, :]
    y = np.arange(rows, dtype=np.float32)[:, None]
    at = np.clip(x + 0.36 * y, 0, 2 * columns - 1).astype(np.int32)
    light: Light = np.clip((across[at] - 0.42) * 3.2, 0, 1) ** 1.5
    return light


def _ribs(wide: Light, ground: int, unit: float) -> None:
    """A row of bent timbers, the nearer the darker."""
    for i in range(7):
        foot, tall = MARGIN + (560 + 150 * i) * unit, (250 - 20 * abs(i - 3)) * unit
        light = tuple(part * (0.6 + 0.12 * i) for part in (0.006, 0.02, 0.02))
        outer = [
            (foot + np.sin(t * 1.5) * 60 * unit, ground + 12 * unit - t * tall)
            for t in np.linspace(0, 1, 20)
        ]
        inner = [(x + (22 - 14 * k / 19) * unit, y) for k, (x, y) in enumerate(outer)]
        fill(wide, [*outer, *reversed(inner)], light)
