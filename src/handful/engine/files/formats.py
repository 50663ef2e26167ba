"""The formats a render may be written in."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import NamedTuple

from handful.engine.files.exr import write_exr
from handful.engine.files.png import write_png
from handful.engine.picture import Picture


class FileFormat(NamedTuple):
    """A format: the ending of its files, what it is in a line, and how a picture is written: with
    the frames a second, and how many px of it are overscan on each side."""

    suffix: str
    says: str
    write: Callable[[Path, Picture, Fraction, int], None]


FORMATS: dict[str, FileFormat] = {
    "exr": FileFormat(
        "exr",
        "EXR, half float, premultiplied linear light",
        lambda path, picture, rate, overscan: write_exr(path, picture, rate, "half", overscan),
    ),
    "exr-float": FileFormat(
        "exr",
        "EXR, full float, premultiplied linear light",
        lambda path, picture, rate, overscan: write_exr(path, picture, rate, "float", overscan),
    ),
    "png": FileFormat(
        "png",
        "PNG, 16 bits, straight cover, sRGB",
        lambda path, picture, _rate, _overscan: write_png(path, picture),
    ),
}
