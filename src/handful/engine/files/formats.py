"""The formats a render may be written in."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple, Protocol

from handful.engine.files.about import About
from handful.engine.files.exr import write_exr
from handful.engine.files.png import write_png
from handful.engine.files.writing import WriteError
from handful.engine.picture import Bent, Picture


class Writes(Protocol):
    """Writes a picture, with how it bends the plate, if it does. Raises `WriteError`."""

    def __call__(
        self, path: Path, picture: Picture, about: About, bend: Bent | None = None
    ) -> None:
        """Write the file whole, or not at all."""


class FileFormat(NamedTuple):
    """A format: the ending of its files, what it is in a line, how a picture is written with what there is to
    say about it, and whether it holds the bent plate too."""

    suffix: str
    says: str
    write: Writes
    with_plate: bool = False


def _write_half(path: Path, picture: Picture, about: About, bend: Bent | None = None) -> None:
    write_exr(path, picture, about, "half", bend)


def _write_with_plate(path: Path, picture: Picture, about: About, bend: Bent | None = None) -> None:
    if bend is None or bend.plate is None:
        raise WriteError(
            "There is no bent plate to hold: nothing bends it, or the shot has none. Choose another format."
        )
    _write_half(path, picture, about, bend)


FORMATS: dict[str, FileFormat] = {
    "exr": FileFormat(
        "exr",
        "EXR, half float, premultiplied linear light",
        _write_half,
    ),
    "exr-float": FileFormat(
        "exr",
        "EXR, full float, premultiplied linear light",
        lambda path, picture, about, bend=None: write_exr(path, picture, about, "float", bend),
    ),
    "exr-plate": FileFormat(
        "exr", "EXR, half float, with the plate as it is bent", _write_with_plate, with_plate=True
    ),
    "png": FileFormat(
        "png",
        "PNG, 16 bits, straight cover, sRGB",
        lambda path, picture, _about, bend=None: write_png(path, picture, bend),
    ),
}
