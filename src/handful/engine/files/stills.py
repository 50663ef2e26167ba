"""Reading single pictures."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np

from handful.engine.colour.transfer import decode_srgb
from handful.engine.files.exr import read_exr
from handful.engine.picture import Picture


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


_LINEAR_OF_BYTE = decode_srgb(np.arange(256) / 255).astype(np.float32)


def read_display_still(path: Path, width: int, height: int) -> Picture:
    """An 8-bit sRGB still, sized to `width` x `height` by area, as a picture with full cover.

    Raises `OSError` if there is none to be read.
    """
    levels = cv2.imread(str(path), cv2.IMREAD_COLOR_RGB)
    if levels is None:
        raise OSError(f"{path} is not a picture that can be read")
    linear = _LINEAR_OF_BYTE[levels]
    if linear.shape[:2] != (height, width):
        smaller = width < linear.shape[1]
        way = cv2.INTER_AREA if smaller else cv2.INTER_CUBIC
        linear = cv2.resize(linear, (width, height), interpolation=way)
    picture = np.ones((height, width, 4), np.float32)
    picture[..., :3] = linear
    return picture
