"""A worker process: does the jobs of the queue, one after the other, and takes up what a killed worker left."""

import asyncio
import contextlib
from typing import Any

from django.core.management.base import BaseCommand
from procrastinate import App
from procrastinate.contrib.django import app

HEARTBEAT_S, LOST_AFTER_S, LOOK_EVERY_S = 2.0, 8.0, 3.0
"""A worker that shows no sign of life for the second is taken for dead: its job goes back to the queue."""


async def _take_up_what_was_left(working: App) -> None:
    while True:
        for job in await working.job_manager.get_stalled_jobs(seconds_since_heartbeat=LOST_AFTER_S):
            await working.job_manager.retry_job(job)
        await asyncio.sleep(LOOK_EVERY_S)


async def _work(once: bool) -> None:
    connector = app.connector.get_worker_connector()  # type: ignore[attr-defined]  # Django's has it, its base does not say so
    with app.replace_connector(connector) as working:
        async with working.open_async():
            watching = asyncio.create_task(_take_up_what_was_left(working))
            try:
                await working.run_worker_async(
                    queues=["jobs"], wait=not once, concurrency=1, update_heartbeat_interval=HEARTBEAT_S,
                    stalled_worker_timeout=LOST_AFTER_S, fetch_job_polling_interval=1.0, delete_jobs="successful",
                )  # fmt: skip
            finally:
                watching.cancel()
                with contextlib.suppress(asyncio.CancelledError):
                    await watching


class Command(BaseCommand):
    help = "Do the jobs of the queue until stopped; with --once, until there are none."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--once", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        asyncio.run(_work(options["once"]))
