"""What may be sent, kept and asked for, and how what is beyond that is refused: in words, early, and with nothing lost."""

import errno
import io
import json
import logging
import os
import subprocess
import sys
import threading
import uuid
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection, connections
from django.http import HttpResponse
from django.test import Client, RequestFactory
from django.utils import timezone

from bench.adversary import flat_png
from huvren.core import compile_all
from huvren.core.palette import values
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.site.logs import JsonLines
from huvren.studio import bounds, sign_in
from huvren.studio.api.parts import rates
from huvren.studio.api.parts.rates import Rate
from huvren.studio.errors import Busy, TooOften
from huvren.studio.middleware.bodies import refusal
from huvren.studio.models import FailedSignIn, Job, Palette, Picture, SignedIn, StoredBytes
from huvren.studio.services.bench import reductions
from huvren.studio.services.bench.pictures import WORKING, Working, WorkingCache
from huvren.studio.services.load import gate, jobs, lane, preparing, quotas, readiness
from huvren.studio.services.load.shared import Shared
from huvren.studio.services.shelf import palettes
from tests.pictures import painted, png
from tests.server.conftest import Api
from tests.waiting import PATIENCE_S, until

KB, MB = 1024, 1024 * 1024
NEVER = threading.Event()


def quota(monkeypatch: pytest.MonkeyPatch, **numbers: int) -> None:
    monkeypatch.setattr(bounds, "QUOTA", replace(bounds.QUOTA, **numbers))


@pytest.mark.parametrize(
    ("path", "length", "signed_in", "status"),
    [
        ("/api/palettes", 15 * KB, False, None), ("/api/palettes", 17 * KB, False, 401), ("/api/pictures", 5 * MB, False, 401),
        ("/api/pictures", 81 * MB, True, None), ("/api/pictures", 82 * MB, True, 413), ("/api/imports", 82 * MB, True, 413),
        ("/api/palettes/x/operations", 30 * MB, True, None), ("/api/palettes/x/operations", 33 * MB, True, 413),
        ("/api/recipes", 5 * MB, True, 413), ("/api/library/archive", 900 * MB, True, None), ("/sign-in", 17 * KB, True, 413),
        ("/anything", 17 * KB, True, 413),
    ],
)  # fmt: skip
def test_each_address_takes_what_it_may(path: str, length: int, signed_in: bool, status: int | None) -> None:
    refused = refusal(path, length, signed_in)
    assert (refused.status_code if refused else None) == status


def test_a_body_is_refused_by_its_length_before_it_is_read(api: Api) -> None:
    class Unread(io.BytesIO):
        def read(self, size: int | None = -1) -> bytes:
            raise AssertionError("It was read.")

    answer = api.client.post(
        "/api/recipes", "{}", content_type="application/json", CONTENT_LENGTH=str(500 * MB), **{"wsgi.input": Unread()}
    )
    assert answer.status_code == 413
    assert "500 MB" in answer.json()["message"]
    assert "4 MB is the most" in answer.json()["message"]
    stranger = Client().post("/api/pictures", b"x" * 20_000, content_type="image/png")
    assert (stranger.status_code, stranger.json()["code"]) == (401, "signed_out")


