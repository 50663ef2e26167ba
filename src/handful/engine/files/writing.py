"""Writing a file so that its final name never stands for half a file."""

from __future__ import annotations

import os
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path


class WriteError(OSError):
    """A file that could not be written, and why, in a sentence."""


def write_atomically(path: Path, write: Callable[[Path], None]) -> None:
    """Let `write` make the file under another name beside `path`, then give it its name.

    Raises `WriteError` if it cannot be written; then nothing is left behind.
    """
    part = path.with_name(f".{path.name}.{os.getpid()}.part{path.suffix}")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write(part)
        with part.open("rb") as file:
            os.fsync(file.fileno())
        os.replace(part, path)
    except (OSError, RuntimeError) as error:
        with suppress(OSError):
            part.unlink()
        reason = error.strerror if isinstance(error, OSError) and error.strerror else str(error)
        raise WriteError(f"{path} could not be written: {reason}.") from error


def clear_parts(folder: Path) -> None:
    """Remove what writers that died have left of files in a folder that nobody else writes to."""
    for part in folder.glob(".*.part*"):
        part.unlink(missing_ok=True)
