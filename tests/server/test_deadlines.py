"""What is late breaks itself off between its steps and the process goes on; what cannot be broken off is replaced before it ends."""

import os
import threading
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from django.db import connection, transaction
from django.http import HttpRequest, HttpResponse
from django.test import RequestFactory

from huvren.core.color.spaces import convert
from huvren.core.formats.scan.text_scan import candidates
from huvren.core.palette.naming import suggest_names
from huvren.core.progress import TookTooLong, due_in, look_up, unwatched
from huvren.site import settings as site
from huvren.studio.middleware import lanes
from huvren.studio.middleware.deadline import Deadline, Watchman
from huvren.studio.middleware.lanes import Lanes
from huvren.studio.services.load import handover
from huvren.studio.services.load.lane import Lane
from tests.server.conftest import Api
from tests.waiting import until
from tools.postgres import free_port
from tools.processes import descendants
from tools.serving import served, wait_for
from tools.steps import PYTHON

ENDLESS_S = 300
GIVEN_UP: list[int] = []


@pytest.fixture(autouse=True)
def given_up() -> list[int]:
    GIVEN_UP.clear()
    return GIVEN_UP


@pytest.fixture
def short(monkeypatch: pytest.MonkeyPatch) -> None:
    """Requests have a fifth of a second. The connection of the tests stays open: another thread's would be closed."""
    monkeypatch.setattr("huvren.studio.middleware.deadline.deadline_s", lambda path: 0.2)
    monkeypatch.setattr("huvren.studio.middleware.deadline.connections.close_all", lambda: None)


def endless(request: HttpRequest) -> HttpResponse:
    while True:
        look_up()
        threading.Event().wait(0.01)


def late(handler: Any, grace_s: float = ENDLESS_S) -> Any:
    answer = Deadline(handler, give_up=lambda: GIVEN_UP.append(1), grace_s=grace_s)(RequestFactory().get("/api/x"))
    return answer.status_code, answer.content.decode()


@pytest.mark.usefixtures("short")
def test_a_late_request_is_broken_off_says_so_and_nothing_is_given_up() -> None:
    status, said = late(endless)
    assert (status, "took_too_long" in said) == (503, True)
    assert GIVEN_UP == []
    look_up()


@pytest.mark.usefixtures("short", "db")
def test_a_question_that_the_database_is_at_work_on_is_called_off() -> None:
    def asks(request: HttpRequest) -> HttpResponse:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SELECT pg_sleep(%s)", [ENDLESS_S])
        return HttpResponse("slept")

    def answers(request: HttpRequest) -> HttpResponse:
        # As Django makes an answer of the database's error.
        try:
            return asks(request)
        except Exception:
            return HttpResponse("wrong", status=500)

    status, said = late(answers)
    assert (status, "took_too_long" in said) == (503, True)
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
        assert cursor.fetchone() == (1,)


def test_the_connection_that_was_late_is_called_off_and_no_later_one() -> None:
    """A thread that is done asks for somebody else on a new connection while the one before is still being called off."""
    called_off: list[str] = []

    class Asked:
        def __init__(self, name: str, then: Any = None) -> None:
            self.name, self.then = name, then

        def cancel_safe(self, timeout: float) -> None:
            called_off.append(self.name)
            if self.then:
                self.then()

    class Thread:
        connection: Any = None

    both = Thread(), Thread()

    def go_on() -> None:
        for thread in both:
            thread.connection = Asked("of somebody else")

    for number, thread in enumerate(both):
        thread.connection = Asked(f"late {number}", go_on)
    watchman = Watchman(lambda: None, ENDLESS_S)
    with watchman._lock:
        entries = [watchman.begin(-1, thread) for thread in both]
    until(lambda: len(called_off) == 2)
    assert sorted(called_off) == ["late 0", "late 1"]
    for entry in entries:
        watchman.end(entry)


@pytest.mark.usefixtures("short")
def test_no_question_is_begun_after_the_deadline(db: None) -> None:
    def asks(request: HttpRequest) -> HttpResponse:
        threading.Event().wait(0.3)
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
        return HttpResponse("asked")

    assert late(asks)[0] == 503


