"""The web server: one process, several threads, so that all requests share one picture cache."""

from __future__ import annotations

import os
import sys
from threading import Thread

import waitress
from django.core.wsgi import get_wsgi_application

from handful.engine.everything import warm_up

THREADS = 16
"""More than a browser asks for at once, so that pictures in waiting hold up nothing else."""


def main() -> None:
    """Serve on loopback at the port named on the command line, until a signal comes."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "handful.studio.settings")
    host = os.environ.get("HANDFUL_BIND", "127.0.0.1")
    Thread(target=warm_up, daemon=True).start()
    waitress.serve(get_wsgi_application(), host=host, port=int(sys.argv[1]), threads=THREADS)


if __name__ == "__main__":
    main()
