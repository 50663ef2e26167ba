"""When a compiled kernel is out of date: as soon as its own source has changed, or that of any kernel it builds on.

What a kernel calls from other files becomes a part of it, constants as well, and numba looks at its own file only.
"""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path
from typing import Any

from numba import config
from numba.core.caching import (
    InTreeCacheLocator,
    UserProvidedCacheLocator,
    UserWideCacheLocator,
)

_HERE = Path(__file__).parent
_IMPORTS = re.compile(rf"^\s*from {re.escape(__package__)}\.([\w.]+) import", re.MULTILINE)


def use() -> None:
    """Let numba find out what is out of date so, from now on."""
    kinds = (InChosenFolder, BesideSource, OfUser)
    config.CACHE_LOCATOR_CLASSES = ",".join(f"{__name__}.{kind.__name__}" for kind in kinds)


@cache
def _named_in(path: Path) -> tuple[Path, ...]:
    """The files of kernels that a file imports."""
    names = _IMPORTS.findall(path.read_text(encoding="utf-8"))
    return tuple(_HERE.joinpath(*name.split(".")).with_suffix(".py") for name in sorted(set(names)))


def built_on(path: Path) -> list[Path]:
    """A file, and all files of kernels that it builds on, however far."""
    found, left = {path}, [path]
    while left:
        new = [each for each in _named_in(left.pop()) if each not in found and each.exists()]
        found.update(new)
        left += new
    return sorted(found)


@cache
def _stamp_of(path: str) -> tuple[tuple[float, int], ...]:
    stats = [each.stat() for each in built_on(Path(path))]
    return tuple((stat.st_mtime, stat.st_size) for stat in stats)


class _Stamped:
    _py_file: str

    def get_source_stamp(self) -> Any:
        """When each of its files was last changed, and its size."""
        return _stamp_of(self._py_file)


class InChosenFolder(_Stamped, UserProvidedCacheLocator):
    """Kept in the folder that the environment names."""


class BesideSource(_Stamped, InTreeCacheLocator):
    """Kept beside the source, if that may be written."""


class OfUser(_Stamped, UserWideCacheLocator):
    """Kept among the files of whoever runs it."""
