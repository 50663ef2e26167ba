"""What comes between the web server and the program: who is let go, what is too large, and what is sent in parts.

Whoever is slow or says nothing holds up nobody else for long: connections that idle are closed, and so are those
whose answer is not read, and of one address the oldest beyond a number.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import AsyncIterator, Awaitable, Callable, Iterable, MutableMapping
from typing import Any, NamedTuple, cast

from asgiref.sync import sync_to_async
from django.core.handlers.asgi import ASGIRequest
from django.db import connection
from django.http import HttpRequest, HttpResponseBase, StreamingHttpResponse
from uvicorn.protocols.http.h11_impl import H11Protocol

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Any, Any, Any], Awaitable[None]]
"""An ASGI application: what is asked, what comes, and what is sent."""

MOST_BODY_BYTES = 16 * 1024 * 1024

_PART_BYTES = 256 * 1024


class Patience(NamedTuple):
    """How long a connection may say nothing between requests, in seconds; how long it may leave what it was sent
    unread, or say no more of what it began; and how many that idle an address may have."""

    idle: float = 60
    unread: float = 30
    most_of_an_address: int = 100


def watched(patience: Patience) -> type[H11Protocol]:
    """The protocol of a server with so much patience. Behind a proxy all come from one address."""

    known: dict[str, list[Watched]] = defaultdict(list)

    class Watched(H11Protocol):
        def connection_made(self, transport: Any) -> None:
            super().connection_made(transport)
            self._since = self._heard = self._read = self.loop.time()
            self._unread = 0
            self._look()
            alike = known[self._address()]
            alike.append(self)
            idle = sorted((each for each in alike if each._idles()), key=lambda each: each._since)
            for oldest in idle[: max(0, len(idle) - patience.most_of_an_address)]:
                oldest.transport.close()

        def data_received(self, data: bytes) -> None:
            self._heard = self.loop.time()
            super().data_received(data)

        def resume_writing(self) -> None:
            # What was unread is read but for little, and more is written before the next look.
            self._read = self.loop.time()
            super().resume_writing()

        def on_response_complete(self) -> None:
            self._since = self.loop.time()
            super().on_response_complete()

        def connection_lost(self, exc: Exception | None) -> None:
            self._next.cancel()
            alike = known[self._address()]
            alike.remove(self)
            if not alike:
                del known[self._address()]
            super().connection_lost(exc)

        def _address(self) -> str:
            return self.client[0] if self.client else ""

        def _idles(self) -> bool:
            return self.cycle is None or self.cycle.response_complete

        def _look(self) -> None:
            now = self.loop.time()
            unread = self.transport.get_write_buffer_size()
            if unread == 0 or unread < self._unread:
                self._read = now
            self._unread = unread
            if unread:
                is_over = now - self._read > patience.unread
            elif self._idles():
                is_over = now - self._since > patience.idle
            else:
                is_over = self.cycle.more_body and now - self._heard > patience.unread
            if is_over:
                self.transport.abort()
            self._next = self.loop.call_later(min(patience.idle, patience.unread) / 4, self._look)

    return Watched


def of_bounded_size(app: App) -> App:
    """An application to which nothing larger comes than a body may be: told beforehand, or found on the way."""

    async def answer(scope: Any, receive: Receive, send: Send) -> None:
        told = dict(scope.get("headers", ())).get(b"content-length", b"0")
        if told.isdigit() and int(told) > MOST_BODY_BYTES:
            await _refuse(send)
            return
        come = 0

        async def receive_some() -> Message:
            nonlocal come
            message = await receive()
            come += len(message.get("body", b""))
            return {"type": "http.disconnect"} if come > MOST_BODY_BYTES else message

        await app(scope, receive_some, send)

    return answer


async def _refuse(send: Send) -> None:
    headers = [(b"content-type", b"application/json"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": 413, "headers": headers})
    says = f'{{"says": "This is more than {MOST_BODY_BYTES // 1024**2} MiB."}}'
    await send({"type": "http.response.body", "body": says.encode()})


def let_go_of_the_database() -> None:
    """Its connection goes back to those who need one: what comes now needs none, and may take long."""
    if not connection.in_atomic_block:
        connection.close()


def in_parts(get_response: Callable[[HttpRequest], HttpResponseBase]) -> Callable[..., Any]:
    """Middleware: what is long goes out part by part, without a connection to the database, and files are read in a
    thread while others are answered."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        response = get_response(request)
        if not (isinstance(request, ASGIRequest) and isinstance(response, StreamingHttpResponse)):
            return response
        let_go_of_the_database()
        if not response.is_async:
            response.streaming_content = _parts(cast(Iterable[bytes], response.streaming_content))
        return response

    return answer


async def _parts(content: Iterable[bytes]) -> AsyncIterator[bytes]:
    left = iter(content)

    def some() -> bytes:
        part = b""
        while len(part) < _PART_BYTES and (more := next(left, b"")):
            part += more
        return part

    while part := await sync_to_async(some, thread_sensitive=False)():
        yield part
