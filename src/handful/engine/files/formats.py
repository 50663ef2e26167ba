"""The formats a render may be written in."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple, Protocol

from handful.engine.files.about import About
from handful.engine.files.exr import write_exr
from handful.engine.files.png import write_png
from handful.engine.picture import Picture


class Writes(Protocol):
    """Writes a picture, with the offsets by which it bends the plate, if it does. Raises `WriteError`."""

    def __call__(
        self, path: Path, picture: Picture, about: About, bend: Picture | None = None
    ) -> None:
        """Write the file whole, or not at all."""


class FileFormat(NamedTuple):
    """A format: the ending of its files, what it is in a line, and how a picture is written with
    what there is to say about it."""

    suffix: str
    says: str
    write: Writes


FORMATS: dict[str, FileFormat] = {
    "exr": FileFormat(
        "exr",
        "EXR, half float, premultiplied linear light",
        lambda path, picture, about, bend=None: write_exr(path, picture, about, "half", bend),
    ),
    "exr-float": FileFormat(
        "exr",
        "EXR, full float, premultiplied linear light",
        lambda path, picture, about, bend=None: write_exr(path, picture, about, "float", bend),
    ),
    "png": FileFormat(
        "png",
        "PNG, 16 bits, straight cover, sRGB",
        lambda path, picture, _about, bend=None: write_png(path, picture, bend),
    ),
}
