"""The web server: one process, several threads, so that all requests share one picture cache.

Whoever is slow or says nothing holds up nobody else for long: connections that idle are closed, and so are those
whose answer is not read, and of one address the oldest beyond a number.
"""

from __future__ import annotations

import os
import socket
import sys
from collections import defaultdict
from collections.abc import Callable
from contextlib import suppress
from threading import Thread
from typing import Any

from django.conf import settings
from django.core.wsgi import get_wsgi_application
from django.utils.autoreload import run_with_reloader
from waitress.server import create_server

from handful.engine.everything import warm_up

THREADS = 16
"""More than a browser asks for at once, so that pictures in waiting hold up nothing else."""

IDLE_SECONDS, UNREAD_SECONDS = 60, 30
MOST_CONNECTIONS, MOST_OF_AN_ADDRESS = 1000, 100
MOST_HEADER_BYTES, MOST_BODY_BYTES = 64 * 1024, 16 * 1024 * 1024


def main() -> None:
    """Serve on loopback at the port named on the command line, until a signal comes; anew with each change of the
    code where `--reload` follows it."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "handful.studio.settings")
    if sys.argv[2:] == ["--reload"]:
        run_with_reloader(_serve)
    else:
        _serve()


def _serve() -> None:
    host = os.environ.get("HANDFUL_BIND", "127.0.0.1")
    app = get_wsgi_application()
    Thread(target=warm_up, daemon=True).start()
    most = MOST_CONNECTIONS if settings.SECURE else MOST_OF_AN_ADDRESS
    made_server(app, host, int(sys.argv[1]), most_of_an_address=most).run()


def made_server(
    app: Callable[..., Any],
    host: str,
    port: int,
    *,
    idle_seconds: float = IDLE_SECONDS,
    unread_seconds: float = UNREAD_SECONDS,
    most_of_an_address: int = MOST_OF_AN_ADDRESS,
    threads: int = THREADS,
) -> Any:
    """A server that closes what idles, what is not read, and what is too much from one address. Behind a proxy
    all come from one address."""
    server: Any = create_server(
        app, host=host, port=port, threads=threads, connection_limit=MOST_CONNECTIONS,
        channel_timeout=idle_seconds, cleanup_interval=max(1, int(min(idle_seconds, unread_seconds) / 4)),
        max_request_header_size=MOST_HEADER_BYTES, max_request_body_size=MOST_BODY_BYTES,
    )  # fmt: skip
    plainly = server.maintenance

    def maintenance(now: float) -> None:
        plainly(now)
        by_address = defaultdict(list)
        for channel in list(server.active_channels.values()):
            if channel.total_outbufs_len > 0 and channel.last_activity < now - unread_seconds:
                _let_go(channel)
            elif not channel.requests:
                by_address[channel.addr[0]].append(channel)
        for idle in by_address.values():
            idle.sort(key=lambda channel: channel.last_activity)
            for channel in idle[: max(0, len(idle) - most_of_an_address)]:
                _let_go(channel)

    server.maintenance = maintenance
    return server


def _let_go(channel: Any) -> None:
    """End a connection: the loop finds it at its end, and closes it as it does others."""
    channel.will_close = True
    with suppress(OSError):
        channel.socket.shutdown(socket.SHUT_RDWR)


if __name__ == "__main__":
    main()
