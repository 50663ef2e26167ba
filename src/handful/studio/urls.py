"""Addresses: the API, and for everything else the front end, which has routes of its own."""

from __future__ import annotations

import secrets

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

from handful.studio.api import api
from handful.studio.doors import allowed
from handful.studio.events.api import events

NONCE = "NONCE-OF-THIS-PAGE"
"""Stands in the page for the word under which it may make styles."""


@ensure_csrf_cookie
def front_end(request: HttpRequest) -> HttpResponse:
    """The page that holds the whole front end."""
    page = settings.WEB_ROOT / "index.html"
    if not page.exists():
        return HttpResponse("The front end is not built; run ./handful setup.", status=503)
    nonce = secrets.token_urlsafe(16)
    headers = {"Cache-Control": "no-cache", "Content-Security-Policy": allowed(nonce)}
    return HttpResponse(page.read_text().replace(NONCE, nonce), headers=headers)


urlpatterns = [
    path("api/v1/events", events),
    path("api/v1/", api.urls),
    re_path(r"^(?!api/|assets/)", front_end),
]
