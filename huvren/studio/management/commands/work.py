"""A worker process: does the jobs of the queue, one after the other, and takes up what a killed worker left.

Where the database goes away the worker stays: it asks again, ever less often, and goes on once there is an answer.
"""

import asyncio
import contextlib
import logging
import os
import signal
import threading
import time
from typing import Any

from asgiref.sync import sync_to_async
from django.core.management.base import BaseCommand
from django.db import close_old_connections, connections
from procrastinate import App, PsycopgConnector
from procrastinate.contrib.django import app
from procrastinate.contrib.django.utils import connector_params

from huvren.studio.services.load import jobs, preparing

LOG = logging.getLogger("huvren.worker")
ENDED_WITHIN_S = 4.0
FIRST_WAIT_S, LONGEST_WAIT_S = 0.5, 10.0
"""Between two questions to a database that is away."""
HEARTBEAT_S, LOST_AFTER_S, LOOK_EVERY_S = 2.0, 8.0, 3.0
"""A worker that shows no sign of life for the second is taken for dead: its job goes back to the queue."""


def _queue_what_is_not() -> None:
    # A connection that broke in between is another one by now.
    close_old_connections()
    jobs.queue_what_is_not()


async def _take_up_what_was_left(working: App) -> None:
    while True:
        for job in await working.job_manager.get_stalled_jobs(seconds_since_heartbeat=LOST_AFTER_S):
            await working.job_manager.retry_job(job)
        await sync_to_async(_queue_what_is_not)()
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
    # One job at a time needs no more of them; a pool begins with four.
    connector = PsycopgConnector(kwargs=connector_params(), min_size=1, max_size=2)
    with app.replace_connector(connector) as working:
        async with working.open_async():
            working_on = asyncio.create_task(
                working.run_worker_async(
                    queues=["jobs"], wait=not once, concurrency=1, update_heartbeat_interval=HEARTBEAT_S,
                    stalled_worker_timeout=LOST_AFTER_S, fetch_job_polling_interval=1.0, delete_jobs="successful",
                    install_signal_handlers=False,
                )
            )  # fmt: skip
            both = {working_on, asyncio.create_task(_take_up_what_was_left(working))}
            try:
                # Whichever ends first says why: neither goes on without a database.
                done, _ = await asyncio.wait(both, return_when=asyncio.FIRST_COMPLETED)
            finally:
                for task in both:
                    task.cancel()
                await asyncio.gather(*both, return_exceptions=True)
            for task in done:
                task.result()


class Command(BaseCommand):
    help = "Do the jobs of the queue until stopped; with --once, until there are none."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--once", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        # Jobs wait in the queue as well as here, and would compile each kernel anew.
        while preparing.share() is not None:
            time.sleep(0.5)
        wait_s = FIRST_WAIT_S
        while True:
            begun = time.monotonic()
            try:
                with contextlib.suppress(asyncio.CancelledError):
                    asyncio.run(_work(options["once"]))
            except Exception as error:
                if options["once"]:
                    raise
                LOG.warning("the worker stopped and begins again: %s", str(error)[:300] or type(error).__name__)
            if options["once"] or jobs.STOPPING.is_set():
                return
            connections.close_all()
            wait_s = FIRST_WAIT_S if time.monotonic() - begun > LONGEST_WAIT_S else min(wait_s * 2, LONGEST_WAIT_S)
            if jobs.STOPPING.wait(wait_s):
                return
