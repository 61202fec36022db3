"""Long work as jobs: progress, cancelling, trying again, killed workers, batches and their zip."""

import csv
import io
import signal
import zipfile
from collections.abc import Iterator
from dataclasses import replace
from datetime import timedelta
from typing import Any
from uuid import UUID

import numpy as np
import pytest
from django.db import OperationalError, connection, transaction
from django.utils import timezone
from PIL import Image

from huvren.core.errors import Cancelled
from huvren.studio import bounds
from huvren.studio.models import Job, JobResult, Revision
from huvren.studio.services.bench import batches, reductions
from huvren.studio.services.load import jobs
from tests.pictures import painted, png
from tests.server.conftest import Api
from tests.waiting import until
from tests.workers import forget_queue, start_worker


@pytest.fixture(autouse=True)
def every_picture_is_large(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(jobs, "JOB_PIXELS", 1)


def small_bench(api: Api, monkeypatch: pytest.MonkeyPatch) -> Any:
    with monkeypatch.context() as patched:
        patched.setattr(jobs, "JOB_PIXELS", 10**9)
        return api.bench()


def ask(api: Api, palette: Any, **recipe: Any) -> Any:
    body = {"base": palette["revision"], "picture": palette["links"][0]["picture"]["id"], "recipe": {"colors": 5, **recipe}}
    return api.post(f"/palettes/{palette['id']}/reductions", body, 202)


def only(api: Api) -> Any:
    (job,) = api.get("/jobs")
    return job


def test_a_large_picture_is_reduced_as_a_job(api: Api, other: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    palette = small_bench(api, monkeypatch)
    job = ask(api, palette)
    assert (job["state"], job["kind"], job["palette"], job["wanted"]) == ("waiting", "reduction", palette["id"], 0)
    assert job["label"].startswith("plate.png: Reduce to 5 colors")
    assert api.get(f"/palettes/{palette['id']}") == palette
    seen: list[tuple[str, float]] = []
    report = jobs.Turn.watch
    monkeypatch.setattr(jobs.Turn, "watch", lambda turn, step, share: (seen.append((step, share)), report(turn, step, share)))
    jobs.work(UUID(job["id"]))
    assert [share for _, share in seen] == sorted(share for _, share in seen)
    assert [step for step, _ in seen][:3] == ["reading the picture", "counting colors", "choosing colors"]
    done = only(api)
    assert (done["state"], done["share"]) == ("done", 1)
    after = api.get(f"/palettes/{palette['id']}")
    assert (len(after["swatches"]), after["revision"]) == (5, palette["revision"] + 1)
    assert other.get("/jobs") == []
    for path in ("cancel", "retry"):
        other.post(f"/jobs/{job['id']}/{path}", status=404)
    assert other.client.delete(f"/api/jobs/{job['id']}").status_code == 404
    assert api.client.delete(f"/api/jobs/{job['id']}").status_code == 204
    assert api.get("/jobs") == []


def test_the_job_gives_what_the_request_gives(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    picture = api.upload(png(painted()))["id"]
    job = api.post("/palettes", {"picture": picture, "recipe": {"colors": 9, "dither": "burkes"}}, 202)
    assert job["palette"] is None
    jobs.work(UUID(job["id"]))
    made = api.get(f"/palettes/{only(api)['palette']}")
    monkeypatch.setattr(jobs, "JOB_PIXELS", 10**9)
    at_once = api.post("/palettes", {"picture": picture, "recipe": {"colors": 9, "dither": "burkes"}}, 201)
    assert [swatch["hex"] for swatch in made["swatches"]] == [swatch["hex"] for swatch in at_once["swatches"]]
    maps = [api.get(f"/palettes/{p['id']}/maps/{p['links'][0]['maps'][0]}").content for p in (made, at_once)]
    assert maps[0] == maps[1]


def test_a_cancelled_job_changes_nothing_and_can_be_done_again(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    palette = small_bench(api, monkeypatch)
    job = ask(api, palette)
    report = jobs.Turn.watch

    def cancelled_midway(turn: jobs.Turn, step: str, share: float) -> None:
        if step == "laying out pixels":
            assert api.post(f"/jobs/{job['id']}/cancel")["state"] == "cancelled"
        report(turn, step, share)

    with monkeypatch.context() as patched:
        patched.setattr(jobs.Turn, "watch", cancelled_midway)
        jobs.work(UUID(job["id"]))
    assert api.get(f"/palettes/{palette['id']}") == palette
    assert (only(api)["state"], only(api)["step"]) == ("cancelled", "Called off; nothing was changed.")
    jobs.work(UUID(job["id"]))  # what is left in the queue of it does nothing
    assert only(api)["state"] == "cancelled"
    assert api.post(f"/jobs/{job['id']}/retry")["state"] == "waiting"
    jobs.work(UUID(job["id"]))
    assert len(api.get(f"/palettes/{palette['id']}")["swatches"]) == 5
    assert "Only work that failed" in api.post(f"/jobs/{job['id']}/retry", status=422)["message"]


def test_a_palette_changed_meanwhile_is_not_overwritten(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    palette = small_bench(api, monkeypatch)
    job = ask(api, palette)
    named = api.operate(palette, kind="rename_swatch", id=palette["swatches"][0]["id"], name="Wing root")
    jobs.work(UUID(job["id"]))
    assert "was changed while its picture waited" in only(api)["step"]
    assert api.get(f"/palettes/{palette['id']}") == named
    assert "stale_revision" in str(api.post(f"/palettes/{palette['id']}/reductions", {
        "base": palette["revision"], "picture": palette["links"][0]["picture"]["id"], "recipe": {}}, 409))  # fmt: skip
    api.post(f"/jobs/{job['id']}/retry")
    jobs.work(UUID(job["id"]))
    assert api.get(f"/palettes/{palette['id']}")["revision"] == named["revision"] + 1


def test_contradictions_fail_in_words(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    palette = small_bench(api, monkeypatch)
    job = ask(api, palette, chooser="best-of-list", listed=["#000"])
    jobs.work(UUID(job["id"]))
    assert only(api)["state"] == "failed"
    assert only(api)["step"].startswith("The list has 1 colors, but 5 are to be picked")
    assert api.get(f"/palettes/{palette['id']}") == palette


def test_a_worker_that_was_thought_dead_stores_no_second_result(api: Api) -> None:
    picture = api.upload(png(painted()))["id"]
    job = UUID(api.post("/palettes", {"picture": picture}, 202)["id"])
    late = jobs._take_up(job)
    assert late is not None
    jobs.work(job)
    with pytest.raises(Cancelled):
        reductions._work(late, reductions.REDUCING.request_of(late.job))
    with pytest.raises(Cancelled):
        late.finish(jobs.PaletteMade(job))
    assert len(api.shelf()["palettes"]) == 1


def test_after_two_broken_turns_a_job_is_given_up_and_can_be_retried(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    palette = small_bench(api, monkeypatch)
    job = UUID(ask(api, palette)["id"])
    assert jobs._take_up(job) is not None
    assert jobs._take_up(job) is not None
    jobs.work(job)
    assert only(api)["step"] == jobs.STOPPED_TWICE
    assert api.get(f"/palettes/{palette['id']}") == palette
    api.post(f"/jobs/{job}/retry")
    jobs.work(job)
    assert only(api)["state"] == "done"


def pictures_of(api: Api, count: int) -> list[str]:
    return [api.upload(png(np.roll(painted(), 17 * n, axis=1)), f"Plate {n // 2}.png")["id"] for n in range(count)]


def test_a_batch_gives_a_zip_that_opens(api: Api, other: Api) -> None:
    ids = pictures_of(api, 3)
    recipe = {"colors": 6, "dither": "atkinson"}
    job = api.post("/jobs/batches", {"pictures": ids, "recipe": recipe, "name": "Press run"}, 202)
    assert (job["label"], job["wanted"], job["made"]) == ("3 pictures, “Press run”", 3, 0)
    assert "no zip yet" in api.get(f"/jobs/{job['id']}/zip", 422)["message"]
    jobs.work(UUID(job["id"]))
    assert (only(api)["state"], only(api)["made"], only(api)["step"]) == ("done", 3, "3 reduced")
    other.get(f"/jobs/{job['id']}/zip", 404)
    response = api.client.get(f"/api/jobs/{job['id']}/zip")
    archive = zipfile.ZipFile(io.BytesIO(b"".join(response.streaming_content)))
    names = ["Plate 0.png", "Plate 0.gpl", "Plate 0 (2).png", "Plate 0 (2).gpl", "Plate 1.png", "Plate 1.gpl", "figures.csv"]
    assert archive.namelist() == names
    for name in (n for n in names if n.endswith(".png")):
        image = Image.open(io.BytesIO(archive.read(name)))
        assert (image.mode, image.size, len(image.getcolors() or [])) == ("P", (128, 96), 6)
    rows = list(csv.reader(io.StringIO(archive.read("figures.csv").decode())))
    assert [row[0] for row in rows[1:]] == ["Plate 0.png", "Plate 0 (2).png", "Plate 1.png"]
    assert all(0.5 < float(row[3]) < float(row[4]) for row in rows[1:])


def test_a_batch_goes_on_behind_what_it_has_made(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    ids = pictures_of(api, 4)
    job = api.post("/jobs/batches", {"pictures": ids, "recipe": {"colors": 4}}, 202)
    report = jobs.Turn.watch

    def cancelled_at_the_third(turn: jobs.Turn, step: str, share: float) -> None:
        if share > 0.55:
            api.post(f"/jobs/{job['id']}/cancel")
        report(turn, step, share)

    with monkeypatch.context() as patched:
        patched.setattr(jobs.Turn, "watch", cancelled_at_the_third)
        jobs.work(UUID(job["id"]))
    assert (only(api)["state"], only(api)["made"]) == ("cancelled", 2)
    stored = {row.position: bytes(row.picture_file) for row in JobResult.objects.filter(job=job["id"])}
    response = api.client.get(f"/api/jobs/{job['id']}/zip")
    assert len(zipfile.ZipFile(io.BytesIO(b"".join(response.streaming_content))).namelist()) == 5
    reduced = []
    original = batches._reduced
    monkeypatch.setattr(batches, "_reduced", lambda *words: (reduced.append(words[2]), original(*words))[1])
    api.post(f"/jobs/{job['id']}/retry")
    jobs.work(UUID(job["id"]))
    assert reduced == [2, 3]
    now = {row.position: bytes(row.picture_file) for row in JobResult.objects.filter(job=job["id"])}
    assert sorted(now) == [0, 1, 2, 3]
    assert {position: now[position] for position in stored} == stored


def test_pictures_that_cannot_be_reduced_are_told_apart(api: Api, other: Api) -> None:
    few = api.upload(png(np.dstack([np.full((20, 20, 3), 80, np.uint8), np.full((20, 20), 255, np.uint8)])), "Flat.png")["id"]
    many = api.upload(png(painted()), "Many.png")["id"]
    job = api.post("/jobs/batches", {"pictures": [few, many], "recipe": {"chooser": "own"}}, 202)
    jobs.work(UUID(job["id"]))
    assert only(api)["step"] == "1 reduced, 1 could not be"
    assert "colors of its own" in JobResult.objects.get(job=job["id"], position=1).problem
    hopeless = api.post("/jobs/batches", {"pictures": [many], "recipe": {"chooser": "own"}}, 202)
    jobs.work(UUID(hopeless["id"]))
    assert api.get("/jobs")[0]["step"].startswith("None of the pictures could be reduced. ")
    assert "No picture is chosen" in api.post("/jobs/batches", {"pictures": [], "recipe": {}}, 422)["message"]
    other.post("/jobs/batches", {"pictures": [many], "recipe": {}}, 404)


# Real worker processes


@pytest.fixture
def queue(transactional_db: None) -> Iterator[None]:
    yield
    forget_queue()


def test_a_killed_worker_leaves_nothing_and_the_next_takes_its_job_up(queue: None) -> None:
    api = Api("kay")
    picture = api.upload(png(painted(1000, 1300)))["id"]
    job = api.post("/palettes", {"picture": picture, "recipe": {"colors": 200, "space": "ciede2000"}}, 202)["id"]
    first = start_worker()
    until(lambda: Job.objects.get(pk=job).step in ("choosing colors", "laying out pixels", "measuring the result"))
    first.send_signal(signal.SIGKILL)
    first.wait()
    assert Job.objects.get(pk=job).state == "working"
    assert api.shelf()["palettes"] == []
    second = start_worker()
    until(lambda: Job.objects.get(pk=job).state == "done")
    second.terminate()
    assert second.wait(timeout=20) == 0
    assert Job.objects.get(pk=job).attempts == 2
    (card,) = api.shelf()["palettes"]
    assert card["count"] == 200
    assert Revision.objects.count() == 1


def test_single_pictures_of_a_batch_are_called_off_and_tried_again(api: Api, other: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    ids = [api.upload(png(painted(8, 8, seed)), f"{seed}.png")["id"] for seed in (1, 2, 3)]
    job = api.post("/jobs/batches", {"pictures": ids, "recipe": {"colors": 3}}, 202)
    base = f"/jobs/{job['id']}/pictures"
    first = api.get(base)
    assert [entry["picture"] for entry in first["pictures"]] == ids
    assert [entry["state"] for entry in first["pictures"]] == ["waiting"] * 3
    assert first["recipe"]["colors"] == 3
    off = api.post(f"{base}/1/call-off")
    assert [(entry["state"], entry["problem"]) for entry in off["pictures"]][1] == ("off", "Called off.")
    assert "finished already" in api.post(f"{base}/1/call-off", status=422)["message"]
    assert "none at place 3" in api.post(f"{base}/3/call-off", status=422)["message"]
    assert "neither called off" in api.post(f"{base}/0/retry", status=422)["message"]
    other.get(base, 404)
    other.post(f"{base}/0/call-off", status=404)
    jobs.work(UUID(job["id"]))
    assert (only(api)["state"], only(api)["step"]) == ("done", "2 reduced, 1 called off")
    assert [entry["state"] for entry in api.get(base)["pictures"]] == ["done", "off", "done"]
    # Once more: only that one is worked on.
    again = api.post(f"{base}/1/retry")
    assert [entry["state"] for entry in again["pictures"]] == ["done", "waiting", "done"]
    assert only(api)["state"] == "waiting"
    reduced: list[int] = []
    original = batches._reduced
    monkeypatch.setattr(batches, "_reduced", lambda *words: (reduced.append(words[2]), original(*words))[1])
    jobs.work(UUID(job["id"]))
    assert reduced == [1]
    assert only(api)["step"] == "3 reduced"
    response = api.client.get(f"/api/jobs/{job['id']}/zip")
    with zipfile.ZipFile(io.BytesIO(b"".join(response.streaming_content))) as archive:
        assert {"1.png", "2.png", "3.png", "figures.csv"} <= set(archive.namelist())


def test_a_picture_that_is_called_off_while_it_is_worked_on_stays_off(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    ids = [api.upload(png(painted(8, 8, seed)), f"{seed}.png")["id"] for seed in (1, 2)]
    job = api.post("/jobs/batches", {"pictures": ids, "recipe": {"colors": 3}}, 202)
    original = batches._reduced

    def called_off_meanwhile(*words: Any) -> JobResult:
        made = original(*words)
        if words[2] == 0:
            batches.call_off(Job.objects.get().owner, UUID(job["id"]), 0)
        return made

    monkeypatch.setattr(batches, "_reduced", called_off_meanwhile)
    jobs.work(UUID(job["id"]))
    assert [entry["state"] for entry in api.get(f"/jobs/{job['id']}/pictures")["pictures"]] == ["off", "done"]
    for position in (0, 1):
        JobResult.objects.filter(position=position).update(problem="Called off.")
    api.post(f"/jobs/{job['id']}/pictures/0/retry")
    api.post(f"/jobs/{job['id']}/pictures/0/call-off")
    jobs.work(UUID(job["id"]))
    assert (only(api)["state"], only(api)["step"]) == ("failed", "Every picture was called off.")


def test_what_a_batch_made_counts_until_it_is_put_away(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    ids = [api.upload(png(painted(40, 40, seed)), f"{seed}.png")["id"] for seed in (1, 2, 3)]

    def kept() -> int:
        return int(api.get("/usage")["bytes"]["used"])

    before = kept()
    job = api.post("/jobs/batches", {"pictures": ids, "recipe": {"colors": 3}}, 202)["id"]
    jobs.work(UUID(job))
    files = sum(len(row.picture_file) + len(row.palette_file) for row in JobResult.objects.all())
    assert kept() == before + files > before
    api.client.delete(f"/api/jobs/{job}")
    assert kept() == before
    # One that would go beyond what one may keep ends there, says so, and keeps what it has.
    monkeypatch.setattr(bounds, "QUOTA", replace(bounds.QUOTA, bytes=before + files // 2))
    job = api.post("/jobs/batches", {"pictures": ids, "recipe": {"colors": 3}}, 202)["id"]
    jobs.work(UUID(job))
    assert only(api)["state"] == "failed"
    assert "Your shelf is full" in only(api)["step"]
    assert "1 of 3 are finished and kept" in only(api)["step"]
    assert only(api)["can_again"] is True
    monkeypatch.setattr(bounds, "QUOTA", replace(bounds.QUOTA, bytes=before + files))
    api.post(f"/jobs/{job}/retry")
    jobs.work(UUID(job))
    assert only(api)["step"] == "3 reduced"
    assert kept() == before + files


def test_what_a_batch_has_finished_is_said_when_it_is_called_off(api: Api) -> None:
    ids = [api.upload(png(painted(8, 8, seed)), f"{seed}.png")["id"] for seed in (1, 2)]
    job = api.post("/jobs/batches", {"pictures": ids, "recipe": {"colors": 3}}, 202)
    JobResult.objects.create(job_id=job["id"], position=0, name="1")
    assert api.post(f"/jobs/{job['id']}/cancel")["step"] == "Called off; 1 of 2 are finished and kept."


def test_what_is_open_and_not_in_the_queue_is_put_there_again(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    """As after a database that went away while a worker was to say how its job had ended."""
    palette = small_bench(api, monkeypatch)
    lost, queued, ended_one, young = (ask(api, palette)["id"] for _ in range(4))

    def in_queue() -> list[str]:
        with connection.cursor() as cursor:
            cursor.execute("SELECT args->>'job' FROM procrastinate_jobs WHERE status = 'todo'")
            return sorted(row[0] for row in cursor.fetchall())

    Job.objects.exclude(pk=young).update(changed=timezone.now() - timedelta(minutes=1))
    Job.objects.filter(pk=ended_one).update(state="done")
    with connection.cursor() as cursor:
        cursor.execute("UPDATE procrastinate_jobs SET status = 'failed' WHERE args->>'job' <> %s", [queued])
    assert in_queue() == [queued]
    jobs.queue_what_is_not()
    assert in_queue() == sorted([lost, queued])
    jobs.queue_what_is_not()
    assert in_queue() == sorted([lost, queued]), "once is enough"


@pytest.mark.parametrize(
    ("sql", "state", "said"),
    [
        ("SELECT pg_terminate_backend(pg_backend_pid())", "working", ""),
        ("SET LOCAL statement_timeout = 1; SELECT pg_sleep(5)", "failed", "nobody thought of"),
        ("DO $$ BEGIN RAISE EXCEPTION 'full' USING ERRCODE = 'disk_full'; END $$", "failed", "disk is full"),
    ],
)
def test_a_job_that_lost_its_database_stays_open_and_any_other_error_of_it_is_said(
    transactional_db: None, monkeypatch: pytest.MonkeyPatch, sql: str, state: str, said: str
) -> None:
    api = Api("ada")
    job = ask(api, small_bench(api, monkeypatch))

    def broken(*words: Any, **named: Any) -> Any:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(sql)

    monkeypatch.setattr(reductions, "propose", broken)
    with pytest.raises(OperationalError):
        jobs.work(UUID(job["id"]))
    connection.close()
    row = Job.objects.get(pk=job["id"])
    assert row.state == state
    assert said in row.step
    forget_queue()


def test_work_that_is_taken_up_again_says_so(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    job = ask(api, small_bench(api, monkeypatch))
    said: list[str] = []
    for _ in (1, 2):
        turn = jobs._take_up(UUID(job["id"]))
        assert turn
        said.append(only(api)["step"])
    assert said == ["beginning", "beginning again: whoever was at it ended"]
