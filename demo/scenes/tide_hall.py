"""The hall of the tide wheel: the wheel at the left, the furnace it feeds at the right."""

from __future__ import annotations

import math

import cv2
import numpy as np

from demo.brush import MARGIN, Light, box, cloud, fill, lamp

FLOOR = 0.9
"""Where the wet floor begins, of the frame's height."""

HUB = (452.0, 566.0)
MOUTH = (1502.0, 560.0)
"""Where the wheel's hub and the furnace's mouth are in the first frame of 1920 x 1080."""

_IRON = (0.0062, 0.0072, 0.0084)
_DARK = (0.0038, 0.0042, 0.005)


def tide_hall(width: int, height: int) -> Light:
    """A brick hall with arched windows, a great wheel, a domed furnace, and a floor that shines."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    floor, unit = int(MARGIN + FLOOR * height), width / 1920
    _wall(wide, unit)
    for x in (660, 980):
        _window(wide, MARGIN + x * unit, MARGIN + 190 * unit, unit)
    _furnace(wide, floor, unit)
    _wheel(wide, unit)
    _pipes(wide, unit)
    _floor(wide, floor)
    return cv2.GaussianBlur(wide, (0, 0), 0.9)


def _wall(wide: Light, unit: float) -> None:
    """Courses of brick, lit warm from the right."""
    rows, columns = wide.shape[:2]
    y, x = np.mgrid[:rows, :columns].astype(np.float32)
    course = np.floor(y / (17 * unit))
    along = x / (46 * unit) + 0.5 * (course % 2)
    joint = (np.abs((y / (17 * unit)) % 1 - 0.5) > 0.43) | (np.abs(along % 1 - 0.5) > 0.47)
    tone = 0.75 + 0.5 * np.sin(12.9898 * np.floor(along) + 78.233 * course) * 0.5
    grime = 0.45 + 0.8 * cloud(rows, columns, 41)
    shade = (0.0078 * tone * grime * np.where(joint, 0.55, 1.0)).astype(np.float32)
    wide += shade[..., None] * np.array([1.0, 0.72, 0.56], np.float32)
    away = np.hypot(x - MARGIN - MOUTH[0] * unit, y - MARGIN - MOUTH[1] * unit) / (520 * unit)
    warm = (0.75 * shade / (0.25 + away**2))[..., None] * np.array([2.4, 1.1, 0.4], np.float32)
    wide += warm.astype(np.float32)


def _window(wide: Light, x: float, y: float, unit: float) -> None:
    """A tall arched window with the night behind it."""
    half, tall = 66 * unit, 300 * unit
    arch = [
        (x + half * math.cos(a), y + half - half * math.sin(a)) for a in np.linspace(math.pi, 0, 24)
    ]
    fill(wide, [(x - half, y + tall), *arch, (x + half, y + tall)], (0.010, 0.016, 0.024))
    for bar in (-0.34, 0.34):
        box(wide, x + bar * half - 2 * unit, y, 4 * unit, tall, _DARK)
    for share in (0.3, 0.55, 0.8):
        box(wide, x - half, y + share * tall, 2 * half, 4 * unit, _DARK)


def _furnace(wide: Light, floor: int, unit: float) -> None:
    x, y = MARGIN + MOUTH[0] * unit, MARGIN + MOUTH[1] * unit
    dome = [
        (x + 300 * unit * math.cos(a), y + 120 * unit - 330 * unit * math.sin(a))
        for a in np.linspace(math.pi, 0, 48)
    ]
    fill(
        wide,
        [(x - 300 * unit, float(floor)), *dome, (x + 300 * unit, float(floor))],
        (0.0062, 0.0049, 0.0042),
    )
    box(wide, x + 60 * unit, y - 640 * unit, 110 * unit, 420 * unit, (0.0052, 0.0044, 0.004))
    for share in (0.42, 0.72):
        band = [
            (
                x + 303 * unit * share * math.cos(a) / share,
                y + 120 * unit - 334 * unit * math.sin(a),
            )
            for a in np.linspace(math.pi * (1 - share * 0.4), math.pi * share * 0.4, 30)
        ]
        cv2.polylines(
            wide,
            [np.array(band, np.float32).astype(np.int32)],
            False,
            _DARK,
            max(1, int(5 * unit)),
            cv2.LINE_AA,
        )
    ring = [
        (x + 66 * unit * math.cos(a), y + 66 * unit * math.sin(a))
        for a in np.linspace(0, 2 * math.pi, 60)
    ]
    fill(wide, ring, _IRON)
    hole = [
        (x + 48 * unit * math.cos(a), y + 48 * unit * math.sin(a))
        for a in np.linspace(0, 2 * math.pi, 60)
    ]
    fill(wide, hole, (0.55, 0.16, 0.03))
    lamp(wide, x, y + 12 * unit, 26 * unit, (0.9, 0.34, 0.08))
    lamp(wide, x, y + 20 * unit, 190 * unit, (0.02, 0.0075, 0.002))


def _wheel(wide: Light, unit: float) -> None:
    x, y = MARGIN + HUB[0] * unit, MARGIN + HUB[1] * unit
    centre, turn = (int(x), int(y)), 0.13
    for radius, thick in ((330, 20), (286, 8), (120, 9)):
        cv2.circle(wide, centre, int(radius * unit), _IRON, max(1, int(thick * unit)), cv2.LINE_AA)
    for spoke in range(12):
        angle = turn + spoke * math.pi / 6
        ux, uy = math.cos(angle), math.sin(angle)
        for near, far, half, light in (
            (34, 322, 8, _IRON),
            (322, 392, 30, (0.0055, 0.0048, 0.0042)),
        ):
            px, py = -uy * half * unit, ux * half * unit
            fill(wide, [(x + near * unit * ux + px, y + near * unit * uy + py), (x + far * unit * ux + px, y + far * unit * uy + py),
                        (x + far * unit * ux - px, y + far * unit * uy - py), (x + near * unit * ux - px, y + near * unit * uy - py)], light)  # fmt: skip
    cv2.circle(wide, centre, int(52 * unit), (0.02, 0.0165, 0.011), -1, cv2.LINE_AA)
    cv2.circle(wide, centre, int(30 * unit), (0.045, 0.034, 0.018), -1, cv2.LINE_AA)
    cv2.circle(wide, centre, int(14 * unit), _DARK, -1, cv2.LINE_AA)


def _pipes(wide: Light, unit: float) -> None:
    """What hangs from the roof, before all else."""
    for y, thick in ((66, 22), (104, 12)):
        box(wide, 0, MARGIN + y * unit, wide.shape[1], thick * unit, _DARK)
    for x in (250, 830, 1240, 1790):
        box(wide, MARGIN + x * unit, 0, 16 * unit, MARGIN + 110 * unit, _DARK)


def _floor(wide: Light, floor: int) -> None:
    """Wet stone that mirrors the hall."""
    rows = wide.shape[0] - floor
    mirror = cv2.GaussianBlur(wide[floor - rows : floor][::-1], (0, 0), sigmaX=5, sigmaY=22)
    fade = np.linspace(0.6, 0.25, rows, dtype=np.float32)[:, None, None]
    wide[floor:] = mirror * fade + 0.0015
