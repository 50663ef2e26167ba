"""Files that are kept as long as there is room for them."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path


def drop_oldest(folder: Path, pattern: str, most_bytes: int) -> None:
    """Remove the files of a pattern that were not touched for longest, down to the bytes that may stay.

    Several processes may do so at once.
    """
    found = []
    for path in folder.glob(pattern):
        with suppress(OSError):
            known = path.stat()
            found.append((known.st_mtime, known.st_size, path))
    held = sum(size for _, size, _ in found)
    for _, size, path in sorted(found):
        if held <= most_bytes:
            break
        with suppress(OSError):
            path.unlink()
        held -= size
