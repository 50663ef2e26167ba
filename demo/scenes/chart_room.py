"""The pilots' room by night: a chart of the roads pinned to a wall of boards, in the light of a lamp."""

from __future__ import annotations

import math

import cv2
import numpy as np

from demo.brush import MARGIN, Light, cloud, fill, lamp

MIDDLE, TURN = (960.0, 545.0), math.radians(-3.0)
HALF_WIDE, HALF_HIGH = 560.0, 370.0
"""The chart's middle in the frame of 1920 x 1080, how far it is turned, and half of its sides."""

_FINER = 3
"""The chart is drawn so many times finer than it is shown."""


def corners() -> list[tuple[float, float]]:
    """Of the chart in the frame of 1920 x 1080, clockwise from the upper left."""
    c, s = math.cos(TURN), math.sin(TURN)
    ends = [(-HALF_WIDE, -HALF_HIGH), (HALF_WIDE, -HALF_HIGH), (HALF_WIDE, HALF_HIGH), (-HALF_WIDE, HALF_HIGH)]  # fmt: skip
    return [(MIDDLE[0] + x * c - y * s, MIDDLE[1] + x * s + y * c) for x, y in ends]


def chart_room(width: int, height: int) -> Light:
    """Boards, a chart of a coast with its soundings, four pins, and a lamp above on the left."""
    wide = np.zeros((height + 2 * MARGIN, width + 2 * MARGIN, 3), np.float32)
    rows, columns = wide.shape[:2]
    unit = width / 1920
    _boards(wide, unit)
    shadow = np.zeros((rows, columns), np.float32)
    outline = [(MARGIN + (x + 9) * unit, MARGIN + (y + 13) * unit) for x, y in corners()]
    fill(shadow, outline, (0.75,))
    wide *= 1 - cv2.GaussianBlur(shadow, (0, 0), 9 * unit)[..., None]
    _hang(wide, unit)
    light = np.full((rows, columns, 3), 0.10, np.float32)
    lamp(light, MARGIN + 300 * unit, MARGIN - 120 * unit, 760 * unit, (1.5, 1.12, 0.72))
    wide *= light
    for x, y in corners():
        inward = 0.975
        place = MIDDLE[0] + inward * (x - MIDDLE[0]), MIDDLE[1] + inward * (y - MIDDLE[1])
        centre = tuple(round(MARGIN + part * unit) for part in place)
        cv2.circle(wide, centre, round(7 * unit), (0.05, 0.034, 0.012), -1, cv2.LINE_AA)
        shine = (centre[0] - round(2 * unit), centre[1] - round(2 * unit))
        cv2.circle(wide, shine, max(1, round(2 * unit)), (0.5, 0.4, 0.22), -1, cv2.LINE_AA)
    return cv2.GaussianBlur(wide, (0, 0), 0.8)