def test_the_proxy_asks_and_is_told_why_not(api: Api, settings: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    settings.BEHIND_OWN_PROXY = True
    ask = {"X-Huvren-Path": "/api/pictures?x=1", "X-Huvren-Client": "192.0.2.1"}

    def answer(length: int, client: Client = api.client) -> HttpResponse:
        return client.get("/api/may-send", headers={**ask, "X-Huvren-Bytes": str(length)})

    assert answer(5 * MB).status_code == 204
    assert answer(5 * MB, Client()).status_code == 401
    too_large = answer(90 * MB)
    assert (too_large.status_code, json.loads(too_large.headers["X-Huvren-Refusal"])["code"]) == (403, "too_large")
    quota(monkeypatch, bytes=4 * MB)
    full = answer(5 * MB)
    assert "fill your shelf beyond the 4 MB" in json.loads(full.headers["X-Huvren-Refusal"])["message"]
    ask["X-Huvren-Path"] = "/api/imports"
    assert answer(5 * MB).status_code == 204, "a file that is only looked into fills nothing"
    quota(monkeypatch, bytes=0)
    ask["X-Huvren-Path"] = "/api/library/archive"
    assert answer(0).status_code == 204, "a full shelf can be fetched"


def test_what_a_stranger_says_of_itself_is_not_believed(api: Api, settings: Any) -> None:
    assert api.client.get("/metrics", headers={"X-Huvren-Client": "127.0.0.1"}, REMOTE_ADDR="192.0.2.7").status_code == 404
    settings.METRICS = True
    assert api.client.get("/metrics", headers={"X-Huvren-Client": "127.0.0.1"}, REMOTE_ADDR="192.0.2.7").status_code == 404
    settings.BEHIND_OWN_PROXY = True
    api.get("/session")
    seen = api.client.get("/metrics", headers={"X-Huvren-Client": "127.0.0.1"}, REMOTE_ADDR="")
    assert b'huvren_requests_total{method="GET"' in seen.content


# Quotas


def test_bytes_are_counted_with_every_step_and_given_back(api: Api) -> None:
    def kept() -> int:
        return int(api.get("/usage")["bytes"]["used"])

    assert kept() == 0
    picture = api.upload(png(painted()))
    alone = kept()
    assert alone >= len(png(painted()))
    palette = api.post("/palettes", {"picture": picture["id"], "recipe": {"colors": 12}}, 201)
    with_palette = kept()
    assert with_palette > alone
    api.operate(palette, kind="rename_palette", name="Other")
    assert kept() > with_palette
    before = kept()
    quotas.recount(api.user.pk)
    assert kept() == before, "counting step by step gives what counting anew gives"
    Palette.objects.all().delete()
    Picture.objects.all().delete()
    assert kept() == 0


@pytest.mark.parametrize(("name", "words"), [("pictures", "1 pictures"), ("palettes", "1 palettes"), ("bytes", "Your shelf is full")])
def test_a_full_shelf_is_said_and_nothing_is_lost(api: Api, monkeypatch: pytest.MonkeyPatch, name: str, words: str) -> None:
    palette = api.bench()
    quota(monkeypatch, **{name: 1})
    if name != "palettes":
        answer = api.client.post("/api/pictures", {"file": SimpleUploadedFile("b.png", png(painted(9, 9)))})
        assert (answer.status_code, answer.json()["code"]) == (413, "full")
        assert words in answer.json()["message"]
    if name != "pictures":
        refused = api.post("/palettes", {"name": "More"}, 413)
        assert words in refused["message"]
    if name == "bytes":
        assert "full" in api.operate(palette, 413, kind="rename_palette", name="More")["message"]
    used = api.get("/usage")[name]
    assert used["used"] >= used["most"] == 1
    assert api.get(f"/palettes/{palette['id']}")["name"] == palette["name"]


def in_parallel(work: Any, count: int) -> list[Any]:
    def alone(number: int) -> Any:
        try:
            return work(number)
        finally:
            connections.close_all()

    with ThreadPoolExecutor(16) as pool:
        return list(pool.map(alone, range(count)))


@pytest.mark.django_db(transaction=True)
def test_the_limit_on_waiting_jobs_holds_under_many_requests_at_once(monkeypatch: pytest.MonkeyPatch) -> None:
    from tests.workers import forget_queue

    quota(monkeypatch, jobs=5)
    deferred = jobs._defer
    # Long enough inside the transaction that all others count meanwhile.
    monkeypatch.setattr(jobs, "_defer", lambda job: (NEVER.wait(0.05), deferred(job)))
    api = Api("ada")
    picture = api.bench()["links"][0]["picture"]["id"]
    body = json.dumps({"pictures": [picture], "recipe": {"colors": 3}})

    def ask(number: int) -> int:
        client = Client()
        client.force_login(api.user)
        return client.post("/api/jobs/batches", body, content_type="application/json").status_code

    answers = in_parallel(ask, 40)
    forget_queue()
    assert (answers.count(202), answers.count(422)) == (5, 35)
    assert Job.objects.count() == 5


@pytest.mark.django_db(transaction=True)
def test_the_last_place_of_a_shelf_is_given_once(monkeypatch: pytest.MonkeyPatch) -> None:
    quota(monkeypatch, palettes=3)
    api = Api("ada")

    def ask(number: int) -> int:
        client = Client()
        client.force_login(api.user)
        return client.post("/api/palettes", json.dumps({"name": f"P{number}"}), content_type="application/json").status_code

    assert in_parallel(ask, 24).count(201) == 3
    assert Palette.objects.count() == 3


def test_a_count_is_only_held_in_a_transaction(api: Api) -> None:
    connection.in_atomic_block, before = False, connection.in_atomic_block
    try:
        with pytest.raises(Exception, match="only held within a transaction"):
            quotas.hold(api.user)
    finally:
        connection.in_atomic_block = before


# Rates and signing in


def test_what_is_asked_for_too_often_is_told_when_to_come_again(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    now = 1_000_020.0
    monkeypatch.setattr(rates.time, "time", lambda: now)
    rate, request = Rate("tries", 3), RequestFactory().get("/")
    request.user = api.user
    assert [rate.allow_request(request) for _ in range(5)] == [True, True, True, False, False]
    assert rate.wait() == 60
    assert "Wait 60 seconds" in str(TooOften(rate.wait()))
    now += 60
    assert rate.allow_request(request)


def test_the_api_says_so(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(rates.UPLOADS, "a_minute", 0)
    monkeypatch.setattr(rates.time, "time", lambda: 1_000_050.0)
    answer = api.client.post("/api/pictures", {"file": SimpleUploadedFile("a.png", png(painted(9, 9)))})
    assert (answer.status_code, answer.json()["code"]) == (429, "too_often")
    assert answer.headers["Retry-After"] == "30", "the minute ends then"


def tried(password: str, name: str = "cy", address: str = "192.0.2.1") -> str:
    answer = Client().post("/sign-in", {"username": name, "password": password}, REMOTE_ADDR=address)
    return "in" if answer.status_code == 302 else answer.content.decode().split('role="alert">')[1].split("<")[0]


@pytest.fixture
def cy(db: None) -> Any:
    return get_user_model().objects.create_user("cy", password="a long enough word")


def test_guessing_waits_longer_each_time_and_the_right_password_waits_too(cy: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    def at_the_moment_of_the_last_one() -> None:
        last = FailedSignIn.objects.order_by("-last").first()
        assert last is not None
        monkeypatch.setattr(sign_in.timezone, "now", lambda: last.last)

    for _ in range(5):
        assert "do not belong together" in tried("no")
    at_the_moment_of_the_last_one()
    assert "Wait 10 seconds" in tried("no")
    assert "Wait" in tried("a long enough word"), "not even the right one is looked at"
    waits = []
    for _ in range(4):
        FailedSignIn.objects.filter(key__startswith="both").update(last=timezone.now() - timezone.timedelta(seconds=1000))
        assert "do not belong together" in tried("no")
        at_the_moment_of_the_last_one()
        waits.append(round(sign_in.wait_s("cy", "192.0.2.1")))
    assert waits == [20, 40, 80, 160]
    assert tried("a long enough word", address="192.0.2.2") == "in", "others may come in from elsewhere"


def test_a_right_password_makes_wrong_ones_forgotten(cy: Any) -> None:
    for _ in range(4):
        tried("no")
    assert tried("a long enough word") == "in"
    assert not FailedSignIn.objects.filter(key__startswith="both").exists()
    for _ in range(5):
        assert "do not belong together" in tried("no")


def test_names_are_guessed_at_from_one_address_no_faster(cy: Any) -> None:
    for number in range(40):
        tried("no", name=f"somebody{number}")
    assert "Wait" in tried("no", name="another")
    assert "Wait" in tried("a long enough word")
    assert tried("a long enough word", address="192.0.2.9") == "in"


def test_from_many_addresses_nobody_is_locked_out_for_long(cy: Any) -> None:
    for number in range(70):
        tried("no", address=f"198.51.100.{number}")
    assert 0 < sign_in.wait_s("cy", "203.0.113.1") <= 60


def test_wrong_passwords_at_once_count_as_many(transactional_db: None) -> None:
    get_user_model().objects.create_user("cy", password="a long enough word")
    answers = in_parallel(lambda number: tried("no"), 24)
    assert sum("do not belong together" in answer for answer in answers) <= 5 + 16, "those that were looked at at the same time"
    assert FailedSignIn.objects.get(key__startswith="both").count <= 5 + 16


@pytest.mark.parametrize("password", ["x" * 2000, "no\0", ""])
def test_no_password_is_looked_at_that_cannot_be_one(cy: Any, password: str) -> None:
    assert tried(password) != "in"
    assert not FailedSignIn.objects.exists()


def test_old_failures_are_forgotten(cy: Any) -> None:
    for _ in range(9):
        tried("no")
    FailedSignIn.objects.update(last=timezone.now() - timezone.timedelta(days=2))
    assert sign_in.wait_s("cy", "192.0.2.1") == 0
    assert sign_in.forget_old() == 3
    assert tried("a long enough word") == "in"


# The first preparation


def test_what_draws_waits_for_the_first_preparation_and_the_rest_goes_on(
    api: Api, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    told = tmp_path / "preparing.json"
    monkeypatch.setenv(preparing.NAMED, str(told))
    plate = api.upload(png(painted(24, 32)))
    palette = api.post("/palettes", {"picture": plate["id"]}, 201)
    recipe = {"picture": plate["id"], "recipe": {"colors": 4}, "kind": "reduce"}
    told.write_text(json.dumps({"process": os.getpid(), "share": 0.41, "step": "afar"}))
    assert api.get("/preparing") == {"share": 0.41}
    said = api.post(f"/palettes/{palette['id']}/previews", recipe, 503)
    assert said["code"] == "preparing"
    assert "41% of what draws and reduces is ready" in said["message"]
    assert api.get(f"/palettes/{palette['id']}")["id"] == palette["id"], "what is light is answered"
    ended = subprocess.run([sys.executable, "-c", "import os; print(os.getpid())"], capture_output=True, text=True, check=True)
    told.write_text(json.dumps({"process": int(ended.stdout), "share": 0.41, "step": "afar"}))
    assert api.get("/preparing") == {"share": None}, "whoever did it is gone"
    told.write_text("half a w")
    assert api.get("/preparing") == {"share": None}
    told.unlink()
    assert api.get("/preparing") == {"share": None}


def test_compiling_writes_down_how_far_it_is(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    told = tmp_path / "preparing.json"
    monkeypatch.setenv(preparing.NAMED, str(told))
    compile_all._tell("histogram, _mark", 0.25)
    assert json.loads(told.read_text()) == {"process": os.getpid(), "share": 0.25, "step": "histogram, _mark"}
    assert preparing.share() == 0.25
    compile_all._tell("done", 1.0)
    assert preparing.share() is None
    assert list(tmp_path.iterdir()) == []


# The gate, the lane, the cache


def test_the_gate_lets_through_what_fits_and_then_says_so() -> None:
    small = gate.Gate(100, wait_s=0.1)
    with small.enter(60):
        with small.enter(60):
            pass  # whoever is inside goes on
        with ThreadPoolExecutor(1) as pool:
            with pytest.raises(Busy, match="at work on other large pictures"):
                pool.submit(lambda: small.enter(60).__enter__()).result()
    with small.enter(10**9):
        pass  # what needs more than all goes alone


def test_the_gate_lets_the_next_one_in() -> None:
    small = gate.Gate(100, wait_s=PATIENCE_S)
    inside: list[int] = []
    most = [0]
    in_pairs = threading.Barrier(2, timeout=PATIENCE_S)

    def work(number: int) -> None:
        with small.enter(40):
            inside.append(number)
            most[0] = max(most[0], len(inside))
            in_pairs.wait()
            inside.remove(number)

    with ThreadPoolExecutor(8) as pool:
        list(pool.map(work, range(8)))
    assert most[0] == 2


def test_the_lane_goes_in_turn_of_who_used_it_least() -> None:
    hours = iter(range(10**6))
    one = lane.Lane(at_once=1, wait_s=10**9, clock=lambda: next(hours) / 100)
    order: list[str] = []
    may_go = threading.Event()

    def work(name: str, who: int) -> None:
        with one.turn_of(who):
            order.append(name)
            may_go.wait(PATIENCE_S)

    threads = [threading.Thread(target=work, args=("greedy 0", 1))]
    threads[0].start()
    until(lambda: order)
    for count, (name, who) in enumerate((("greedy 1", 1), ("greedy 2", 1), ("modest", 2)), start=1):
        threads.append(threading.Thread(target=work, args=(name, who)))
        threads[-1].start()
        until(lambda count=count: len(one.waiting) == count)
    assert one.is_wanted()
    may_go.set()
    for thread in threads:
        thread.join()
    assert order == ["greedy 0", "modest", "greedy 1", "greedy 2"]
    assert not one.waiting


def test_nobody_waits_for_much_longer_than_what_they_used() -> None:
    """Whoever used a little more than everybody that comes after would else wait for ever."""
    now = [0.0]
    one = lane.Lane(at_once=1, clock=lambda: now[0])
    one._used = {who: (2.0 if who == 1 else 0.1, 0.0) for who in range(9)}
    for number, who in enumerate((1, 2, 3, 4, 5)):
        now[0] = float(number)
        one.waiting.append((who, number))
        one._came[number] = now[0]
    turns = []
    while one.waiting:
        turns.append(next(entry for entry in one.waiting if one._is_next(entry)))
        one.waiting.remove(turns[-1])
    assert [who for who, _ in turns] == [2, 1, 3, 4, 5]


def test_after_a_turn_those_of_other_processes_may_ask_first() -> None:
    """The next of this one knows at once that a place is free; they look now and then."""
    now = [50.0]
    one = lane.Lane(at_once=1, clock=lambda: now[0], shared=Shared())
    one._end(1, 0.2)
    assert now[0] >= one._not_before, "nobody waits here: whoever comes goes in"
    one.waiting.append((2, 1))
    one._end(1, 0.2)
    assert not one._has_places(2, [])
    assert one._not_before == now[0] + one.asks_s


def test_a_lane_that_somebody_waited_for_is_wanted_for_some_seconds() -> None:
    now = [1000.0]
    one = lane.Lane(at_once=1, clock=lambda: now[0])
    one._waited[5] = now[0]
    assert one.is_wanted()
    assert one.is_wanted(besides=6)
    assert not one.is_wanted(besides=5)
    assert not one.is_wanted(by=2)
    now[0] += lane.LATELY_S + 0.1
    assert not one.is_wanted()


def test_whoever_was_inside_for_long_stands_aside_while_others_are_there() -> None:
    now = [1000.0]

    def clock() -> float:
        now[0] += 0.01
        return now[0]

    one = lane.Lane(at_once=2, wait_s=10**9, aside_s=0.4, clock=clock, look_s=0.001)
    one._used[1] = (lane.MUCH_S * 2, now[0])

    def waited(who: int) -> float:
        begun = clock()
        with one.turn_of(who):
            return clock() - begun

    assert waited(1) < 0.2, "alone, nobody stands aside"
    with one.turn_of(2):
        assert waited(3) < 0.2
        assert waited(1) >= 0.4


def test_a_turn_that_does_not_come_is_said(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    palette = api.bench()
    picture = palette["links"][0]["picture"]["id"]
    monkeypatch.setattr(lane.LANE, "wait_s", 0.1)
    monkeypatch.setattr(lane.LANE, "_inside", lane.LANE.at_once + 1)
    body = {"picture": picture, "recipe": {"colors": 3}}
    answer = api.client.post(f"/api/palettes/{palette['id']}/previews", json.dumps(body), content_type="application/json")
    assert (answer.status_code, answer.json()["code"], answer.headers["Retry-After"]) == (503, "busy", "2")
    assert api.get(f"/palettes/{palette['id']}") == palette, "what is light goes on"


@pytest.fixture
def cache() -> WorkingCache:
    return WorkingCache(3 * MB)


def test_the_cache_counts_what_it_really_holds_and_stays_within(api: Api, cache: WorkingCache) -> None:
    rows = [Picture.objects.get(pk=api.upload(png(painted(200 + n, 150)))["id"]) for n in range(8)]
    for row in rows:
        working = cache.get(row, preview=False, alpha_threshold=128)
        assert len(working.histogram.points.places)
        cache.make_room(0)
        assert cache.bytes <= 3 * MB
    again = cache.get(rows[-1], preview=False, alpha_threshold=128)
    assert again.rgba is cache.get(rows[-1], preview=False, alpha_threshold=128).rgba
    cache.make_room(3 * MB)
    assert cache.bytes == 0


def test_a_histogram_goes_before_pixels_do(api: Api) -> None:
    row = Picture.objects.get(pk=api.upload(png(painted(300, 200)))["id"])
    cache = WorkingCache(10 * MB)
    working = cache.get(row, preview=False, alpha_threshold=128)
    with_histogram = working.histogram.distinct and cache.bytes
    cache.make_room(10 * MB - working.rgba.nbytes - 10)
    assert cache.bytes == working.rgba.nbytes < with_histogram
    assert isinstance(working, Working)


def test_while_others_wait_previews_are_smaller(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    row = Picture.objects.get(pk=api.upload(png(painted(1100, 800)))["id"])
    monkeypatch.setattr(lane.LANE, "_waited", {})
    WORKING.make_room(WORKING.most_bytes)
    usual = WORKING.get(row, preview=True, alpha_threshold=128)
    monkeypatch.setattr(lane.LANE, "waiting", [(-7, 1)])
    busy = WORKING.get(row, preview=True, alpha_threshold=128)
    assert busy.rgba.shape[0] * busy.rgba.shape[1] < usual.rgba.shape[0] * usual.rgba.shape[1] / 2


def test_a_picture_that_is_decoded_already_is_not_decoded_for_its_preview(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    row = Picture.objects.get(pk=api.upload(png(painted(1100, 800)))["id"])
    monkeypatch.setattr(lane.LANE, "_waited", {})
    apart = WorkingCache(50 * MB).get(row, preview=True, alpha_threshold=128)
    cache = WorkingCache(50 * MB)
    cache.get(row, preview=False, alpha_threshold=128)
    Picture.objects.filter(pk=row.pk).update(original=StoredBytes.objects.create(sha256="0" * 64, data=b"none", media_type="x"))
    row.original.data = b"no picture"
    assert (cache.get(row, preview=True, alpha_threshold=128).rgba == apart.rgba).all()


def test_while_others_wait_colors_are_looked_for_quickly_and_that_is_said(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    palette = api.bench()
    row = Picture.objects.get(pk=palette["links"][0]["picture"]["id"])
    bench = values.Palette("Plate")

    def proposed(**recipe: Any) -> reductions.Proposed:
        return reductions.propose(row, bench, ReduceRecipe(colors=6, **recipe), "x", preview=True)

    monkeypatch.setattr(lane.LANE, "_waited", {})
    usual = proposed(dither="floyd-steinberg")
    assert usual.is_full
    monkeypatch.setattr(lane.LANE, "waiting", [(row.owner_id, 1)] * 9)
    assert proposed(dither="floyd-steinberg").is_full, "what the artist waits for is nobody else's"
    monkeypatch.setattr(lane.LANE, "waiting", [(-7, 1)])
    quick = proposed(dither="floyd-steinberg")
    assert not quick.is_full
    assert reductions.LOOKED_QUICKLY in quick.reduction.notes
    assert reductions.LOOKED_QUICKLY not in usual.reduction.notes
    assert quick.reduction.figures.afar <= usual.reduction.figures.afar * 1.5, "and yet they are looked for"
    plain = proposed(dither="floyd-steinberg", tune=False)
    assert plain.is_full
    assert not plain.reduction.notes
    asked: list[bool] = []

    def came_meanwhile(self: lane.Lane, who: int) -> None:
        """Nobody is there at the beginning; after three looks somebody waits."""
        asked.append(who == row.owner_id)
        self.waiting[:] = [(-7, 1)] if len(asked) > 3 else []

    monkeypatch.setattr(lane.LANE, "waiting", list[tuple[int, int]]())
    with monkeypatch.context() as meanwhile:
        meanwhile.setattr(lane.Lane, "look_around", came_meanwhile)
        hurried = proposed(dither="floyd-steinberg")
    assert asked
    assert all(asked)
    assert not hurried.is_full
    assert reductions.LOOKED_QUICKLY in hurried.reduction.notes
    assert hurried.reduction.figures.afar <= usual.reduction.figures.afar * 1.5
    monkeypatch.setattr(lane.LANE, "waiting", [(-7, 1)] * reductions.MANY)
    quickest = proposed(dither="floyd-steinberg")
    assert not quickest.is_full
    assert quickest.reduction.notes == (reductions.NOT_TUNED,)
    assert (quickest.reduction.rgb == plain.reduction.rgb).all()
    assert [swatch.id for swatch in quickest.adopted.palette.swatches] == [swatch.id for swatch in usual.adopted.palette.swatches]
    kept = reductions.propose(row, bench, ReduceRecipe(colors=6, dither="floyd-steinberg"), "x", preview=False)
    assert kept.is_full
    assert (kept.reduction.rgb == usual.reduction.rgb).all()


@pytest.mark.parametrize(
    ("width", "height", "words"),
    [
        (7000, 6000, "42 million pixels; 40 million is the most"),
        (1, 260_000, "a side has at most 250,000"),
        (260_000, 1, "a side has at most"),
    ],
)
def test_pictures_beyond_the_limits_are_refused_in_words(api: Api, width: int, height: int, words: str) -> None:
    for path in ("/api/pictures", "/api/imports"):
        answer = api.client.post(path, {"file": SimpleUploadedFile("a.png", flat_png(width, height))})
        assert answer.status_code == 413
        assert words in answer.json()["message"]


@pytest.mark.parametrize(("width", "height"), [(16384, 2), (1, 60_000), (249_999, 1), (3, 1)])
def test_pictures_of_strange_shapes_are_taken(api: Api, width: int, height: int) -> None:
    picture = api.upload(flat_png(width, height))
    assert (picture["width"], picture["height"]) == (width, height)
    assert api.client.get(f"/api/pictures/{picture['id']}/thumbnail").status_code == 200
    palette = api.post("/palettes", {"picture": picture["id"], "recipe": {"colors": 2}}, 201)
    assert len(palette["swatches"]) == 1


# Answers that say how things are


def test_health_asks_nothing_and_ready_tells_all(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    assert Client().get("/api/health").json() == {"status": "ok"}
    answer = Client().get("/api/ready")
    assert (answer.status_code, answer.json()["database"], answer.json()["disk"]) == (200, "ok", "ok")
    assert "no worker takes jobs" in answer.json()["queue"]
    monkeypatch.setattr(readiness, "LEAST_FREE", 10**18)
    answer = Client().get("/api/ready")
    assert answer.status_code == 503
    assert "this server's disk has only" in answer.json()["disk"]
    monkeypatch.setattr(readiness, "_disk", lambda folder, whose: "ok" if "server" in whose else "nearly full")
    answer = Client().get("/api/ready")
    assert (answer.status_code, answer.json()["disk"]) == (503, "nearly full")


def test_ready_asks_for_the_disk_of_the_database_and_whether_it_can_be_written_to(
    transactional_db: None, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert readiness._database()[0] == readiness._database()[2] == "ok"
    monkeypatch.setattr(readiness, "LEAST_FREE", 10**18)
    assert "the database's disk has only" in readiness._database()[2]
    with connection.cursor() as cursor:
        cursor.execute("SELECT current_database()")
        (name,) = cursor.fetchone()
        cursor.execute(f"ALTER DATABASE {name} SET default_transaction_read_only = on")
        try:
            assert "cannot be written to: ReadOnlySqlTransaction" in readiness._database()[0]
        finally:
            cursor.execute("SET default_transaction_read_only = off")
            cursor.execute(f"ALTER DATABASE {name} RESET default_transaction_read_only")


@pytest.mark.parametrize(
    ("host", "is_ours"),
    [
        ("127.0.0.1", True), ("localhost", True), ("::1", True), ("/var/run/postgresql", True), ("", True),
        ("10.0.0.7", False), ("db.example", False), ("localhost.example", False),
    ],
)  # fmt: skip
def test_only_a_disk_of_this_computer_is_looked_at(host: str, is_ours: bool) -> None:
    """Elsewhere a folder of the same name may be here too, on a disk that says nothing."""
    assert readiness.is_of_this_computer(host) is is_ours


def test_a_full_disk_is_called_a_full_disk(transactional_db: None, monkeypatch: pytest.MonkeyPatch) -> None:
    """Of the database, as PostgreSQL says it, and of this computer, as the system does."""
    api = Api("ada")

    def full_database(*words: Any, **named: Any) -> Any:
        with connection.cursor() as cursor:
            cursor.execute("DO $$ BEGIN RAISE EXCEPTION 'could not extend file' USING ERRCODE = 'disk_full'; END $$")

    def full_folder(*words: Any, **named: Any) -> Any:
        raise OSError(errno.ENOSPC, "No space left on device")

    for full in (full_database, full_folder):
        with monkeypatch.context() as patched:
            patched.setattr(palettes, "create", full)
            client = Client(raise_request_exception=False)
            client.force_login(api.user)
            answer = client.post("/api/palettes", '{"text": "#102030"}', content_type="application/json")
        assert (answer.status_code, answer.json()["code"]) == (507, "disk_full")
        assert "Retry-After" not in answer.headers
        assert "again in a moment" not in answer.json()["message"]


def test_ready_answers_in_time_with_the_database_stuck(settings: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    import socket

    with socket.create_server(("127.0.0.1", 0)) as silent:
        monkeypatch.setitem(settings.DATABASES["default"], "PORT", str(silent.getsockname()[1]))
        looking = readiness._Looking()
        assert looking.answers(0.05)[0] == "does not answer"
        assert looking.answers(0)[0] == "does not answer"
        assert [thread.name for thread in threading.enumerate()].count("readiness") == 1, "nobody waits for the one who looks"


def test_a_request_is_one_line_of_json_with_its_id(api: Api, caplog: pytest.LogCaptureFixture) -> None:
    caplog.set_level(logging.INFO, logger="huvren.requests")
    answer = api.client.get(f"/api/palettes/{uuid.uuid4()}")
    (record,) = [record for record in caplog.records if record.name == "huvren.requests"]
    line = json.loads(JsonLines().format(record))
    assert line["request_id"] == answer.headers["X-Request-Id"]
    assert (line["status"], line["route"], line["user"]) == (404, "/api/palettes/<palette_id>", api.user.pk)
    assert (line["level"], line["method"]) == ("info", "GET"), "a 404 is no warning"
    assert line["ms"] > 0
    assert "\n" not in JsonLines().format(record)


def test_slow_requests_are_named(caplog: pytest.LogCaptureFixture, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("huvren.studio.middleware.log.SLOW_MS", -1)
    Client().get("/api/health")
    (record,) = [record for record in caplog.records if record.name == "huvren.requests"]
    assert (record.levelname, record.getMessage()) == ("WARNING", "slow request")


def test_a_visitor_without_a_cookie_writes_no_session(settings: Any, db: None) -> None:
    settings.DEMO = True
    get_user_model().objects.create_user("demo")
    for path in ("/api/session", "/", "/sign-in", "/api/nothing", "/static/licenses.txt"):
        list(Client().get(path, headers={"host": "localhost"}))
    assert SignedIn.objects.count() == 0


@pytest.mark.parametrize(
    "words",
    [
        {"headers": {"X-Forwarded-For": "192.0.2.7"}}, {"headers": {"Forwarded": "for=192.0.2.7"}}, {"headers": {"Via": "1.1 x"}},
        {"headers": {"X-Real-IP": "192.0.2.7"}}, {"SERVER_PROTOCOL": "HTTP/1.0"}, {"headers": {"host": "huvren.example"}},
        {"REMOTE_ADDR": "192.0.2.7"},
    ],
)  # fmt: skip
def test_the_demo_is_nobody_through_a_proxy(settings: Any, db: None, words: dict[str, Any]) -> None:
    settings.DEMO, settings.ALLOWED_HOSTS = True, ["*"]
    get_user_model().objects.create_user("demo")
    words = {**words, "headers": {"host": "127.0.0.1:8420", **words.get("headers", {})}}
    assert Client().get("/api/session", **words).status_code == 401


def test_static_files_have_the_same_headers(api: Api) -> None:
    answer = api.client.get("/static/licenses.txt")
    assert b"".join(answer)
    headers = answer.headers
    assert "default-src 'self'" in headers["Content-Security-Policy"]
    assert headers["X-Content-Type-Options"] == "nosniff"


@pytest.mark.parametrize(
    ("method", "path", "status", "code"),
    [
        ("GET", "/api/nothing", 404, "unknown_route"), ("GET", "/api/palettes/x/y/z", 404, "unknown_route"),
        ("PATCH", "/api/palettes", 405, "wrong_method"), ("POST", "/api", 404, "unknown_route"),
        ("POST", "/api/palettes", 400, "bad_json"),
    ],
)  # fmt: skip
def test_every_refusal_of_the_api_is_a_problem_document(api: Api, method: str, path: str, status: int, code: str) -> None:
    answer = api.client.generic(method, path, b"{", content_type="application/json")
    assert (answer.status_code, answer.headers["Content-Type"]) == (status, "application/problem+json")
    assert answer.json()["code"] == code


def test_a_missing_csrf_token_is_a_problem_document_too(api: Api) -> None:
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(api.user)
    answer = strict.post("/api/palettes", "{}", content_type="application/json")
    assert (answer.status_code, answer.json()["code"]) == (403, "forbidden")


def test_the_schema_is_for_artists_unless_a_setting_says_so(api: Api, settings: Any) -> None:
    assert Client().get("/api/openapi.json").status_code == 401
    schema = api.get("/openapi.json")
    settings.PUBLIC_SCHEMA = True
    assert Client().get("/api/openapi.json").json() == schema
    previews = schema["paths"]["/api/palettes/{palette_id}/previews"]["post"]["responses"]
    assert list(previews["200"]["content"]) == ["application/octet-stream"]
    assert all("4XX" in operation["responses"] for path in schema["paths"].values() for operation in path.values())


@pytest.mark.parametrize(
    "body",
    [
        {"kind": "rename_palette", "name": "a\0b"}, {"kind": "set_columns", "columns": "abc"}, {"kind": "set_slots", "slots": 10**30},
        {"kind": "delete_swatches", "ids": [["x"]]}, {"kind": "replace_in_names", "find": "\ud800"}, {"kind": "nothing"},
        {"kind": "write_note", "ids": [], "note": "\0"}, {"kind": "recolor", "id": "x", "space": "srgb", "coords": [10**400, 0, 0]},
    ],
)  # fmt: skip
def test_nothing_a_step_says_is_ever_a_500(api: Api, body: dict[str, Any]) -> None:
    palette = api.bench()
    answer = api.client.post(
        f"/api/palettes/{palette['id']}/operations", json.dumps({"base": 1, "operation": body}), content_type="application/json"
    )
    assert 400 <= answer.status_code < 500, answer.content
    assert answer.json()["message"]
    assert api.get(f"/palettes/{palette['id']}") == palette


def test_a_picture_that_is_sent_again_is_not_kept_twice(api: Api, other: Api) -> None:
    data = png(painted())

    def send(api: Api, name: str = "plate.png", again: str = "true", data: bytes = data) -> str:
        answer = api.client.post("/api/pictures", {"file": SimpleUploadedFile(name, data), "again": again})
        assert answer.status_code == 201
        return str(answer.json()["id"])

    first = send(api, again="true")
    assert send(api) == first, "it came through, and the answer did not"
    assert len({first, send(api, again="false"), send(api, "b.png"), send(other), send(api, data=png(painted(9, 9)))}) == 5
    api.client.delete(f"/api/pictures/{first}")
    Picture.objects.exclude(pk=first).delete()
    assert send(api) != first, "what is in the trash is not what was meant"
    Picture.objects.update(trashed=None, created=timezone.now() - timedelta(hours=1))
    assert Picture.objects.count() == 2
    send(api)
    assert Picture.objects.count() == 3, "what came long ago was another wish"
