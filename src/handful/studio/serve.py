"""The web server: one process for all requests, and beside it the one that computes pictures."""

from __future__ import annotations

import gc
import os
import sys
from threading import Thread

import uvicorn
from django.conf import settings
from django.core.asgi import get_asgi_application
from django.utils.autoreload import run_with_reloader

from handful.studio.connections import App, Patience, of_bounded_size, watched
from handful.studio.memory import hold_memory

MOST_CONNECTIONS = 1000
MOST_HEADER_BYTES = 64 * 1024
STOPS_WITHIN_SECONDS = 1
"""That long requests have to end, and streams of events are let go then."""


def main() -> None:
    """Serve on loopback at the port named on the command line, until a signal comes; anew with each change of the
    code where `--reload` follows it."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "handful.studio.settings")
    os.environ["HANDFUL_SERVES"] = "1"
    if sys.argv[2:] == ["--reload"]:
        run_with_reloader(_serve)
    else:
        _serve()


def made_server(app: App, host: str, port: int, patience: Patience) -> uvicorn.Server:
    """A server of an ASGI application, with so much patience with those who ask."""
    return uvicorn.Server(
        uvicorn.Config(
            of_bounded_size(app), host, port, http=watched(patience), ws="none", lifespan="off",
            loop="asyncio", log_config=None, access_log=False, server_header=False,
            limit_concurrency=MOST_CONNECTIONS, h11_max_incomplete_event_size=MOST_HEADER_BYTES,
            timeout_keep_alive=int(patience.idle), timeout_graceful_shutdown=STOPS_WITHIN_SECONDS,
            proxy_headers=False,
        )
    )  # fmt: skip


def _serve() -> None:
    # What it is made of asks for the settings as it is loaded.
    from handful.studio.preview.apart import begin_computing, end_computing

    hold_memory()
    app = get_asgi_application()
    gc.collect()
    gc.freeze()  # what is loaded stays: no later collection goes through it
    Thread(target=begin_computing, daemon=True).start()
    host = os.environ.get("HANDFUL_BIND", "127.0.0.1")
    # Behind a proxy all come from one address.
    patience = Patience(most_of_an_address=MOST_CONNECTIONS) if settings.SECURE else Patience()
    try:
        made_server(app, host, int(sys.argv[1]), patience).run()
    finally:
        end_computing()


if __name__ == "__main__":
    main()
