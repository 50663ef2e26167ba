"""Who has a data folder: one launcher at a time, told by a lock that goes with its process."""

from __future__ import annotations

import fcntl
import json
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from launcher.places import Trouble


@contextmanager
def owning(data: Path, **about: Any) -> Iterator[None]:
    """Have a data folder for oneself, and say who one is. Raises `Trouble` that names who has it."""
    data.mkdir(parents=True, exist_ok=True)
    with (data / "owner").open("a+") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            owner = _said(file)
            where = f" at http://127.0.0.1:{owner['port']}/" if "port" in owner else ""
            raise Trouble(
                f"Handful runs already on {data}{where}, as process {owner.get('process', 'unknown')}. "
                f"Stop it there with Ctrl-C, or: kill {owner.get('process', '')}"
            ) from None
        file.truncate(0)
        file.write(json.dumps({"process": os.getpid(), **about}))
        file.flush()
        try:
            yield
        finally:
            file.truncate(0)


def owner_of(data: Path) -> dict[str, Any] | None:
    """What whoever has a data folder says of itself; nothing if nobody has it."""
    path = data / "owner"
    if not path.exists():
        return None
    with path.open("a+") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            return _said(file)
    return None


def _said(file: Any) -> dict[str, Any]:
    file.seek(0)
    try:
        said = json.loads(file.read())
    except ValueError:
        return {}
    return said if isinstance(said, dict) else {}
