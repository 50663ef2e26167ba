"""OpenEXR: premultiplied linear light, as its specification says, through the official bindings."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Literal

import cv2
import numpy as np
import OpenEXR

from handful.engine.colour.transfer import BT709_CHROMATICITIES
from handful.engine.files.writing import write_atomically
from handful.engine.picture import Picture

_MOST_HALF = 65504.0
"""The largest finite half float (IEEE 754-2008 binary16)."""


def write_exr(
    path: Path,
    picture: Picture,
    rate: Fraction,
    depth: Literal["half", "float"],
    overscan: int = 0,
) -> None:
    """Write one scan-line file, ZIP, RGBA in half or float, chromaticities and rate in its header.

    Px of overscan on each side are in the data window only, so that programs lay the display
    window over the shot. Light beyond what half can hold is held at its largest number. Raises
    `WriteError`.
    """
    height, width = (size - 2 * overscan for size in picture.shape[:2])
    if depth == "half":
        # OpenCV's conversion gives the same bits as astype, which is slow on faint light.
        held = np.clip(picture, -_MOST_HALF, _MOST_HALF)
        pixels = cv2.multiply(held, 1.0, dtype=cv2.CV_16F)
    else:
        pixels = np.ascontiguousarray(picture, np.float32)
    header = {
        "compression": OpenEXR.ZIP_COMPRESSION,
        "type": OpenEXR.scanlineimage,
        "chromaticities": BT709_CHROMATICITIES,
        "framesPerSecond": rate,
        "displayWindow": ((0, 0), (width - 1, height - 1)),
        "dataWindow": ((-overscan, -overscan), (width + overscan - 1, height + overscan - 1)),
    }
    file = OpenEXR.File(header, {"RGBA": pixels})
    write_atomically(path, lambda part: file.write(str(part)))


def read_exr(path: Path) -> Picture:
    """The RGBA picture in an EXR file, premultiplied, as float32."""
    with OpenEXR.File(str(path)) as file:
        pixels = file.channels()["RGBA"].pixels
    return np.asarray(pixels, np.float32)
