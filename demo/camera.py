"""A stand-in for a camera: draws the plates of the Saltglass shots, with known motion.

A scene is drawn once, larger than the frame, in linear light; each frame is a window into it that
moves by an exact number of px, with moving water, a little grain, and what else the scene adds.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import encode_srgb
from handful.engine.files import frame_name

Light = NDArray[np.float32]

MARGIN = 160
"""px drawn beyond the frame on each side, for the window to move over."""

HORIZON = 0.735
MAST_TOP = (1312.0, 372.0)
"""Where the mast's top is in the frame at the first frame of 1920 x 1080."""


class Scene(NamedTuple):
    """`pan` is how far, in px a second, things move in the frame; `draw` makes the wide view."""

    pan: tuple[float, float]
    draw: Callable[[int, int], Light]


def shoot(scene: str, canvas: dict[str, float], folder: Path) -> None:
    """Write the plate of a scene as `folder/SCENE.FFFF.jpg` for every frame of the canvas."""
    folder.mkdir(parents=True, exist_ok=True)
    width, height = int(canvas["width"]), int(canvas["height"])
    wide = SCENES[scene].draw(width, height)
    for frame in range(int(canvas["first"]), int(canvas["last"]) + 1):
        seconds = (frame - canvas["first"]) / canvas["rate"]
        picture = _window(wide, SCENES[scene].pan, seconds, width, height)
        signal = encode_srgb(_with_grain(picture, frame)) * 255
        levels = np.round(signal).astype(np.uint8)[..., ::-1]
        path = str(folder / frame_name(scene, frame, "jpg"))
        if not cv2.imwrite(path, levels, [cv2.IMWRITE_JPEG_QUALITY, 93]):
            raise OSError(f"{path} could not be written")


def _window(
    wide: Light, pan: tuple[float, float], seconds: float, width: int, height: int
) -> Light:
    """The frame's part of the wide view; below the horizon the water moves a little."""
    across, down = pan[0] * seconds, pan[1] * seconds
    x = np.arange(width, dtype=np.float32)[None, :] + np.float32(MARGIN - across)
    y = np.arange(height, dtype=np.float32)[:, None] + np.float32(MARGIN - down)
    depth = np.maximum(0, y - MARGIN - HORIZON * height) / height
    ripple = np.sin(y * 0.9 / (0.15 + depth) * 0.05 + seconds * 5.0) + np.sin(
        y * 0.31 + x * 0.013 - seconds * 3.1
    )
    bent = x + ripple * depth * 26
    return cv2.remap(wide, bent, np.broadcast_to(y, bent.shape).copy(), cv2.INTER_LINEAR)


def _with_grain(picture: Light, frame: int) -> Light:
    grain = np.random.Generator(np.random.Philox(key=frame)).standard_normal(
        picture.shape[:2], np.float32
    )
    return picture * (1 + 0.05 * grain[..., None]) + 0.0006 * grain[..., None]


