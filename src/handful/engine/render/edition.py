"""Which edition of the engine makes the pictures: a digest of its own source, of a studio's own kinds,
and of the versions of what it computes with.

It is part of every picture's key, so that a picture kept under its key, here or in a browser,
is never taken for what a changed engine would make.
"""

from __future__ import annotations

from functools import cache
from hashlib import blake2b
from importlib.metadata import version
from importlib.util import find_spec
from pathlib import Path

from handful.engine.kinds import further_modules

_COMPUTE_WITH = ("llvmlite", "numba", "numpy", "opencv-python-headless", "scipy")


@cache
def edition() -> str:
    """Hex digest over every Python file of the engine and those versions."""
    root = Path(__file__).parent.parent
    digest = blake2b(digest_size=8)
    digest.update(repr([(name, version(name)) for name in _COMPUTE_WITH]).encode())
    for path in sorted(root.rglob("*.py")):
        digest.update(path.relative_to(root).as_posix().encode())
        digest.update(path.read_bytes())
    for name in further_modules():
        found = find_spec(name)
        if found is not None and found.origin is not None:
            digest.update(Path(found.origin).read_bytes())
    return digest.hexdigest()
