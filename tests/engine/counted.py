"""How often states are brought on."""

from __future__ import annotations

from typing import Any
from unittest import mock

from handful.engine.kinds import Stateful


class Counted:
    """Counts the stretches by which sources of a kind are brought on while it is there."""

    def __init__(self, kind: type[Stateful]) -> None:
        self._kind = kind

    def __enter__(self) -> Counted:
        self.frames = 0
        real = self._kind.advance

        def counted(*words: Any) -> Any:
            self.frames += 1
            return real(*words)

        self._patched = mock.patch.object(self._kind, "advance", counted)
        self._patched.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._patched.stop()
