"""The web server against those who read nothing, say nothing, or come too often."""

import socket
import time
from collections.abc import Callable, Iterator
from threading import Event, Thread
from typing import Any
from unittest import TestCase

from handful.studio.serve import made_server

LARGE = 64 * 1024 * 1024


def _app(environ: dict[str, Any], start: Callable[..., Any]) -> Iterator[bytes]:
    """A word at `/`, or more than any buffer holds at `/large`."""
    start("200 OK", [("Content-Type", "text/plain")])
    if environ["PATH_INFO"] == "/large":
        for _ in range(LARGE // 65536):
            yield b"x" * 65536
    else:
        yield b"word"


class Slow(TestCase):
    def setUp(self) -> None:
        self.server = made_server(
            _app, "127.0.0.1", 0, idle_seconds=2, unread_seconds=2, most_of_an_address=5, threads=2
        )
        self.port = self.server.effective_port
        self.ending = Event()
        self.loop = Thread(target=self._serve, daemon=True)
        self.loop.start()
        self.addCleanup(self._end)

    def _serve(self) -> None:
        while not self.ending.is_set():
            self.server.asyncore.loop(timeout=0.2, map=self.server._map, count=1)

    def _end(self) -> None:
        self.assertTrue(self.loop.is_alive(), "the server's loop is at an end")
        self.ending.set()
        self.loop.join()
        for channel in list(self.server.active_channels.values()):
            channel.handle_close()
        self.server.task_dispatcher.shutdown()
        self.server.close()

    def _connect(self, path: str = "") -> socket.socket:
        connection = socket.create_connection(("127.0.0.1", self.port), timeout=10)
        self.addCleanup(connection.close)
        if path:
            connection.sendall(f"GET {path} HTTP/1.1\r\nHost: x\r\n\r\n".encode())
        return connection

    def _answers_within(self, seconds: float) -> bool:
        with socket.create_connection(("127.0.0.1", self.port), timeout=seconds) as asking:
            asking.settimeout(seconds)
            asking.sendall(b"GET / HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n")
            try:
                return asking.recv(100).startswith(b"HTTP/1.1 200")
            except TimeoutError:
                return False

    def test_who_reads_nothing_is_let_go(self) -> None:
        """As many as there are threads ask for more than fits and read none of it: the next is answered all the
        same, a little later."""
        for _ in range(2):
            self._connect("/large")
        time.sleep(0.5)
        self.assertFalse(
            self._answers_within(0.4), "the threads are not held, and nothing is shown"
        )
        self.assertTrue(self._answers_within(12))

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
        idle = self._connect()
        idle.settimeout(12)
        self.assertEqual(idle.recv(10), b"")

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
        large.sendall(b"GET / HTTP/1.1\r\nHost: x\r\nX: " + b"y" * (65 * 1024) + b"\r\n\r\n")
        self.assertIn(b"431", large.recv(100))
