"""`manage.py work`: the queue's jobs are done, with --once until there are none, and the nightly cleaning is one of them."""

import os
import signal
import socket
import subprocess
from collections.abc import Iterator
from datetime import timedelta
from typing import Any
from uuid import UUID

import pytest
from django.db import connection
from django.utils import timezone
from procrastinate.contrib.django import app

from huvren.studio import tasks
from huvren.studio.models import Job, JobState, Palette
from huvren.studio.services.load import jobs
from tests.pictures import painted, png
from tests.server.conftest import Api
from tests.waiting import ended, until
from tests.workers import forget_queue, start_worker
from tools.serving import OF_WORKER
from tools.steps import PYTHON, ROOT


@pytest.fixture
def queue(transactional_db: None) -> Iterator[None]:
    yield
    forget_queue()


def environment() -> dict[str, str]:
    return {**os.environ, "HUVREN_DB_NAME": str(connection.settings_dict["NAME"])}


def work(*words: str, seconds: float = 90) -> subprocess.CompletedProcess[str]:
    command = [str(PYTHON), str(ROOT / "manage.py"), "work", *words]
    return subprocess.run(command, cwd=ROOT, env=environment(), capture_output=True, text=True, timeout=seconds)


def test_once_does_what_waits_and_ends(queue: None) -> None:
    api = Api("ada")
    palette = api.bench()
    picture = palette["links"][0]["picture"]["id"]
    started = [api.post("/jobs/batches", {"pictures": [picture], "recipe": {"colors": n}}, 202)["id"] for n in (3, 4)]
    api.post(f"/jobs/{started[1]}/cancel")
    done = work("--once")
    assert done.returncode == 0, done.stderr
    states = {str(job.pk): job.state for job in Job.objects.all()}
    assert states == {started[0]: JobState.DONE, started[1]: JobState.CANCELLED}
    assert api.get("/jobs")[-1]["made"] == 1
    assert work("--once").returncode == 0, "nothing waits, so it ends"


def test_a_worker_that_waits_takes_up_new_work_and_ends_when_told(queue: None) -> None:
    api = Api("ada")
    picture = api.bench()["links"][0]["picture"]["id"]
    process = subprocess.Popen([str(PYTHON), str(ROOT / "manage.py"), "work"], cwd=ROOT, env=environment(), stderr=subprocess.DEVNULL)
    try:
        job = api.post("/jobs/batches", {"pictures": [picture], "recipe": {"colors": 3}}, 202)
        until(lambda: api.get("/jobs")[0]["state"] == "done")
        assert api.get("/jobs")[0]["id"] == job["id"]
    finally:
        process.send_signal(signal.SIGTERM)
        process.wait(timeout=30)


def test_the_nightly_cleaning_is_a_task_of_the_queue(queue: None) -> None:
    names = {entry.task.name for entry in app.periodic_registry.periodic_tasks.values()}
    assert tasks.clean.name in names
    api = Api("ada")
    old, new = api.bench(), api.bench()
    for palette in (old, new):
        api.client.delete(f"/api/palettes/{palette['id']}")
    Palette.objects.filter(pk=old["id"]).update(trashed=timezone.now() - timedelta(days=31))
    tasks.clean.defer(timestamp=0)
    assert work("--once").returncode == 0
    assert [str(pk) for pk in Palette.objects.values_list("pk", flat=True)] == [new["id"]]


def test_ended_jobs_are_forgotten_after_the_stated_time(queue: None, settings: Any) -> None:
    from huvren.studio.services.shelf import cleaning

    settings.TRASH_DAYS = 10
    api = Api("ada")
    rows = [
        Job.objects.create(owner=api.user, kind="batch", label=state, request={}, state=state)
        for state in (JobState.DONE, JobState.FAILED, JobState.CANCELLED, JobState.WAITING, JobState.WORKING)
    ]
    assert cleaning.clean(timezone.now() + timedelta(days=9)).jobs == 0
    assert cleaning.clean(timezone.now() + timedelta(days=11)).jobs == 3
    assert {job.state for job in Job.objects.all()} == set(jobs.OPEN)
    assert len(rows) == 5


def told_to_end(process: subprocess.Popen[bytes]) -> None:
    process.send_signal(signal.SIGTERM)
    ended(process)


def test_a_worker_told_to_end_gives_its_job_back_and_another_does_it(queue: None) -> None:
    api = Api("ada")
    picture = api.upload(png(painted(2000, 1500)))["id"]
    job = api.post(
        "/jobs/batches", {"pictures": [picture] * 1, "recipe": {"colors": 250, "dither": "stucki", "working": "oklab"}}, 202
    )
    process = start_worker()
    until(lambda: bool(api.get("/jobs")[0]["state"] == "working"))
    told_to_end(process)
    row = Job.objects.get(pk=job["id"])
    assert row.state in (JobState.WAITING, JobState.WORKING, JobState.DONE)
    assert work("--once").returncode == 0
    until(lambda: Job.objects.get(pk=job["id"]).state == JobState.DONE or work("--once").returncode != 0)
    assert Job.objects.get(pk=job["id"]).attempts <= 2


def test_a_turn_that_was_stopped_does_not_count(queue: None) -> None:
    api = Api("ada")
    picture = api.bench()["links"][0]["picture"]["id"]
    job = api.post("/jobs/batches", {"pictures": [picture], "recipe": {"colors": 3}}, 202)
    jobs.STOPPING.set()
    try:
        for _ in range(jobs.MOST_ATTEMPTS + 1):
            jobs.work(UUID(job["id"]))
    finally:
        jobs.STOPPING.clear()
    row = Job.objects.get(pk=job["id"])
    assert (row.state, row.attempts) == (JobState.WAITING, 0)
    jobs.work(UUID(job["id"]))
    assert Job.objects.get(pk=job["id"]).state == JobState.DONE


def test_a_worker_ends_with_the_database_stuck(queue: None) -> None:
    """A listener that takes connections and never answers stands where the database was."""
    with socket.create_server(("127.0.0.1", 0)) as silent:
        env = {**environment(), "HUVREN_DB_PORT": str(silent.getsockname()[1])}
        process = subprocess.Popen([str(PYTHON), str(ROOT / "manage.py"), "work"], cwd=ROOT, env=env, stderr=subprocess.DEVNULL)
        silent.settimeout(60)
        taken, _ = silent.accept()
        with taken:
            assert taken.recv(1), "it asks, and is never answered"
            told_to_end(process)


def test_a_worker_opens_no_more_connections_than_are_counted(queue: None) -> None:
    api = Api("ada")
    picture = api.bench()["links"][0]["picture"]["id"]
    before = set(backends())
    process = start_worker()
    until(lambda: len(set(backends()) - before) >= 2)
    job = api.post("/jobs/batches", {"pictures": [picture], "recipe": {"colors": 3}}, 202)["id"]
    most = 0

    def is_done() -> bool:
        nonlocal most
        most = max(most, len(set(backends()) - before))
        return Job.objects.get(pk=job).state == JobState.DONE

    until(is_done)
    process.terminate()
    ended(process)
    assert most <= OF_WORKER


def backends() -> list[int]:
    """Who is connected to the tests' database."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pid FROM pg_stat_activity WHERE datname = current_database() AND backend_type = 'client backend'")
        return [row[0] for row in cursor.fetchall()]
