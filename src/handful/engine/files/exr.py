"""OpenEXR: premultiplied linear light, as its specification says, through the official bindings."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Literal

import cv2
import numpy as np
import OpenEXR
from numpy.typing import NDArray

from handful.engine.colour.transfer import BT709_CHROMATICITIES
from handful.engine.files.about import About
from handful.engine.files.writing import write_atomically
from handful.engine.picture import Bent, Picture
from handful.engine.values import time_parts

_MOST_HALF = 65504.0
"""The largest finite half float (IEEE 754-2008 binary16)."""


def write_exr(
    path: Path,
    picture: Picture,
    about: About,
    depth: Literal["half", "float"],
    bend: Bent | None = None,
) -> None:
    """Write one scan-line file, ZIP, in half or float; chromaticities, rate and timecode in its header.
    Light is RGBA, a height the channel `height.Y`, offsets are `offsets.X` and `offsets.Y`, in px. How
    the plate is bent stands beside light: as such offsets, as `offsets.blur` if it is blurred (the deviation
    in px), and as `plate.R`, `plate.G` and `plate.B` if the bent plate is there.

    Px of overscan on each side are in the data window only, so that programs lay the display
    window over the shot. Light beyond what half can hold is held at its largest number. Raises
    `WriteError`.
    """
    overscan = about.overscan
    height, width = (size - 2 * overscan for size in picture.shape[:2])
    channels = _channels(_as_stored(picture, depth))
    if bend is not None:
        channels |= _channels(_as_stored(bend.offsets, depth))
        if bend.blur is not None:
            channels["offsets.blur"] = _as_stored(bend.blur, depth)
        if bend.plate is not None:
            channels["plate"] = _as_stored(bend.plate, depth)
    header = {
        "compression": OpenEXR.ZIP_COMPRESSION,
        "type": OpenEXR.scanlineimage,
        "chromaticities": BT709_CHROMATICITIES,
        "framesPerSecond": about.rate,
        "displayWindow": ((0, 0), (width - 1, height - 1)),
        "dataWindow": ((-overscan, -overscan), (width + overscan - 1, height + overscan - 1)),
    }
    if about.rate <= _MOST_TIMED:
        header["timeCode"] = _time_code(about)
    file = OpenEXR.File(header, channels)
    write_atomically(path, lambda part: file.write(str(part)))


def _as_stored(picture: Picture, depth: Literal["half", "float"]) -> NDArray[Any]:
    if depth == "float":
        return np.ascontiguousarray(picture, np.float32)
    # OpenCV's conversion gives the same bits as astype, which is slow on faint light.
    held = np.clip(picture, -_MOST_HALF, _MOST_HALF)
    return np.asarray(cv2.multiply(held, 1.0, dtype=cv2.CV_16F))


def _channels(pixels: NDArray[Any]) -> dict[str, NDArray[Any]]:
    if pixels.ndim == 2:
        return {"height.Y": pixels}
    if pixels.shape[2] == 2:
        across, down = np.moveaxis(pixels, 2, 0)
        return {"offsets.X": np.ascontiguousarray(across), "offsets.Y": np.ascontiguousarray(down)}
    return {"RGBA": pixels}


_MOST_TIMED, _MOST_COUNTED = 60, 30
"""Frames a second up to which SMPTE ST 12-1 has a timecode, and up to which it counts each frame:
above, it counts pairs, and a flag tells the second of each."""


def _time_code(about: About) -> OpenEXR.TimeCode:
    hours, minutes, seconds, frame = time_parts(about.frame, about.rate, drops=about.drops)
    second_of_pair = 0
    if about.rate > _MOST_COUNTED:
        frame, second_of_pair = divmod(frame, 2)
    colour_frame, groups = 0, [0] * 11
    return OpenEXR.TimeCode(
        hours, minutes, seconds, frame, int(about.drops), colour_frame, second_of_pair, *groups
    )


def read_exr(path: Path) -> Picture:
    """The picture in an EXR file as float32: premultiplied RGBA, a height, or offsets."""
    with OpenEXR.File(str(path)) as file:
        channels = file.channels()
        if "RGBA" in channels:
            return np.asarray(channels["RGBA"].pixels, np.float32)
        planes = [np.asarray(channels[name].pixels, np.float32) for name in sorted(channels)]
    return planes[0] if len(planes) == 1 else np.stack(planes, axis=2)