def changing(*, before_s: float = 0, after_s: float = 0, table: str = "studio_keptrecipe", is_kept: bool = True) -> Any:
    """Work that changes something, and is done with it at once or only later."""

    def change(request: HttpRequest) -> HttpResponse:
        threading.Event().wait(before_s)
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(f"DELETE FROM {table} WHERE false")
            transaction.set_rollback(not is_kept)
        threading.Event().wait(after_s)
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
        return HttpResponse("done")

    return change


@pytest.mark.usefixtures("short", "transactional_db")
def test_what_is_made_has_time_to_say_so_and_is_never_said_to_be_nothing() -> None:
    assert late(changing(before_s=0.12, after_s=0.12)) == (200, "done"), "the answer's time begins when it is made"
    status, said = late(changing(after_s=0.3))
    assert (status, "may be made all the same" in said, "Nothing was changed" in said) == (503, True, False)
    for other in (changing(after_s=0.3, is_kept=False), changing(after_s=0.3, table="studio_asked"), changing(before_s=0.3)):
        status, said = late(other)
        assert (status, "may be made" in said, "Nothing was changed" in said) == (503, False, True)


@pytest.mark.usefixtures("short", "transactional_db")
def test_the_time_for_the_answer_is_given_once() -> None:
    def step(request: HttpRequest) -> HttpResponse:
        for _ in range(50):
            changing(after_s=0.05)(request)
        return HttpResponse("done")

    status, said = late(step)
    assert (status, "may be made" in said) == (503, True)


@pytest.mark.usefixtures("short")
def test_what_does_not_look_up_is_given_up_once_and_answers_in_the_end() -> None:
    ends = threading.Event()

    def stuck(request: HttpRequest) -> HttpResponse:
        until(lambda: GIVEN_UP)
        ends.wait(0.3)
        return HttpResponse("in the end")

    assert late(stuck, grace_s=0.05) == (200, "in the end")
    assert GIVEN_UP == [1]


def test_what_is_in_time_is_answered_as_it_is(monkeypatch: pytest.MonkeyPatch) -> None:
    def refused(request: HttpRequest) -> HttpResponse:
        return HttpResponse("wrong", status=500)

    assert late(refused) == (500, "wrong")
    assert late(lambda request: HttpResponse("well")) == (200, "well")


@pytest.mark.usefixtures("short")
def test_waiting_for_a_turn_does_not_count(monkeypatch: pytest.MonkeyPatch) -> None:
    lane = Lane(at_once=1)
    monkeypatch.setattr(lanes, "LANE", lane)
    inside, leaves, answers = threading.Event(), threading.Event(), []

    class Somebody:
        pk, is_authenticated = 1, True

    def ask() -> None:
        request = RequestFactory().post("/api/palettes/x/previews")
        request.user = Somebody()  # type: ignore[assignment]
        answers.append(Lanes(Deadline(lambda request: HttpResponse("well")))(request).status_code)

    def hold() -> None:
        with lane.turn_of(2):
            inside.set()
            leaves.wait()

    holding, asking = threading.Thread(target=hold), threading.Thread(target=ask)
    holding.start()
    inside.wait()
    asking.start()
    until(lane.is_wanted)
    # Longer than the deadline.
    threading.Event().wait(0.5)
    leaves.set()
    asking.join()
    holding.join()
    assert answers == [200]


def test_the_deadline_lies_within_the_lane() -> None:
    order = [name.rpartition(".")[2] for name in site.MIDDLEWARE]
    assert order.index("Deadline") > order.index("Lanes")


def test_a_transaction_that_is_late_leaves_nothing(api: Api, monkeypatch: pytest.MonkeyPatch, request: pytest.FixtureRequest) -> None:
    palette = api.bench()
    request.getfixturevalue("short")
    # It breaks itself off; a question called off besides would be whichever comes then, on the connection that the tests keep.
    monkeypatch.setattr("huvren.studio.middleware.deadline._call_off", lambda asked: None)
    monkeypatch.setattr("huvren.studio.services.shelf.palettes.write_card", lambda *parts: endless(HttpRequest()))
    answer = api.operate(palette, 503, kind="rename_palette", name="Late")
    assert answer["code"] == "took_too_long"
    monkeypatch.undo()
    assert api.get(f"/palettes/{palette['id']}")["name"] == palette["name"]
    assert len(api.get(f"/palettes/{palette['id']}/history")) == 1


# Work looks up


