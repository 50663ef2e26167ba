"""What stands in for the preview in a process of its own, which knows nothing of the database."""

from __future__ import annotations

import os
import time

from handful.engine.render import PlanError, Stopped


class Working:
    """It tells which process it is in, and ends that."""

    def is_asked(self) -> bool:
        return False

    def process(self) -> int:
        return os.getpid()

    def last(self, seconds: float) -> int:
        time.sleep(seconds)
        return os.getpid()

    def die(self) -> None:
        os._exit(1)

    def refuse(self, stops: bool) -> None:
        raise Stopped if stops else PlanError("no such frame")
