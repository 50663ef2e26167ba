"""A render worker, in this process, until a signal comes."""

from __future__ import annotations

import asyncio
import logging
import time
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.db import close_old_connections
from procrastinate import App
from procrastinate.contrib.django import app
from procrastinate.contrib.django.django_connector import DjangoConnector
from procrastinate.exceptions import ConnectorException
from psycopg import InterfaceError, OperationalError

from handful.studio.memory import hold_memory
from handful.studio.renders.service import queue_orphans
from handful.studio.renders.tasks import QUEUE

HEARTBEAT_SECONDS = 2.0
SILENT_SECONDS = 8.0
"""A worker not heard of for so long is taken for dead, and its renders go to others."""

ORPHANS_SECONDS = 10.0
"""So often renders are looked for that are under way and that no job stands for."""

LEAST_PAUSE, MOST_PAUSE = 0.5, 15.0
"""Seconds until a database that went away is tried again, each time twice as long."""

log = logging.getLogger(__name__)


class Command(BaseCommand):
    """Works off renders, and takes up those of workers that died."""

    help = "Work off renders until interrupted."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--until-empty", action="store_true", help="stop when nothing waits")

    def handle(self, *args: Any, **options: Any) -> None:
        hold_memory()
        pause = LEAST_PAUSE
        while True:
            begun = time.monotonic()
            try:
                asyncio.run(_work(until_empty=options["until_empty"]))
            except (OperationalError, InterfaceError, ConnectorException) as error:
                if time.monotonic() - begun > MOST_PAUSE:
                    pause = LEAST_PAUSE
                log.warning("The database went away (%s); trying again in %g s.", error, pause)
                time.sleep(pause)
                pause = min(MOST_PAUSE, 2 * pause)
            else:
                return


async def _work(*, until_empty: bool) -> None:
    connector = app.connector
    assert isinstance(connector, DjangoConnector)
    with app.replace_connector(connector.get_worker_connector()) as worker_app:
        async with worker_app.open_async():
            await _take_up_orphans(worker_app)
            watching = asyncio.create_task(_keep_watch(worker_app))
            try:
                await worker_app.run_worker_async(
                    queues=[QUEUE],
                    concurrency=1,
                    wait=not until_empty,
                    fetch_job_polling_interval=1.0,
                    update_heartbeat_interval=HEARTBEAT_SECONDS,
                    stalled_worker_timeout=SILENT_SECONDS,
                    shutdown_graceful_timeout=0,
                    delete_jobs="successful",
                )
            finally:
                watching.cancel()


async def _keep_watch(worker_app: App) -> None:
    looked = time.monotonic()
    while True:
        await asyncio.sleep(HEARTBEAT_SECONDS)
        try:
            await _take_up_orphans(worker_app)
            if time.monotonic() - looked > ORPHANS_SECONDS:
                looked = time.monotonic()
                await asyncio.to_thread(_queue_orphans)
        except Exception:
            log.exception("looking for orphaned renders failed")


def _queue_orphans() -> None:
    close_old_connections()
    count = queue_orphans()
    if count:
        log.warning("%d renders had no job any more and wait again.", count)


async def _take_up_orphans(worker_app: App) -> None:
    """Queue the jobs of workers that are gone again."""
    jobs = worker_app.job_manager
    for job in await jobs.get_stalled_jobs(queue=QUEUE, seconds_since_heartbeat=SILENT_SECONDS):
        await jobs.retry_job(job)
