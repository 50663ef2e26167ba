"""How much memory a process of the studio may take."""

from __future__ import annotations

import os
import resource
from pathlib import Path

SHARE = 0.7
"""Of the memory that there is one process takes no more than this part."""

_CONTAINER = Path("/sys/fs/cgroup/memory.max")


def hold_memory(most: int | None = None) -> None:
    """Let this process take no more than `most` bytes, or a share of what the machine or its container has. What asks for
    more fails by itself with `MemoryError`, instead of the system ending whichever process it likes."""
    limit = most if most is not None else int(SHARE * _there_is())
    _, hard = resource.getrlimit(resource.RLIMIT_DATA)
    if hard != resource.RLIM_INFINITY:
        limit = min(limit, hard)
    resource.setrlimit(resource.RLIMIT_DATA, (limit, hard))


def in_use() -> int:
    """Bytes of memory that this process has in use."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")


def _there_is() -> int:
    whole = os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE")
    try:
        return min(whole, int(_CONTAINER.read_text()))
    except (OSError, ValueError):  # no container, or one without a bound
        return whole
