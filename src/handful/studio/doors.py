"""What comes in from outside: nothing gets past here that what lies behind cannot hold."""

from __future__ import annotations

import json
import math
from collections.abc import Callable
from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja.parser import Parser
from ninja.renderers import JSONRenderer
from pydantic import Field

MOST_WHOLE = 2**31 - 1
"""The largest whole number that a column of the database holds."""

Whole = Annotated[int, Field(ge=-MOST_WHOLE - 1, le=MOST_WHOLE)]

_MOST_DIGITS = 16
_NOWHERE = "A text holds a sign that is none: a NUL, or half of a pair."


class Unreadable(ValueError):
    """JSON that cannot be taken in, with what is wrong in a sentence."""


class CarefulParser(Parser):
    """JSON as its standard says (RFC 8259), whose numbers and texts a database can hold."""

    def parse_body(self, request: HttpRequest) -> Any:
        """What a body says. Raises `Unreadable`, or `ValueError` where it is no JSON at all."""
        try:
            found = json.loads(
                request.body, parse_int=_whole, parse_float=_real, parse_constant=_no_number
            )
        except RecursionError:
            raise Unreadable("It is nested too deep.") from None
        if b"\\u" in request.body:
            _check_texts(found)
        return found


class CarefulRenderer(JSONRenderer):
    """JSON as its standard says: it has no word for what is no number."""

    json_dumps_params = {"allow_nan": False}


def no_stray_signs(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[..., HttpResponse]:
    """Middleware: an address with a NUL in it is refused."""

    def answer(request: HttpRequest) -> HttpResponse:
        words = [request.path_info, request.META.get("QUERY_STRING", "")]
        if any("\0" in word or "%00" in word for word in words):
            return JsonResponse(
                {"says": "This address cannot be read.", "problems": []}, status=422
            )
        return get_response(request)

    return answer


def allowed(nonce: str = "") -> str:
    """What a page may load and run: what ships with it, and styles that it makes under a word that is known to
    this one page. Values of style that a script sets, as where a handle stands, are attributes."""
    styles = f"style-src 'self' 'nonce-{nonce}'" if nonce else "style-src 'self'"
    return (
        f"default-src 'self'; script-src 'self'; {styles}; style-src-attr 'unsafe-inline'; "
        "img-src 'self' blob: data:; connect-src 'self'; font-src 'self'; object-src 'none'; "
        "base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
    )


_UNUSED = "camera=(), geolocation=(), microphone=(), payment=(), usb=()"


def kept_in(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """Middleware: what a page may load, run and use."""

    def answer(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        response.headers.setdefault("Content-Security-Policy", allowed())
        response.headers.setdefault("Permissions-Policy", _UNUSED)
        return response

    return answer


def _whole(digits: str) -> int:
    if len(digits) > _MOST_DIGITS:
        raise Unreadable(f"The number {digits[:12]}… has more than {_MOST_DIGITS} digits.")
    return int(digits)


def _real(digits: str) -> float:
    number = float(digits)
    if math.isinf(number):
        raise Unreadable(f"The number {digits[:12]} is too large.")
    return number


def _no_number(word: str) -> float:
    raise Unreadable(f"{word} is no number.")


def _check_texts(found: Any) -> None:
    waiting = [found]
    while waiting:
        part = waiting.pop()
        if isinstance(part, dict):
            waiting += [*part.keys(), *part.values()]
        elif isinstance(part, list):
            waiting += part
        elif isinstance(part, str) and ("\0" in part or not _is_text(part)):
            raise Unreadable(_NOWHERE)


def _is_text(text: str) -> bool:
    try:
        text.encode()
    except UnicodeEncodeError:
        return False
    return True