def test_the_shorter_time_counts_and_ends_with_its_block() -> None:
    with due_in(ENDLESS_S):
        with due_in(-1), pytest.raises(TookTooLong):
            look_up()
        look_up()
    with due_in(-1):
        with due_in(ENDLESS_S), pytest.raises(TookTooLong):
            look_up()
    look_up()


def test_the_time_of_one_thread_is_not_that_of_another() -> None:
    heard: list[bool] = []

    def elsewhere() -> None:
        look_up()
        heard.append(True)

    with due_in(-1):
        thread = threading.Thread(target=elsewhere)
        thread.start()
        thread.join()
    assert heard == [True]


@pytest.mark.parametrize(
    "work",
    [
        lambda: convert(np.zeros((2, 3)), "srgb", "oklab"),
        lambda: suggest_names([]) or candidates("lamp #ffcc66"),
        lambda: unwatched("measure", 0.5),
    ],
)
def test_work_is_broken_off_by_itself(work: Any) -> None:
    work()
    with due_in(-1), pytest.raises(TookTooLong):
        work()


def test_a_handler_of_ordinary_errors_does_not_hear_it() -> None:
    assert issubclass(TookTooLong, BaseException)
    assert not issubclass(TookTooLong, Exception)


# Handing over


class Master:
    num_workers = 3


def test_one_that_left_is_taken_off_the_number_and_no_other(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("HUVREN_HANDOVER", str(tmp_path))
    handover.has_come()
    (tmp_path / "leaving").mkdir()
    (tmp_path / "leaving" / str(os.getpid())).touch()
    master = Master()
    handover.has_gone(master, 1)
    assert master.num_workers == 3
    handover.has_gone(master, os.getpid())
    assert master.num_workers == 2
    handover.has_gone(master, os.getpid())
    assert master.num_workers == 2
    assert not any((tmp_path / "come").iterdir())


def test_a_new_master_knows_nothing_of_the_one_before(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("HUVREN_HANDOVER", str(tmp_path))
    handover.has_come()
    (tmp_path / "leaving").mkdir()
    (tmp_path / "leaving" / "77").touch()
    handover.begin()
    master = Master()
    handover.has_gone(master, 77)
    assert master.num_workers == 3
    assert not any((tmp_path / "come").iterdir())


def test_where_nobody_takes_over_nothing_is_done(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.delenv("HUVREN_HANDOVER", raising=False)
    master = Master()
    handover.begin()
    handover.has_come()
    handover.has_gone(master, 1)
    handover.leave()
    assert master.num_workers == 3


@pytest.fixture
def stuck_port(tmp_path: Path, transactional_db: None) -> Iterator[tuple[int, int]]:
    """A server of two processes with an address that gets stuck, and the id of its master."""
    port = free_port()
    env = {
        **os.environ, "HUVREN_DB_NAME": str(connection.settings_dict["NAME"]), "HUVREN_DEADLINE_S": "1", "HUVREN_GRACE_S": "0.2",
        "HUVREN_HANDOVER": str(tmp_path / "handover"),
    }  # fmt: skip
    command: list[str | Path] = [
        PYTHON, "-m", "gunicorn", "tests.server.stuck:application", "--config", "python:huvren.site.gunicorn_config",
        "--bind", f"127.0.0.1:{port}", "--workers", "2", "--threads", "4", "--no-control-socket",
    ]  # fmt: skip
    with served(command, env, "stuck-test") as process:
        wait_for(f"http://127.0.0.1:{port}", "stuck-test")
        until(lambda: len(descendants(process.pid)) == 2)
        yield port, process.pid


def test_a_stuck_process_is_replaced_before_it_ends(stuck_port: tuple[int, int]) -> None:
    port, master = stuck_port
    before = set(descendants(master))
    heard: list[str] = []

    def ask() -> None:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/stuck?seconds=6", timeout=120) as answer:
            heard.append(answer.read().decode())

    thread = threading.Thread(target=ask)
    thread.start()
    counts = set()

    def is_replaced() -> bool:
        now = set(descendants(master))
        counts.add(len(now))
        with urllib.request.urlopen(f"http://127.0.0.1:{port}", timeout=30) as answer:
            assert answer.status == 200
        return len(before & now) == 1 and len(now) == 2

    until(is_replaced, "the stuck process was not replaced")
    assert 3 in counts, "another one was there before it ended"
    assert min(counts) == 2, "there was never one less"
    thread.join()
    assert heard == ["in the end"], "whoever was stuck was answered all the same"
