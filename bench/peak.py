"""What this machine can do at best, and how near to it the steps come that take samples along ways."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from bench.rows import Row, median_seconds, milliseconds
from bench.steps import CANVAS, made, picture_of_light, work
from handful.engine.kernels.compiled import compiled_along, in_bands, thread_count
from handful.engine.kernels.pixels.smear import add_taps, passes_and_taps
from handful.engine.kinds import At
from handful.engine.picture import Tile

PIXELS = CANVAS.width * CANVAS.height
TAP_FLOPS = 41
"""Of a sample between four px of four channels: 9 for its weights, 28 to weigh them, 4 to add it up."""

TAP_BYTES = 64
"""What such a sample loads: four px of four floats."""

_NEAR = 4096
"""Floats that lie near the processor."""

_ROUNDS = 10_000
_SAMPLES = {
    "zoom": passes_and_taps(0.6 * CANVAS.farthest_from(960, 540)),
    "spin": passes_and_taps(0.5 * math.pi * CANVAS.farthest_from(960, 540)),
    "rays": passes_and_taps(0.6 * CANVAS.farthest_from(960, 540)),
    "flow": (3, 7),
    "displace": (1, 1),
}
"""In how many passes the steps go, as they are measured, and how many samples each px takes in each. A flow's samples
wait for one another, as each tells where the next is; what is displaced is taken along slopes, of 12 floats more."""


def peak() -> Iterator[Row]:
    """The peaks of memory, of floats and of loads from near by, each measured; and each step that smears beside the
    least time that they would leave it (Williams, Waterman and Patterson, "Roofline", CACM 2009)."""
    picture = picture_of_light()
    copying = median_seconds(lambda: picture.copy(), 15)
    threads = thread_count()
    floats = np.ones((threads, _NEAR), np.float32)
    adding = median_seconds(lambda: in_bands(_multiply_rows, threads, floats, band=1), 5)
    flops = threads * _NEAR * _ROUNDS * 2 / adding
    near = floats[:, : _NEAR // 2].copy()
    out = np.zeros_like(near)
    loading = median_seconds(lambda: in_bands(_load_rows, threads, near, out, band=1), 5)
    loads = 2 * near.nbytes * _ROUNDS / loading
    line, small = np.zeros((CANVAS.width, 4), np.float32), picture[:4].copy()
    sampled = median_seconds(lambda: _sample(small, line), 9)
    sampling = sampled / (_REPEATS * (CANVAS.width - 2))
    yield _peak("memory moved by a copy", f"{2 * picture.nbytes / copying / 1e9:.1f} GB/s", copying)
    yield _peak("floats multiplied and added", f"{flops / 1e9:.1f} Gflop/s", adding)
    yield _peak("bytes loaded from near by", f"{loads / 1e9:.0f} GB/s", loading)
    yield _peak("samples between px near by", f"{1e9 * sampling:.1f} ns each", sampled)
    at, tile = At(CANVAS, 1.0, ("bench",), CANVAS), Tile(picture, CANVAS)
    for name, (passes, taps) in _SAMPLES.items():
        count = passes * taps * PIXELS
        bounds = {
            "memory": 2 * passes * copying,
            "floats": count * TAP_FLOPS / flops,
            "loads": count * TAP_BYTES / loads,
            "samples": count * sampling / threads,
        }
        taken = median_seconds(work(made(name), tile, at), 5)
        held_by, bound = max(bounds.items(), key=lambda pair: pair[1])
        told = ", ".join(f"{what} {milliseconds(least)}" for what, least in bounds.items())
        yield Row(
            f"{name}: {passes} x {taps} samples for each px", milliseconds(taken),
            f"{told}; {1e9 * taken * threads / count:.1f} ns a sample", taken / bound,
            f"printed, of {held_by}", True,
        )  # fmt: skip


def _sample(small: NDArray[np.float32], line: NDArray[np.float32]) -> None:
    """Samples of a few rows, which lie near by, along a row that slants a little."""
    width = small.shape[1]
    for _ in range(_REPEATS):
        add_taps(
            small.reshape(-1), line, np.float32(0.1), 0.3, 0.999, 0.6, 0.001, width, 0, width - 2
        )


_REPEATS = 200


def _peak(name: str, told: str, taken: float) -> Row:
    return Row(name, told, milliseconds(taken), 1.0, "printed", True)


@compiled_along
def _multiply_rows(first: int, last: int, floats: NDArray[np.float32]) -> None:
    by, more = np.float32(0.999), np.float32(0.001)
    for row in range(first, last):
        line = floats[row]
        for _ in range(_ROUNDS):
            for i in range(line.shape[0]):
                line[i] = line[i] * by + more


@compiled_along
def _load_rows(first: int, last: int, near: NDArray[np.float32], out: NDArray[np.float32]) -> None:
    """Adds what lies near by to what lies near by."""
    for row in range(first, last):
        held, sums = near[row], out[row]
        for _ in range(_ROUNDS):
            for i in range(held.shape[0]):
                sums[i] += held[i]
