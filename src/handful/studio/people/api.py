"""Signing in and out."""

from __future__ import annotations

import math

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.contrib.auth.models import User
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Field, Router, Schema
from ninja.utils import check_csrf

from handful.studio.people.attempts import attempts
from handful.studio.people.service import demo_artist
from handful.studio.refusals import Refusal, Refused

router = Router()


class Person(Schema):
    """The person signed in, or nobody."""

    name: str | None = Field(None, description="Absent if nobody is signed in.")
    demo: bool = Field(description="Whether one may continue as the demo artist.")


class Credentials(Schema):
    """What a person signs in with."""

    name: str = Field(max_length=150)
    password: str = Field(max_length=4096)


class Unsigned(Refusal):
    """Signing in did not work."""

    status = 403


class TooMany(Refusal):
    """Too many attempts, for now."""

    status = 429


@router.get("/me", response=Person, auth=None)
def me(request: HttpRequest) -> Person:
    """Who is signed in. The page gets the token with which it may change things."""
    get_token(request)
    return _person(request)


@router.post("/sign-in", response={200: Person, 403: Refused, 429: Refused}, auth=None)
def sign_in(request: HttpRequest, given: Credentials) -> Person:
    """Sign in with name and password. After some attempts that failed, the next has to wait."""
    _refuse_foreign(request)
    address = request.META.get("REMOTE_ADDR", "")
    wait = attempts.wait(given.name, address)
    if wait > 0:
        raise TooMany(
            f"Too many attempts. Try again in {math.ceil(wait)} s.", seconds=math.ceil(wait)
        )
    with attempts.turn() as is_ours:
        if not is_ours:
            raise TooMany("Many people are signing in. Try again in a moment.", seconds=5)
        user = authenticate(request, username=given.name, password=given.password)
    if user is None:
        attempts.failed(given.name, address)
        raise Unsigned("That name and password do not go together.")
    attempts.succeeded(given.name, address)
    login(request, user)
    return _person(request)


@router.post("/continue-as-demo-artist", response=Person, auth=None)
def continue_as_demo_artist(request: HttpRequest) -> Person:
    """Sign in as the demo artist; only in demo mode."""
    _refuse_foreign(request)
    if not settings.DEMO:
        raise Unsigned("There is no demo artist here.")
    login(request, demo_artist(), backend="django.contrib.auth.backends.ModelBackend")
    return _person(request)


@router.post("/sign-out", response=Person)
def sign_out(request: HttpRequest) -> Person:
    """Sign out."""
    logout(request)
    return _person(request)


def _person(request: HttpRequest) -> Person:
    user = request.user
    return Person(name=user.username if isinstance(user, User) else None, demo=settings.DEMO)


def _refuse_foreign(request: HttpRequest) -> None:
    """Signing in needs the page's token as well: nobody is signed in from another site."""
    if check_csrf(request) is not None:
        raise Unsigned("This page is out of date. Reload it and try again.", stale_page=True)
