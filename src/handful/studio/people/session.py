"""Who a request comes from."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.http import HttpRequest


def signed_in(request: HttpRequest) -> User:
    """The person behind a request that the API has already let in."""
    assert isinstance(request.user, User)
    return request.user
