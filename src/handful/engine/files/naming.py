"""How files of a sequence are called."""

from __future__ import annotations

import re
import unicodedata


def frame_name(name: str, frame: int, suffix: str) -> str:
    """`mast-strike.1001.exr`: a plain name, the frame in at least four digits, the format."""
    return f"{plain_name(name)}.{frame:04d}.{suffix}"


def plain_name(name: str) -> str:
    """A name for files: ASCII letters, digits and hyphens, never empty."""
    ascii_only = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    return re.sub(r"[^a-z0-9]+", "-", ascii_only.lower()).strip("-") or "element"
