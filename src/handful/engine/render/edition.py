"""Which edition of the engine makes the pictures: a digest of its own source.

It is part of every picture's key, so that a picture kept under its key, here or in a browser,
is never taken for what a changed engine would make.
"""

from __future__ import annotations

from functools import cache
from hashlib import blake2b
from pathlib import Path


@cache
def edition() -> str:
    """Hex digest over every Python file of the engine."""
    root = Path(__file__).parent.parent
    digest = blake2b(digest_size=8)
    for path in sorted(root.rglob("*.py")):
        digest.update(path.relative_to(root).as_posix().encode())
        digest.update(path.read_bytes())
    return digest.hexdigest()
