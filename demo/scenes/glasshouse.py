"""The glasshouse at night: the furnace's mouth with its pot, and the iron that glass is gathered on."""

from __future__ import annotations

import cv2
import numpy as np

from demo.brush import MARGIN, Light, cloud, fill, lamp

POT = (846.0, 716.0)
"""The middle of the pot's mouth, in the frame of 1920 x 1080."""

POT_WIDTH, POT_HEIGHT = 560.0, 168.0

TIP = (866.0, 430.0)
"""The end of the iron."""


def glasshouse(width: int, height: int) -> Light:
    """A furnace of brick with an arched mouth, the pot in it, and an iron that is held over the pot."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    unit = width / 1920
    _wall(wide, unit)
    _mouth(wide, unit)
    _pot(wide, unit)
    _iron(wide, unit)
    return cv2.GaussianBlur(wide, (0, 0), 0.9)


def _at(x: float, y: float, unit: float) -> tuple[float, float]:
    return MARGIN + x * unit, MARGIN + y * unit


def _wall(wide: Light, unit: float) -> None:
    """Bricks that the mouth's light falls on."""
    rows, columns = wide.shape[:2]
    rough = 0.6 + 0.8 * cloud(rows, columns, 121)
    bricks = np.ones((rows, columns), np.float32)
    tall, long = round(44 * unit), round(116 * unit)
    random = np.random.Generator(np.random.Philox(key=122))
    for row in range(0, rows, tall):
        shift = (row // tall % 2) * long // 2
        for column in range(-shift, columns, long):
            left, right = max(0, column), column + long
            bricks[row : row + tall, left:right] *= 0.75 + 0.5 * random.random()
            bricks[row : row + tall, left : left + round(4 * unit)] *= 0.45
        bricks[row : row + round(4 * unit)] *= 0.45
    bricks = cv2.GaussianBlur(bricks, (0, 0), 1.1 * unit)
    light = np.full((rows, columns, 3), (0.0035, 0.0045, 0.0065), np.float32)
    x, y = _at(POT[0], 520, unit)
    lamp(light, x, y, 330 * unit, (0.085, 0.03, 0.0085))
    wide += light * (bricks * rough)[..., None]


def _arch(x: float, half: float, top: float, foot: float, unit: float) -> list[tuple[float, float]]:
    """The outline of a mouth: straight sides, and half a circle over them."""
    turns = np.linspace(np.pi, 0, 48)
    spring = top + half
    curve = [_at(x + half * np.cos(t), spring - half * np.sin(t), unit) for t in turns]
    return [_at(x - half, foot, unit), *curve, _at(x + half, foot, unit)]


def _mouth(wide: Light, unit: float) -> None:
    """A ring of stones, lit from within, and the hot depth behind them."""
    x, top, foot = POT[0], 250.0, 860.0
    fill(wide, _arch(x, 372, top - 62, foot, unit), (0.046, 0.019, 0.0075))
    for t in np.linspace(0, np.pi, 16):
        a = _at(x + 310 * np.cos(t), top + 310 - 310 * np.sin(t), unit)
        b = _at(x + 372 * np.cos(t), top + 310 - 372 * np.sin(t), unit)
        ends = [tuple(round(16 * part) for part in end) for end in (a, b)]
        cv2.line(wide, ends[0], ends[1], (0.012, 0.005, 0.0025), round(5 * unit), cv2.LINE_AA, 4)
    depth = np.zeros(wide.shape[:2], np.float32)
    cv2.fillPoly(depth, [np.round(np.array(_arch(x, 310, top, foot, unit)) * 16).astype(np.int32)], 1.0, cv2.LINE_AA, 4)  # fmt: skip
    hot = np.zeros_like(wide)
    hot += np.array([0.26, 0.062, 0.0085], np.float32)
    lamp(hot, *_at(x, 640, unit), 240 * unit, (0.85, 0.30, 0.06))
    hot *= (0.72 + 0.5 * cloud(wide.shape[0], wide.shape[1], 123))[..., None]
    wide *= 1 - depth[..., None]
    wide += hot * depth[..., None]


def _pot(wide: Light, unit: float) -> None:
    """The pot's clay wall below its rim; what is in it is not there yet."""
    x, y = _at(*POT, unit)
    across, down = POT_WIDTH / 2 * unit, POT_HEIGHT / 2 * unit
    centre = (round(16 * x), round(16 * y))
    outer = (round(16 * (across + 30 * unit)), round(16 * (down + 22 * unit)))
    foot = MARGIN + 862 * unit
    clay, lit = (0.030, 0.0115, 0.005), (0.30, 0.092, 0.018)
    side = across + 30 * unit
    fill(wide, [(x - side, y), (x + side, y), (x + 0.9 * side, foot), (x - 0.9 * side, foot)], clay)
    cv2.ellipse(wide, centre, outer, 0, 0, 360, lit, -1, cv2.LINE_AA, 4)
    inner = (round(16 * across), round(16 * down))
    cv2.ellipse(wide, centre, inner, 0, 0, 360, (0.10, 0.026, 0.004), -1, cv2.LINE_AA, 4)
    sill = [_at(380, 856, unit), _at(1312, 856, unit), _at(1360, 930, unit), _at(332, 930, unit)]
    fill(wide, sill, (0.032, 0.014, 0.007))
    fill(wide, [_at(332, 930, unit), _at(1360, 930, unit), _at(1360, 1400, unit), _at(332, 1400, unit)], (0.0085, 0.0055, 0.0045))  # fmt: skip


def _iron(wide: Light, unit: float) -> None:
    """A rod from the right, red at its end."""
    a, b = np.array(_at(*TIP, unit)), np.array(_at(1990, 880, unit))
    along = b - a
    aside = np.array([-along[1], along[0]]) / np.linalg.norm(along)
    for part in range(40):
        t0, t1 = part / 40, (part + 1) / 40
        hot = max(0.0, 1 - t0 * 5) ** 2
        body = (0.012 + 0.36 * hot, 0.0085 + 0.055 * hot, 0.0075 + 0.004 * hot)
        p, q = a + along * t0, a + along * t1
        r0, r1 = (9 + 4 * t0) * unit, (9 + 4 * t1) * unit
        fill(wide, [tuple(p - aside * r0), tuple(q - aside * r1), tuple(q + aside * r1), tuple(p + aside * r0)], body)  # fmt: skip
        edge = (0.06 + 0.2 * hot, 0.02 + 0.04 * hot, 0.006)
        fill(wide, [tuple(p + aside * 0.55 * r0), tuple(q + aside * 0.55 * r1), tuple(q + aside * 0.9 * r1), tuple(p + aside * 0.9 * r0)], edge)  # fmt: skip
