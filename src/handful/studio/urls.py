"""Addresses: the API, and for everything else the front end, which has routes of its own."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

from handful.studio.api import api


@ensure_csrf_cookie
def front_end(request: HttpRequest) -> HttpResponse:
    """The page that holds the whole front end."""
    page = settings.WEB_ROOT / "index.html"
    if not page.exists():
        return HttpResponse("The front end is not built; run ./handful setup.", status=503)
    return HttpResponse(page.read_bytes(), headers={"Cache-Control": "no-cache"})


urlpatterns = [
    path("api/v1/", api.urls),
    re_path(r"^(?!api/|assets/)", front_end),
]
