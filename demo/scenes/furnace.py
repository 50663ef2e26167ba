"""The furnace's door in the works, open, with no fire to be seen in it; and the roofs above it at dusk, with its flue."""

from __future__ import annotations

import cv2
import numpy as np

from demo.brush import MARGIN, Light, box, cloud, fill, lamp

MOUTH = (960.0, 858.0)
"""The middle of the sill of the furnace's mouth, in the frame of 1920 x 1080."""

FLUE = (846.0, 880.0)
"""The middle of the flue's rim."""


def furnace(width: int, height: int) -> Light:
    """A wall of brick with an arched mouth, its iron door hung open, a sill, flags, and a shovel against the wall."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    unit = width / 1920
    _wall(wide, unit)
    _mouth(wide, unit)
    _door(wide, unit)
    _floor(wide, unit)
    return cv2.GaussianBlur(wide, (0, 0), 0.9)


def _at(x: float, y: float, unit: float) -> tuple[float, float]:
    return MARGIN + x * unit, MARGIN + y * unit


def _wall(wide: Light, unit: float) -> None:
    rows, columns = wide.shape[:2]
    bricks = np.ones((rows, columns), np.float32)
    random = np.random.Generator(np.random.Philox(key=141))
    tall, long, joint = round(52 * unit), round(138 * unit), max(2, round(5 * unit))
    for row in range(0, rows, tall):
        for column in range(-(row // tall % 2) * long // 2, columns, long):
            left = max(0, column)
            bricks[row : row + tall, left : column + long] *= 0.62 + 0.76 * random.random()
            bricks[row : row + tall, left : left + joint] *= 0.4
        bricks[row : row + joint] *= 0.4
    bricks = cv2.GaussianBlur(bricks, (0, 0), 1.3 * unit) * (0.5 + 1.0 * cloud(rows, columns, 142))
    soot = np.zeros((rows, columns, 3), np.float32)
    lamp(soot, *_at(960, 250, unit), 330 * unit, (1.0, 1.0, 1.0))
    light = np.full((rows, columns, 3), (0.030, 0.022, 0.018), np.float32)
    lamp(light, *_at(120, -60, unit), 900 * unit, (0.040, 0.042, 0.046))
    wide += light * (bricks * (1 - 0.72 * soot[..., 0]))[..., None]


def _arch(half: float, top: float, unit: float) -> list[tuple[float, float]]:
    """The outline of the mouth: straight sides, and a flat arch over them."""
    x, foot = MOUTH
    turns = np.linspace(np.pi, 0, 48)
    rise = 0.55 * half
    curve = [_at(x + half * np.cos(t), top + rise - rise * np.sin(t), unit) for t in turns]
    return [_at(x - half, foot, unit), *curve, _at(x + half, foot, unit)]


def _mouth(wide: Light, unit: float) -> None:
    """A ring of stones round a depth as black as soot, with the bars of a grate at its bottom."""
    x, foot = MOUTH
    fill(wide, _arch(372, 330, unit), (0.021, 0.0175, 0.015))
    for t in np.linspace(0.08, np.pi - 0.08, 15):
        ends = [_at(x + r * np.cos(t), 330 + 204 - 0.55 * r * np.sin(t), unit) for r in (296, 372)]
        points = [tuple(round(16 * part) for part in end) for end in ends]
        cv2.line(wide, points[0], points[1], (0.006, 0.005, 0.0045), round(6 * unit), cv2.LINE_AA, 4)  # fmt: skip
    fill(wide, _arch(300, 372, unit), (0.0016, 0.0012, 0.0011))
    for bar in range(9):
        left, top = _at(x - 280 + 70 * bar - 9, foot - 46, unit)
        box(wide, left, top, 18 * unit, 46 * unit, (0.0042, 0.0036, 0.0034))


def _door(wide: Light, unit: float) -> None:
    """Seen half from its side, with rivets and two bands."""
    plate = [_at(1360, 338, unit), _at(1560, 300, unit), _at(1560, 912, unit), _at(1360, 866, unit)]
    fill(wide, plate, (0.0125, 0.0125, 0.0135))
    for top in (0.2, 0.74):
        a, b = 338 + top * 528, 300 + top * 612
        band = [_at(1350, a, unit), _at(1560, b, unit), _at(1560, b + 42, unit), _at(1350, a + 38, unit)]  # fmt: skip
        fill(wide, band, (0.019, 0.018, 0.018))
        for rivet in range(6):
            part = (rivet + 0.5) / 6
            place = _at(1356 + 204 * part, a + 19 + (b - a) * part, unit)
            cv2.circle(wide, (round(place[0]), round(place[1])), round(6 * unit), (0.034, 0.033, 0.032), -1, cv2.LINE_AA)  # fmt: skip


def _floor(wide: Light, unit: float) -> None:
    """The sill, and flags that go back to the wall."""
    rows, columns = wide.shape[:2]
    ground = round(_at(0, 934, unit)[1])
    flags = 0.012 + 0.02 * cloud(rows - ground, columns, 143)
    wide[ground:] = flags[..., None] * np.array([1.0, 0.95, 0.9], np.float32)
    for line in (0.0, 0.22, 0.6, 1.2):
        row = ground + round(150 * unit * line)
        wide[row : row + round((3 + 4 * line) * unit)] *= 0.4
    for k in range(-7, 8):
        x = 960 + 210 * k
        a, b = _at(x, 934, unit), _at(960 + 330 * k, 1200, unit)
        points = [tuple(round(16 * part) for part in end) for end in (a, b)]
        cv2.line(wide, points[0], points[1], (0.005, 0.005, 0.0048), round(5 * unit), cv2.LINE_AA, 4)  # fmt: skip
    sill = [_at(560, 858, unit), _at(1360, 858, unit), _at(1400, 940, unit), _at(520, 940, unit)]
    fill(wide, sill, (0.026, 0.022, 0.019))
    handle = [_at(298, 330, unit), _at(314, 330, unit), _at(420, 900, unit), _at(398, 900, unit)]
    fill(wide, handle, (0.03, 0.021, 0.013))
    blade = [_at(372, 880, unit), _at(446, 880, unit), _at(470, 1010, unit), _at(366, 1010, unit)]
    fill(wide, blade, (0.02, 0.021, 0.023))


def roofs(width: int, height: int) -> Light:
    """Roofs at dusk: a low sky, lit windows and masts far off, and the furnace's flue before them."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    rows, columns = wide.shape[:2]
    unit = width / 1920
    high = np.clip(1 - np.arange(rows, dtype=np.float32) / (MARGIN + 800 * unit), 0, 1)[:, None]
    sky = np.array([0.30, 0.155, 0.085], np.float32) * (1 - high[..., None]) ** 2.2
    sky = sky + np.array([0.030, 0.050, 0.095], np.float32) * (0.3 + 0.7 * high[..., None])
    wide += sky * (0.75 + 0.5 * cloud(rows, columns, 151))[..., None]
    random = np.random.Generator(np.random.Philox(key=152))
    for far, (low, dark) in enumerate(((640, 0.055), (720, 0.028), (810, 0.012))):
        x = -160.0
        while x < 2100:
            w, top = random.uniform(90, 230), low - random.uniform(0, 130)
            colour = (dark * 0.9, dark * 0.85, dark)
            box(wide, *_at(x, top, unit), w * unit, 900 * unit, colour)
            peak = [_at(x - 8, top, unit), _at(x + w / 2, top - 0.36 * w, unit), _at(x + w + 8, top, unit)]  # fmt: skip
            fill(wide, peak, tuple(0.8 * part for part in colour))
            for _ in range(3 if far < 2 else 1):
                if random.random() < 0.55:
                    wx, wy = x + random.uniform(0.15, 0.75) * w, top + random.uniform(20, 110)
                    box(wide, *_at(wx, wy, unit), 15 * unit, 21 * unit, (0.75, 0.42, 0.15))
            x += w - random.uniform(0, 12)
        if far == 0:
            for mast in (182, 336, 1196, 1352, 1430):
                top, far_off = 330 + mast % 90, (0.024, 0.024, 0.03)
                box(wide, *_at(mast, top, unit), 4 * unit, 330 * unit, far_off)
                for yard, half in ((50, 44), (118, 60), (196, 70)):
                    box(
                        wide,
                        *_at(mast + 2 - half, top + yard, unit),
                        2 * half * unit,
                        3 * unit,
                        far_off,
                    )
    _flue(wide, unit)
    return cv2.GaussianBlur(wide, (0, 0), 0.9)


def _flue(wide: Light, unit: float) -> None:
    """A stack of brick with a collar, and a clay pot on it."""
    x, y = FLUE
    for row in range(12):
        top = y + 120 + 50 * row
        for brick in range(3):
            shade = 0.010 + 0.004 * ((row * 3 + brick * 7) % 5) / 4
            left = x - 150 + 100 * brick + 6 * (row % 2)
            box(wide, *_at(left, top, unit), 94 * unit, 45 * unit, (shade * 1.2, shade * 0.95, shade * 0.9))  # fmt: skip
    box(wide, *_at(x - 176, y + 92, unit), 352 * unit, 34 * unit, (0.015, 0.0125, 0.012))
    pot = [_at(x - 74, y, unit), _at(x + 74, y, unit), _at(x + 92, y + 94, unit), _at(x - 92, y + 94, unit)]  # fmt: skip
    fill(wide, pot, (0.020, 0.0125, 0.0095))
    box(wide, *_at(x - 84, y - 8, unit), 168 * unit, 20 * unit, (0.026, 0.0165, 0.0125))
