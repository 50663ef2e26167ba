"""Whether it is ready, and what it counts in the text format of Prometheus."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from datetime import timedelta

from django.db import DatabaseError, InterfaceError, connection
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router, Schema, Status
from procrastinate.contrib.django.models import ProcrastinateWorker

from handful.studio.compiling import compiling
from handful.studio.memory import in_use
from handful.studio.preview.apart import Away, Ended, preview
from handful.studio.renders.service import counts_of_states, frames_written
from handful.studio.watch.requests import BUCKETS, counts

router = Router()

SILENT_SECONDS = 10


class Readiness(Schema):
    """Whether all that is needed is there: the database, and workers for renders."""

    ready: bool
    database: bool
    workers: int
    waiting: int
    running: int
    compiling: float | None = None
    """How much is compiled of what computes pictures, while that is still done."""


@router.get("/ready", response={200: Readiness, 503: Readiness}, auth=None)
def ready(request: HttpRequest) -> Status[Readiness]:
    """Whether the database answers, how many workers there are, and how many renders wait and run."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
        states = counts_of_states()
        found = Readiness(
            ready=True, database=True, workers=_workers(),
            waiting=states.get("queued", 0), running=states.get("running", 0), compiling=compiling(),
        )  # fmt: skip
    except (DatabaseError, InterfaceError):
        connection.close()
        return Status(503, Readiness(ready=False, database=False, workers=0, waiting=0, running=0))
    return Status(200, found)


@router.get("/metrics", auth=None, include_in_schema=False)
def metrics(request: HttpRequest) -> HttpResponse:
    """What is counted, one line each."""
    return HttpResponse(
        "\n".join(_lines()) + "\n", content_type="text/plain; version=0.0.4; charset=utf-8"
    )


def _workers() -> int:
    since = timezone.now() - timedelta(seconds=SILENT_SECONDS)
    return int(ProcrastinateWorker.objects.filter(last_heartbeat__gte=since).count())


def _lines() -> Iterator[str]:
    yield "# TYPE handful_renders gauge"
    for state, count in sorted(counts_of_states().items()):
        yield f'handful_renders{{state="{state}"}} {count}'
    yield "# TYPE handful_frames_total counter"
    yield f"handful_frames_total {frames_written()}"
    yield "# TYPE handful_workers gauge"
    yield f"handful_workers {_workers()}"
    with suppress(Away, Ended):
        holds = preview.holds()
        yield "# TYPE handful_picture_cache_bytes gauge"
        yield f"handful_picture_cache_bytes {holds.pictures}"
        yield "# TYPE handful_memory_bytes gauge"
        yield f'handful_memory_bytes{{process="computing"}} {holds.process}'
        yield f'handful_memory_bytes{{process="serving"}} {in_use()}'
    yield "# TYPE handful_request_seconds histogram"
    for (method, route, status), known in sorted(counts.all().items()):
        about = f'method="{method}",route="{_escaped(route)}",status="{status}"'
        for most, count in zip(BUCKETS, known.within, strict=True):
            yield f'handful_request_seconds_bucket{{{about},le="{most:g}"}} {count}'
        yield f'handful_request_seconds_bucket{{{about},le="+Inf"}} {known.times}'
        yield f"handful_request_seconds_sum{{{about}}} {known.seconds:.6f}"
        yield f"handful_request_seconds_count{{{about}}} {known.times}"


def _escaped(text: str) -> str:
    return text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n")
