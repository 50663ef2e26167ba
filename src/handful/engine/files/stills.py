"""Reading single pictures."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from handful.engine.colour.transfer import decode_srgb
from handful.engine.files.exr import read_exr
from handful.engine.picture import Picture

MOST_REDUCED_WIDTH = 960
"""Up to this width a still is read at half its size, which is enough for a plate of 1920 px."""


def read_picture(path: Path) -> Picture:
    """A rendered picture, EXR or straight 16-bit PNG, premultiplied in linear light.

    Raises `OSError` if there is none to be read.
    """
    if path.suffix == ".exr":
        return read_exr(path)
    levels = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    if levels is None:
        raise OSError(f"{path} is not a picture that can be read")
    signal = levels[..., [2, 1, 0, 3]].astype(np.float32) / 65535
    picture: Picture = signal
    picture[..., :3] = decode_srgb(signal[..., :3]) * signal[..., 3:]
    return picture


def read_display_still(path: Path, width: int, height: int) -> NDArray[np.uint8]:
    """An 8-bit sRGB still `(height, width, 3)`, sized by area, to lie behind a view.

    Much smaller than the file, it is reduced while it is decoded. Raises `OSError` if there is
    none to be read.
    """
    flags = cv2.IMREAD_REDUCED_COLOR_2 if width <= MOST_REDUCED_WIDTH else cv2.IMREAD_COLOR
    levels = cv2.imread(str(path), flags) if path.is_file() else None
    if levels is None:
        raise OSError(f"{path} is not a picture that can be read")
    if levels.shape[:2] != (height, width):
        way = cv2.INTER_AREA if width < levels.shape[1] else cv2.INTER_CUBIC
        levels = cv2.resize(levels, (width, height), interpolation=way)
    return np.ascontiguousarray(levels[..., ::-1])
