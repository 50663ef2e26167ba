"""How far it is with compiling what computes pictures, where that goes on beside the server."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings


def compiling() -> float | None:
    """How much is compiled, as whoever compiles has told it last; nothing where all is."""
    try:
        return float(Path(settings.COMPILING).read_text())
    except (OSError, ValueError):
        return None
