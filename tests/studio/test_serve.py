"""The web server against those who read nothing, say nothing, come too often, or send too much."""

import socket
import time
from collections.abc import Callable
from threading import Thread
from typing import Any, cast
from unittest import TestCase
from unittest.mock import Mock

import uvicorn
from uvicorn.server import ServerState

from handful.studio.connections import MOST_BODY_BYTES, Patience, watched
from handful.studio.serve import made_server

LARGE = 64 * 1024 * 1024
PART = b"x" * 65536


async def _app(scope: Any, receive: Any, send: Any) -> None:
    """A word at `/`, more than any buffer holds at `/large`, and how much came at `/count`."""
    count = 0
    while (message := await receive())["type"] == "http.request":
        count += len(message["body"])
        if not message.get("more_body"):
            break
    else:
        return
    await send({"type": "http.response.start", "status": 200, "headers": [(b"content-type", b"text/plain")]})  # fmt: skip
    if scope["path"] == "/large":
        for _ in range(LARGE // len(PART)):
            await send({"type": "http.response.body", "body": PART, "more_body": True})
    await send({"type": "http.response.body", "body": b"%d" % count})


class _Turns:
    """A loop whose time goes on only when it is told to."""

    def __init__(self) -> None:
        self.now = 0.0
        self.next: Callable[[], None] = lambda: None

    def time(self) -> float:
        return self.now

    def call_later(self, seconds: float, do: Callable[[], None]) -> Mock:
        self.wait, self.next = seconds, do
        return Mock()

    def turn(self) -> None:
        self.now += self.wait
        self.next()


class Unread(TestCase):
    def test_who_reads_is_known_by_what_was_read(self) -> None:
        """Not by how much waits at a moment: whenever something is read, as much is written again."""
        for reads in (True, False):
            with self.subTest(reads=reads):
                loop, transport = _Turns(), Mock()
                transport.get_extra_info.return_value = None
                transport.get_write_buffer_size.return_value = 2 * len(PART)
                kept = watched(Patience())(uvicorn.Config(_app), ServerState(), {}, cast(Any, loop))
                kept.connection_made(transport)
                for _ in range(8):
                    kept.pause_writing()
                    loop.turn()
                    if reads:
                        kept.resume_writing()
                self.assertEqual(transport.abort.called, not reads)


class Slow(TestCase):
    def setUp(self) -> None:
        self.listening = socket.create_server(("127.0.0.1", 0))
        self.port = self.listening.getsockname()[1]
        patience = Patience(idle=2, unread=2, most_of_an_address=5)
        self.server = made_server(_app, "127.0.0.1", self.port, patience)
        self.loop = Thread(target=self.server.run, args=([self.listening],), daemon=True)
        self.loop.start()
        self.addCleanup(self._end)

    def _end(self) -> None:
        self.assertTrue(self.loop.is_alive(), "the server's loop is at an end")
        self.server.should_exit = self.server.force_exit = True
        self.loop.join(10)
        self.assertFalse(self.loop.is_alive(), "the server does not stop")

    def _connect(self, path: str = "") -> socket.socket:
        connection = socket.create_connection(("127.0.0.1", self.port), timeout=10)
        self.addCleanup(connection.close)
        if path:
            connection.sendall(f"GET {path} HTTP/1.1\r\nHost: x\r\n\r\n".encode())
        return connection

    def _answer(self, connection: socket.socket) -> bytes:
        """A whole answer, in chunks to its last."""
        got = b""
        while not got.endswith(b"0\r\n\r\n"):
            part = connection.recv(1000)
            self.assertTrue(part, "it was cut off")
            got += part
        return got

    def _is_let_go(self, connection: socket.socket) -> bool:
        """Whether it ends within some seconds, in whichever way."""
        connection.settimeout(10)
        try:
            while connection.recv(1 << 20):
                pass
        except ConnectionResetError:
            return True
        except TimeoutError:
            return False
        return True

    def test_who_reads_nothing_is_let_go(self) -> None:
        """It gets less than it asked for; others are answered meanwhile."""
        reading = self._connect("/large")
        begun = time.monotonic()
        with self._connect() as asking:
            asking.sendall(b"GET / HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n")
            self.assertTrue(asking.recv(100).startswith(b"HTTP/1.1 200"))
        self.assertLess(time.monotonic() - begun, 1)
        time.sleep(4)
        got = 0
        try:
            while part := reading.recv(1 << 20):
                got += len(part)
        except ConnectionResetError:
            pass
        self.assertLess(got, LARGE)

    def test_who_reads_slowly_gets_all(self) -> None:
        reading = self._connect("/large")
        got, end = 0, time.monotonic() + 3.5
        while time.monotonic() < end:
            got += len(reading.recv(65536))
            time.sleep(0.005)
        while got < LARGE:
            part = reading.recv(1 << 20)
            self.assertTrue(part, "it was cut off")
            got += len(part)

    def test_who_says_nothing_is_let_go(self) -> None:
        self.assertTrue(self._is_let_go(self._connect()))

    def test_who_never_ends_a_header_is_let_go(self) -> None:
        """Though a line of it comes now and then."""
        slow = self._connect()
        slow.sendall(b"GET / HTTP/1.1\r\nHost: x\r\n")
        begun = time.monotonic()
        with self.assertRaises(OSError):
            while time.monotonic() - begun < 8:
                slow.sendall(b"X: y\r\n")
                time.sleep(0.2)

    def test_who_never_ends_a_body_is_let_go(self) -> None:
        slow = self._connect()
        slow.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 100\r\n\r\nabc")
        self.assertTrue(self._is_let_go(slow))

    def test_who_waits_for_a_long_answer_is_not_let_go(self) -> None:
        """Neither is a connection that was used lately."""
        used = self._connect()
        for _ in range(4):
            used.sendall(b"GET / HTTP/1.1\r\nHost: x\r\n\r\n")
            self.assertIn(b" 200 ", self._answer(used))
            time.sleep(0.9)

    def test_too_many_of_one_address(self) -> None:
        """The oldest that idle are closed; the newest are kept."""
        first = [self._connect() for _ in range(8)]
        first[0].settimeout(1.9)
        self.assertEqual(first[0].recv(10), b"")
        first[-1].setblocking(False)
        with self.assertRaises(BlockingIOError):
            first[-1].recv(10)

    def test_headers_have_an_end(self) -> None:
        large = self._connect()
        large.settimeout(10)
        large.sendall(b"GET / HTTP/1.1\r\nHost: x\r\nX: " + b"y" * (1024 * 1024) + b"\r\n\r\n")
        self.assertIn(b" 400 ", large.recv(100))

    def test_a_body_has_an_end(self) -> None:
        """One that says beforehand that it is too large is refused, one that does not is not heard out; the largest
        there may be is."""
        told = self._connect()
        told.sendall(
            b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: %d\r\n\r\n" % (MOST_BODY_BYTES + 1)
        )
        self.assertIn(b" 413 ", told.recv(100))
        most = self._connect()
        most.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: %d\r\n\r\n" % MOST_BODY_BYTES)
        for _ in range(MOST_BODY_BYTES // len(PART)):
            most.sendall(PART)
        self.assertIn(b"%d" % MOST_BODY_BYTES, self._answer(most))
        untold = self._connect()
        untold.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nTransfer-Encoding: chunked\r\n\r\n")
        try:
            for _ in range(2 * MOST_BODY_BYTES // len(PART)):
                untold.sendall(b"10000\r\n" + PART + b"\r\n")
        except OSError:
            return
        self.assertNotIn(b" 200 ", untold.recv(100))