def _harbour(width: int, height: int) -> Light:
    """A night harbour: storm cloud, the glassworks on the quay, a moored ship."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    horizon = int(MARGIN + HORIZON * height)
    wide[:horizon] = _storm_sky(horizon, wide.shape[1])
    _glassworks(wide, horizon, width)
    _ship(wide, horizon, width, height)
    _water(wide, horizon)
    return cv2.GaussianBlur(wide, (0, 0), 0.9)


def _storm_sky(rows: int, columns: int) -> Light:
    cloud = _cloud(rows, columns)
    low = np.linspace(0, 1, rows, dtype=np.float32)[:, None] ** 2.2
    shade = 0.006 + 0.030 * cloud**2.2 + 0.016 * low
    tint = np.array([0.62, 0.80, 1.0], np.float32)
    town = np.array([1.0, 0.55, 0.25], np.float32) * (0.012 * low**3)[..., None]
    sky: Light = shade[..., None] * tint + town
    return sky


def _cloud(rows: int, columns: int) -> Light:
    """Layered noise, stretched sideways, from 0 to 1."""
    random = np.random.Generator(np.random.Philox(key=7))
    total = np.zeros((rows, columns), np.float32)
    for octave in range(7):
        cells = (3 * 2**octave, 4 * 2**octave)
        layer = random.standard_normal(cells).astype(np.float32)
        total += cv2.resize(layer, (columns, rows), interpolation=cv2.INTER_CUBIC) * 0.56**octave
    total -= total.min()
    return total / total.max()


def _fill(wide: Light, corners: list[tuple[float, float]], light: tuple[float, ...]) -> None:
    points = np.round(np.array(corners) * 16).astype(np.int32)
    cv2.fillPoly(wide, [points], light, cv2.LINE_AA, 4)


def _box(wide: Light, x: float, y: float, w: float, h: float, light: tuple[float, ...]) -> None:
    _fill(wide, [(x, y), (x + w, y), (x + w, y + h), (x, y + h)], light)


def _lamp(wide: Light, x: float, y: float, radius: float, light: tuple[float, ...]) -> None:
    rows, columns = np.ogrid[: wide.shape[0], : wide.shape[1]]
    fall = 1 / (1 + ((columns - x) ** 2 + (rows - y) ** 2) / radius**2) ** 1.6
    wide += fall[..., None].astype(np.float32) * np.array(light, np.float32)


def _glassworks(wide: Light, horizon: int, width: int) -> None:
    dark = (0.0045, 0.0055, 0.0075)
    left, unit = MARGIN - 60, width / 1920
    for x, w, h in ((0, 250, 150), (230, 180, 205), (400, 260, 128), (640, 120, 92)):
        _box(wide, left + x * unit, horizon - h * unit, w * unit, h * unit + 2, dark)
    for x in (232, 292, 352):
        peak = horizon - 205 * unit
        _fill(wide, [(left + x * unit, peak), (left + (x + 58) * unit, peak - 40 * unit),
                     (left + (x + 58) * unit, peak)], dark)  # fmt: skip
    _fill(wide, [(left + 118 * unit, horizon), (left + 128 * unit, horizon - 390 * unit),
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
        _box(wide, left + x * unit, horizon - y * unit, 16 * unit, 26 * unit, light)
        _lamp(
            wide,
            left + (x + 8) * unit,
            horizon - (y - 13) * unit,
            26 * unit,
            tuple(0.05 * part for part in light),
        )
    _box(wide, 0, horizon - 16 * unit, left + 800 * unit, 20 * unit, (0.006, 0.006, 0.007))
    _lamp(wide, left + 742 * unit, horizon - 120 * unit, 15 * unit, (0.9, 0.62, 0.34))
    cv2.line(wide, (int(left + 742 * unit), int(horizon - 116 * unit)),
             (int(left + 742 * unit), horizon), (0.004, 0.004, 0.005), max(1, int(4 * unit)), cv2.LINE_AA)  # fmt: skip


def _ship(wide: Light, horizon: int, width: int, height: int) -> None:
    unit = width / 1920
    mast_x, mast_y = MARGIN + MAST_TOP[0] * unit, MARGIN + MAST_TOP[1] * height / 1080
    dark, rope = (0.0035, 0.004, 0.0052), (0.005, 0.006, 0.008)
    deck = horizon - 46 * unit
    _fill(wide, [(mast_x - 330 * unit, deck - 34 * unit), (mast_x - 300 * unit, deck - 4 * unit),
                 (mast_x + 250 * unit, deck), (mast_x + 282 * unit, deck - 30 * unit),
                 (mast_x + 236 * unit, horizon + 16 * unit), (mast_x - 262 * unit, horizon + 16 * unit)], dark)  # fmt: skip
    _box(wide, mast_x + 90 * unit, deck - 50 * unit, 120 * unit, 52 * unit, dark)
    _box(wide, mast_x + 112 * unit, deck - 36 * unit, 15 * unit, 13 * unit, (0.36, 0.18, 0.06))
    for x, top, half in ((0.0, mast_y, 5.5), (-190.0, mast_y + 120 * unit, 4.5)):
        foot = mast_x + x * unit
        _fill(wide, [(foot - 1.6 * unit, top), (foot + 1.6 * unit, top),
                     (foot + half * unit, deck), (foot - half * unit, deck)], dark)  # fmt: skip
        for share, reach in ((0.25, 96), (0.52, 128)):
            y = top + share * (deck - top)
            _box(wide, foot - reach * unit, y, 2 * reach * unit, 4.5 * unit, dark)
            _fill(wide, [(foot - reach * unit * 0.94, y + 4 * unit), (foot + reach * unit * 0.94, y + 4 * unit),
                         (foot + reach * unit * 0.9, y + 13 * unit), (foot - reach * unit * 0.9, y + 13 * unit)], dark)  # fmt: skip
        for spread in (-128, -70, 70, 128):
            end = (int(foot + spread * unit), int(deck))
            cv2.line(wide, (int(foot), int(top + 14 * unit)), end, rope, 1, cv2.LINE_AA)
    cv2.line(wide, (int(mast_x - 190 * unit), int(mast_y + 130 * unit)),
             (int(mast_x - 420 * unit), int(deck - 60 * unit)), dark, max(1, int(4 * unit)), cv2.LINE_AA)  # fmt: skip


def _water(wide: Light, horizon: int) -> None:
    """The mirrored upper part, darker and drawn out downwards."""
    rows = wide.shape[0] - horizon
    mirror = wide[horizon - rows : horizon][::-1]
    smeared = cv2.GaussianBlur(mirror, (0, 0), sigmaX=2.5, sigmaY=16)
    fade = np.linspace(0.75, 0.3, rows, dtype=np.float32)[:, None, None]
    wide[horizon:] = smeared * fade * np.array([0.8, 0.95, 1.0], np.float32) + 0.0012


SCENES: dict[str, Scene] = {"mast-strike": Scene((-12.0, 0.0), _harbour)}
