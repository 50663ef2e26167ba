"""A plate as files: stills in a folder, one for each frame."""

from __future__ import annotations

import glob
import re
from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from handful.engine.files.naming import frame_name
from handful.engine.files.stills import read_display_still


class StillFile(NamedTuple):
    """A file that holds an 8-bit sRGB picture."""

    path: Path

    @property
    def mark(self) -> str:
        """What changes when the file does."""
        try:
            return f"{self.path}:{self.path.stat().st_mtime_ns}"
        except OSError:
            return f"{self.path}:gone"

    def read(self, width: int, height: int) -> NDArray[np.uint8] | None:
        """Its levels `(height, width, 3)`, sized by area; nothing where the file is gone."""
        try:
            return read_display_still(self.path, width, height)
        except OSError:
            return None


class PlateFiles(NamedTuple):
    """Files `FOLDER/NAME.FFFF.jpg` from `first` to `last`."""

    folder: Path
    name: str
    first: int
    last: int

    @classmethod
    def around(cls, still: Path) -> PlateFiles:
        """The plate that a file belongs to. Raises `ValueError` if it is none of a sequence."""
        match = re.fullmatch(r"(.+)\.(\d{4,})\.jpg", still.name)
        if match is None or not still.is_file():
            raise ValueError(f"{still} is no still of a plate; give one such as pier.1001.jpg")
        name = match[1]
        frames = [
            int(path.name[len(name) + 1 : -len(".jpg")])
            for path in still.parent.glob(f"{glob.escape(name)}.*.jpg")
            if path.name[len(name) + 1 : -len(".jpg")].isdigit()
        ]
        return cls(still.parent, name, min(frames), max(frames))

    def plate(self, frame: int) -> StillFile:
        """The still for a frame; before the plate begins its first, after its end its last."""
        held = min(self.last, max(self.first, frame))
        return StillFile(self.folder / frame_name(self.name, held, "jpg"))
