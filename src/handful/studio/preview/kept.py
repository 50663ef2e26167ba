"""Small pictures kept on disk by what is in them, so that a server that starts again has them."""

from __future__ import annotations

import os
from contextlib import suppress
from hashlib import blake2b
from pathlib import Path

from handful.engine.files import WriteError, drop_oldest, write_atomically
from handful.engine.render.edition import edition

MOST_BYTES = 256 * 1024 * 1024
_CLEANED_EVERY = 200
"""Pictures kept between two looks at how much there is."""


class KeptPictures:
    """JPEGs in a folder, by names that say all that is in them; those not used for longest go first.

    Several processes may use one folder: a picture is there whole or not at all.
    """

    def __init__(self, folder: Path, most_bytes: int = MOST_BYTES) -> None:
        self.folder = folder
        self.most_bytes = most_bytes
        self._kept = 0

    def get(self, name: str) -> bytes | None:
        """The picture of a name as the engine makes it now, if it is here."""
        return self._read(self._path(name))

    def last(self, group: str) -> bytes | None:
        """The picture that was kept last in a group, whatever made it."""
        return self._read(self._path_of_last(group))

    def put(self, name: str, jpeg: bytes, group: str | None = None) -> None:
        """Keep a picture, also as the last one of a group. A full disk keeps nothing."""
        paths = [self._path(name)] + ([] if group is None else [self._path_of_last(group)])
        with suppress(WriteError):
            for path in paths:
                write_atomically(path, lambda part: _write(part, jpeg))
        self._kept += 1
        if self._kept % _CLEANED_EVERY == 1:
            self.clean()

    def clean(self) -> None:
        """Remove those not used for longest, down to the bytes that may be kept."""
        drop_oldest(self.folder, "*/*.jpg", self.most_bytes)

    def _read(self, path: Path) -> bytes | None:
        try:
            jpeg = path.read_bytes()
            os.utime(path)
        except OSError:
            return None
        return jpeg

    def _path(self, name: str) -> Path:
        return self._in("made", f"{edition()} {name}")

    def _path_of_last(self, group: str) -> Path:
        return self._in("last", group)

    def _in(self, room: str, name: str) -> Path:
        return self.folder / room / f"{blake2b(name.encode(), digest_size=16).hexdigest()}.jpg"


def _write(path: Path, jpeg: bytes) -> None:
    path.write_bytes(jpeg)
