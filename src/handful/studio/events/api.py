"""One stream of events for each page, as the HTML standard describes server-sent events."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator

from django.http import HttpRequest, HttpResponseBase, JsonResponse, StreamingHttpResponse

from handful.studio.events.listening import streams

LEAST_APART = 0.2
"""Seconds between events: what changes oftener is told together."""

SILENT_SECONDS = 15
"""After so long without an event a word is sent, so that whoever is gone is found out."""

LASTS_SECONDS = 600
"""Then it ends, and a page that is still signed in begins another."""


async def events(request: HttpRequest) -> HttpResponseBase:
    """What changes from now on among the things of the person who asks."""
    person = await request.auser()
    if person.pk is None:
        return JsonResponse({"says": "You are signed out."}, status=401)
    headers = {"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    return StreamingHttpResponse(
        _lines(person.pk), content_type="text/event-stream", headers=headers
    )


async def _lines(person: int) -> AsyncIterator[str]:
    loop = asyncio.get_running_loop()
    end = loop.time() + LASTS_SECONDS
    with streams().joined(person) as stream:
        yield ": here\n\n"
        while not stream.is_over and loop.time() < end:
            found = await stream.next(SILENT_SECONDS)
            yield "".join(f"data: {json.dumps(told._asdict())}\n\n" for told in found) or ": \n\n"
            await asyncio.sleep(LEAST_APART)