def _boards(wide: Light, unit: float) -> None:
    rows, columns = wide.shape[:2]
    random = np.random.Generator(np.random.Philox(key=161))
    grain = cv2.resize(
        cloud(rows // 24, columns, 162), (columns, rows), interpolation=cv2.INTER_CUBIC
    )
    wide += np.array([0.052, 0.032, 0.019], np.float32) * (0.45 + 1.1 * grain)[..., None]
    board, gap = round(196 * unit), max(2, round(6 * unit))
    for top in range(0, rows, board):
        wide[top : top + board] *= 0.72 + 0.5 * random.random()
        wide[top : top + gap] *= 0.22
        wide[top + gap : top + 2 * gap] *= 1.3


def _hang(wide: Light, unit: float) -> None:
    """The chart where it hangs."""
    chart = _chart()
    high, broad = chart.shape[:2]
    ends = np.array([[0, 0], [broad, 0], [broad, high]], np.float32)
    hung = np.array([[MARGIN + x * unit, MARGIN + y * unit] for x, y in corners()[:3]], np.float32)
    to_wall = cv2.getAffineTransform(ends, hung)
    size = (wide.shape[1], wide.shape[0])
    mask = cv2.warpAffine(np.ones((high, broad), np.float32), to_wall, size, flags=cv2.INTER_AREA)
    seen = cv2.warpAffine(cv2.GaussianBlur(chart, (0, 0), 0.4 * _FINER / unit), to_wall, size)
    wide += mask[..., None] * (seen - wide)


def _chart() -> Light:
    """Yellowed paper with a coast, lines of depth, soundings, a grid and a rose."""
    broad, high = round(2 * HALF_WIDE * _FINER), round(2 * HALF_HIGH * _FINER)
    chart = np.empty((high, broad, 3), np.float32)
    stains = cloud(high // 8, broad // 8, 163)
    stains = cv2.resize(stains, (broad, high), interpolation=cv2.INTER_CUBIC)
    chart[:] = np.array([0.60, 0.50, 0.33], np.float32) * (0.72 + 0.45 * stains)[..., None]
    bed = cloud(high // 16, broad // 16, 164)
    bed = cv2.resize(bed, (broad, high), interpolation=cv2.INTER_CUBIC)
    slope = np.linspace(0.42, -0.3, broad, dtype=np.float32)[None, :]
    land = bed + slope
    chart[land > 0.62] *= np.array([0.80, 0.72, 0.50], np.float32)
    ink = (0.055, 0.045, 0.04)
    for level, heavy in ((0.62, 9), (0.52, 4), (0.42, 4), (0.30, 3)):
        lines, _ = cv2.findContours(
            (land > level).astype(np.uint8), cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE
        )
        cv2.drawContours(chart, lines, -1, ink, heavy, cv2.LINE_AA)
    for part in np.linspace(0, 1, 8)[1:-1]:
        x, y = round(part * broad), round(part * high)
        cv2.line(chart, (x, 0), (x, high), (0.20, 0.16, 0.11), 2, cv2.LINE_AA)
        cv2.line(chart, (0, y), (broad, y), (0.20, 0.16, 0.11), 2, cv2.LINE_AA)
    soundings = np.zeros((high, broad), np.uint8)
    random = np.random.Generator(np.random.Philox(key=165))
    for _ in range(420):
        x, y = int(random.integers(160, broad - 220)), int(random.integers(160, high - 120))
        if land[y, x] < 0.56:
            depth = max(2, round(60 * (0.66 - float(land[y, x]))))
            cv2.putText(
                soundings, str(depth), (x, y), cv2.FONT_HERSHEY_PLAIN, 2.6, 230, 3, cv2.LINE_AA
            )
    inked = soundings[..., None].astype(np.float32) / np.float32(255)
    chart += inked * (np.array(ink, np.float32) - chart)
    _rose(chart, (round(0.76 * broad), round(0.70 * high)), 0.17 * high)
    frame = 52
    for edge, heavy in ((frame, 10), (frame + 26, 3)):
        cv2.rectangle(chart, (edge, edge), (broad - edge, high - edge), ink, heavy, cv2.LINE_AA)
    return chart


def _rose(chart: Light, middle: tuple[int, int], radius: float) -> None:
    ink = (0.06, 0.045, 0.04)
    for share in (1.0, 0.86, 0.42):
        cv2.circle(chart, middle, round(share * radius), ink, 4, cv2.LINE_AA)
    for k in range(72):
        turn, inner = math.radians(5 * k), 0.9 if k % 2 else 0.86
        ends = [
            (round(middle[0] + r * radius * math.sin(turn)), round(middle[1] - r * radius * math.cos(turn)))
            for r in (inner, 1.0)
        ]  # fmt: skip
        cv2.line(chart, ends[0], ends[1], ink, 3, cv2.LINE_AA)
    for k in range(8):
        turn, far = math.pi / 4 * k, (1.12 if k % 2 == 0 else 0.62) * radius
        side = 0.09 * radius
        tip = (middle[0] + far * math.sin(turn), middle[1] - far * math.cos(turn))
        for way, shade in ((1, ink), (-1, (0.34, 0.25, 0.16))):
            foot = (
                middle[0] + way * side * math.cos(turn),
                middle[1] + way * side * math.sin(turn),
            )
            fill(chart, [tip, foot, (float(middle[0]), float(middle[1]))], shade)
