"""The formats a render may be written in."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from handful.engine.files.about import About
from handful.engine.files.exr import write_exr
from handful.engine.files.png import write_png
from handful.engine.picture import Picture


class FileFormat(NamedTuple):
    """A format: the ending of its files, what it is in a line, and how a picture is written with
    what there is to say about it."""

    suffix: str
    says: str
    write: Callable[[Path, Picture, About], None]


FORMATS: dict[str, FileFormat] = {
    "exr": FileFormat(
        "exr",
        "EXR, half float, premultiplied linear light",
        lambda path, picture, about: write_exr(path, picture, about, "half"),
    ),
    "exr-float": FileFormat(
        "exr",
        "EXR, full float, premultiplied linear light",
        lambda path, picture, about: write_exr(path, picture, about, "float"),
    ),
    "png": FileFormat(
        "png",
        "PNG, 16 bits, straight cover, sRGB",
        lambda path, picture, _about: write_png(path, picture),
    ),
}
