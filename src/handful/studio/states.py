"""Where states of sources with memory are kept for long, for the bench and the workers alike."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings

from handful.engine.render import Lasting

MOST_BYTES = 2 * 1024**3


def lasting_states() -> Lasting:
    """The folder that all processes of this installation share."""
    return Lasting(Path(settings.STATES_ROOT), MOST_BYTES)
