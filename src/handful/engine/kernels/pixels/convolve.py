"""Convolution with a shape of any size, through the frequency domain."""

from __future__ import annotations

import cv2
import numpy as np

from handful.engine.kernels.compiled import in_bands
from handful.engine.picture import Matte, Region, Tile, clear_tile


def convolved(tile: Tile, shape: Matte, region: Region) -> Tile:
    """A picture convolved with a shape `(2r + 1, 2r + 1)` around its middle, on a region.

    The picture is clear beyond its tile. By the convolution theorem, channel by channel.
    """
    radius = shape.shape[0] // 2
    room = tile.region.grown(radius)
    height = cv2.getOptimalDFTSize(room.height)
    width = cv2.getOptimalDFTSize(room.width)
    spectrum = cv2.dft(_padded(shape, height, width))
    result = np.zeros((region.height, region.width, 4), np.float32)
    shared = room.meet(region)
    if shared.empty:
        return clear_tile(region)
    rows = slice(shared.top - room.top, shared.bottom - room.top)
    columns = slice(shared.left - room.left, shared.right - room.left)
    target = Tile(result, region).within(shared)

    def convolve(first: int, last: int) -> None:
        for c in range(first, last):
            plane = cv2.dft(_padded(tile.pixels[..., c], height, width))
            product = cv2.mulSpectrums(plane, spectrum, 0)
            inverse = cv2.idft(product, flags=cv2.DFT_SCALE | cv2.DFT_REAL_OUTPUT)
            target[..., c] = np.maximum(inverse[rows, columns], 0)

    in_bands(convolve, 4, band=1)
    return Tile(result, region)


def _padded(plane: Matte, height: int, width: int) -> Matte:
    padded = np.zeros((height, width), np.float32)
    padded[: plane.shape[0], : plane.shape[1]] = plane
    return padded
