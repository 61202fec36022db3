"""A worker process: does the jobs of the queue, one after the other, and takes up what a killed worker left."""

import asyncio
import contextlib
import os
import signal
import threading
import time
from typing import Any

from django.core.management.base import BaseCommand
from procrastinate import App
from procrastinate.contrib.django import app

from huvren.studio.services.load import jobs, preparing

ENDED_WITHIN_S = 4.0
HEARTBEAT_S, LOST_AFTER_S, LOOK_EVERY_S = 2.0, 8.0, 3.0
"""A worker that shows no sign of life for the second is taken for dead: its job goes back to the queue."""


async def _take_up_what_was_left(working: App) -> None:
    while True:
        for job in await working.job_manager.get_stalled_jobs(seconds_since_heartbeat=LOST_AFTER_S):
            await working.job_manager.retry_job(job)
        await asyncio.sleep(LOOK_EVERY_S)


def _end(working: asyncio.Task[None]) -> None:
    """What is being done is broken off at its next step and given back; what cannot be is left to whoever misses it."""
    jobs.STOPPING.set()
    threading.Thread(target=_end_surely, name="ending", daemon=True).start()
    working.cancel()


def _end_surely() -> None:
    time.sleep(ENDED_WITHIN_S)
    os._exit(0)


async def _work(once: bool) -> None:
    loop = asyncio.get_running_loop()
    if (me := asyncio.current_task()) is not None:
        for number in (signal.SIGTERM, signal.SIGINT):
            loop.add_signal_handler(number, _end, me)
    connector = app.connector.get_worker_connector()  # type: ignore[attr-defined]  # Django's has it, its base does not say so
    with app.replace_connector(connector) as working:
        async with working.open_async():
            watching = asyncio.create_task(_take_up_what_was_left(working))
            try:
                await working.run_worker_async(
                    queues=["jobs"], wait=not once, concurrency=1, update_heartbeat_interval=HEARTBEAT_S,
                    stalled_worker_timeout=LOST_AFTER_S, fetch_job_polling_interval=1.0, delete_jobs="successful",
                    install_signal_handlers=False,
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
        # Jobs wait in the queue as well as here, and would compile each kernel anew.
        while preparing.share() is not None:
            time.sleep(0.5)
        with contextlib.suppress(asyncio.CancelledError):
            asyncio.run(_work(options["once"]))
