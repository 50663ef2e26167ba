"""A render worker, in this process, until a signal comes."""

from __future__ import annotations

import asyncio
import logging
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from procrastinate import App
from procrastinate.contrib.django import app
from procrastinate.contrib.django.django_connector import DjangoConnector

from handful.studio.renders.tasks import QUEUE

HEARTBEAT_SECONDS = 2.0
SILENT_SECONDS = 8.0
"""A worker not heard of for so long is taken for dead, and its renders go to others."""


class Command(BaseCommand):
    """Works off renders, and takes up those of workers that died."""

    help = "Work off renders until interrupted."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--until-empty", action="store_true", help="stop when nothing waits")

    def handle(self, *args: Any, **options: Any) -> None:
        asyncio.run(_work(until_empty=options["until_empty"]))


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
    while True:
        await asyncio.sleep(HEARTBEAT_SECONDS)
        try:
            await _take_up_orphans(worker_app)
        except Exception:
            logging.getLogger(__name__).exception("looking for orphaned renders failed")


async def _take_up_orphans(worker_app: App) -> None:
    """Queue the jobs of workers that are gone again."""
    jobs = worker_app.job_manager
    for job in await jobs.get_stalled_jobs(queue=QUEUE, seconds_since_heartbeat=SILENT_SECONDS):
        await jobs.retry_job(job)
