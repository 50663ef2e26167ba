"""A line for each request, under an id of its own, and how long they take."""

from __future__ import annotations

import json
import logging
import re
import time
import uuid
from collections.abc import Callable
from threading import Lock
from typing import NamedTuple

from django.http import HttpRequest, HttpResponse

log = logging.getLogger("handful.requests")

BUCKETS = (0.01, 0.03, 0.1, 0.3, 1.0, 3.0, 10.0)
"""Seconds up to which requests are counted together."""

_METHODS = ("GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS")
_KNOWN_ID = re.compile(r"[\w.-]{1,64}\Z")


class Counted(NamedTuple):
    """How often a kind of request was answered, for how many seconds in all, and how often within each of
    `BUCKETS`."""

    times: int
    seconds: float
    within: tuple[int, ...]


class Counts:
    """What was answered, by method, route as the program declares it, and status."""

    def __init__(self) -> None:
        self._known: dict[tuple[str, str, int], Counted] = {}
        self._lock = Lock()

    def add(self, method: str, route: str, status: int, seconds: float) -> None:
        """Count one answer."""
        with self._lock:
            old = self._known.get((method, route, status), Counted(0, 0.0, (0,) * len(BUCKETS)))
            within = tuple(
                n + (seconds <= most) for n, most in zip(old.within, BUCKETS, strict=True)
            )
            self._known[method, route, status] = Counted(
                old.times + 1, old.seconds + seconds, within
            )

    def all(self) -> dict[tuple[str, str, int], Counted]:
        """All that was counted."""
        with self._lock:
            return dict(self._known)


counts = Counts()


def told(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """Middleware: each request has an id, its own or a new one, which stands in its answer and in its line of
    the log."""

    def answer(request: HttpRequest) -> HttpResponse:
        given = request.headers.get("X-Request-ID", "")
        mark = given if _KNOWN_ID.match(given) else uuid.uuid4().hex
        begun = time.perf_counter()
        response = get_response(request)
        seconds = time.perf_counter() - begun
        response["X-Request-ID"] = mark
        route = request.resolver_match.route if request.resolver_match else ""
        counts.add(
            request.method if request.method in _METHODS else "",
            route,
            response.status_code,
            seconds,
        )
        log.info(
            "%s",
            json.dumps(
                {
                    "id": mark,
                    "method": request.method,
                    "path": request.path,
                    "status": response.status_code,
                    "ms": round(1000 * seconds, 1),
                }
            ),
        )
        return response

    return answer
