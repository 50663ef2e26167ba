"""States kept on disk by key, so that another process, or this one started again, goes on from there."""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path
from zipfile import BadZipFile

import numpy as np

from handful.engine.files import WriteError, drop_oldest, write_atomically
from handful.engine.kinds import State

_CLEANED_EVERY = 50
"""States kept between two looks at how much there is."""


class Lasting:
    """Files in a folder, by the keys of what is in them; those not used for longest go first.

    Several processes may use one folder: a state is there whole or not at all, and whichever of two
    that are alike comes last stays. A full disk keeps nothing.
    """

    def __init__(self, folder: Path, most_bytes: int) -> None:
        self.folder = folder
        self.most_bytes = most_bytes
        self._kept = 0

    def get(self, key: str) -> State | None:
        """The state under a key, if it is here and can be read."""
        path = self._path(key)
        try:
            with path.open("rb") as file, np.load(file, allow_pickle=False) as arrays:
                state = tuple(arrays[name] for name in arrays.files)
            os.utime(path)
        except (OSError, ValueError, EOFError, BadZipFile):
            return None
        return state

    def has(self, key: str) -> bool:
        """Whether there is a state under a key."""
        return self._path(key).exists()

    def put(self, key: str, state: State) -> None:
        """Keep a state."""

        def write(part: Path) -> None:
            with part.open("wb") as file:
                np.savez(file, *state)

        with suppress(WriteError):
            write_atomically(self._path(key), write)
        self._kept += 1
        if self._kept % _CLEANED_EVERY == 1:
            self.clean()

    def clean(self) -> None:
        """Remove those not used for longest, down to the bytes that may be kept."""
        drop_oldest(self.folder, "*.npz", self.most_bytes)

    def _path(self, key: str) -> Path:
        return self.folder / f"{key}.npz"
