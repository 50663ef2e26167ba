"""Drawing and moving many particles, beside what is common for that."""

from __future__ import annotations

import math
import resource
from collections.abc import Iterator

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.rows import Row, judged, median_seconds, milliseconds
from handful.engine.kernels.drawing.sheets import sheet_of
from handful.engine.kernels.drawing.spots import draw_spots
from handful.engine.kernels.drawing.sprites import draw_sprites
from handful.engine.kernels.forms.carrying import NOWHERE, Air, carry
from handful.engine.kernels.forms.flight import fly
from handful.engine.picture import Region, blank

REGION = Region(0, 0, 1920, 1080)
MOST_MEGABYTES = 300.0
Numbers = NDArray[np.float32]


def particles() -> Iterator[Row]:
    """Whole frames of spots and sprites at 1920 x 1080, a step of flight, and the memory of a million.

    Aims are judged as copies of a picture in the same run, where one takes 4.5 ms.
    """
    picture = blank(REGION)
    copying = median_seconds(picture.copy, 9)
    discs, tiny = _spots(100_000, 4.0), _spots(1_000_000, 0.5)
    theirs = median_seconds(lambda: _by_opencv(discs), 3)
    plain = median_seconds(lambda: _by_numpy(discs[:2000]), 1) * 50
    beside = f"{milliseconds(theirs)} cv2.circle, {milliseconds(plain)} numpy"
    yield _row("100,000 soft spots of 4 px", discs, copying, 60, beside)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    yield _row("a million of 1 px", tiny, copying, 400, "")
    more = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    yield Row(
        "memory of a million", f"{more:.0f} MB", "", more, f"≤ {MOST_MEGABYTES:g} MB",
        more <= MOST_MEGABYTES,
    )  # fmt: skip
    sheet = sheet_of("a puff")
    sprites = _sprites(20_000, 24.0)
    taken = median_seconds(lambda: draw_sprites(sheet, sprites, REGION, (0.0, -1.0), False), 5)
    yield judged("20,000 sprites of 48 px", taken, copying, 120)
    chance = np.random.default_rng(1)
    starts, speeds = chance.random((2, 100_000, 2)) * 1000
    ages, places = chance.random(100_000), np.empty((100_000, 2))
    taken = median_seconds(
        lambda: fly(starts, speeds, ages, (0.0, 900.0), (20.0, 0.0), 0.8, np.inf, 0.5, 0.7, places),
        9,
    )
    yield judged("where 100,000 are", taken, copying, 12)
    air = Air(
        gravity=(0.0, 900.0), wind=(20.0, 0.0), drag=0.8, drag_fast=0.0, stir=400.0, stir_size=260.0,
        turns=0.4, pull=0.0, whirl=0.0, reach=300.0, swallows=0.0, x=960.0, y=540.0, to_edge=False, along=0.0, floor=math.inf,
        bounce=0.5, slide=0.7,
    )  # fmt: skip
    spans, line = np.full(100_000, 0.02), np.empty((0, 2))
    taken = median_seconds(
        lambda: carry(starts, speeds, spans, air, line, NOWHERE, NOWHERE, (1, 2)), 9
    )
    yield judged("one step of 100,000, stirred", taken, copying, 12)


def _row(name: str, spots: Numbers, copying: float, aim: float, beside: str) -> Row:
    taken = median_seconds(lambda: draw_spots(spots, REGION, False, False), 5)
    return judged(name, taken, copying, aim, beside)


def _spots(count: int, radius: float) -> Numbers:
    chance = np.random.default_rng(2)
    spots = np.zeros((count, 9), np.float32)
    spots[:, :2] = chance.random((count, 2)) * (1920, 1080)
    spots[:, 2:4] = spots[:, :2]
    spots[:, 4], spots[:, 5:8] = radius, 0.1
    return spots


def _sprites(count: int, half: float) -> Numbers:
    chance = np.random.default_rng(3)
    sprites = np.zeros((count, 12), np.float32)
    sprites[:, :2] = chance.random((count, 2)) * (1920, 1080)
    sprites[:, 2:4] = half
    turn = chance.random(count) * 2 * np.pi
    sprites[:, 4], sprites[:, 5] = np.cos(turn), np.sin(turn)
    sprites[:, 6], sprites[:, 7:10] = chance.integers(0, 6, count), 0.05
    return sprites


def _by_opencv(spots: Numbers) -> NDArray[np.float32]:
    picture = np.zeros((1080, 1920, 3), np.float32)
    for x, y in spots[:, :2]:
        cv2.circle(picture, (int(x * 16), int(y * 16)), 64, (0.1, 0.1, 0.1), -1, cv2.LINE_AA, 4)
    return picture


def _by_numpy(spots: Numbers) -> NDArray[np.float32]:
    picture = np.zeros((1090, 1930, 3), np.float32)
    for x, y in spots[:, :2]:
        left, top = int(x), int(y)
        v, u = np.mgrid[top : top + 9, left : left + 9]
        level = np.maximum(0, 1 - ((u - 4 - x) ** 2 + (v - 4 - y) ** 2) / 16) ** 3
        picture[top : top + 9, left : left + 9] += 0.1 * level[..., None]
    return picture
