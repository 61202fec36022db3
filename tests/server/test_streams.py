"""Streams of changes: who hears what, through the proxy, while processes and the database go away and come back."""

import asyncio
import http.client
import json
from collections.abc import Coroutine, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import Any

import pytest
from django.db import connection

from huvren.site import streams
from huvren.site.streams import Hub, Stream, application
from tests.pictures import painted, png
from tests.server.test_served import asked, form, port, serving, signed_in

__all__ = ["port", "serving"]
THREADS_AND_MORE = 40


def in_a_loop(work: Coroutine[Any, Any, Any]) -> Any:
    """In a thread of its own: the tests that drive a browser have a loop in this one."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, work).result()


class Heard:
    """A window that hears. `next` is the next event, skipping lines that only keep the connection alive."""

    def __init__(self, response: http.client.HTTPResponse) -> None:
        self.response = response

    def next(self) -> Any:
        while True:
            line = self.response.readline().decode()
            assert line, "the stream has ended"
            if line.startswith("data: "):
                return json.loads(line[6:])


@contextmanager
def hearing(port: int, cookie: str, query: str = "") -> Iterator[Heard]:
    connected = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
    try:
        connected.request("GET", f"/api/changes{query}", headers={"Cookie": cookie})
        response = connected.getresponse()
        assert response.status == 200, response.read()
        assert response.headers["Content-Type"] == "text/event-stream"
        yield Heard(response)
    finally:
        connected.close()


def made(port: int, cookie: str, name: str = "Plate") -> Any:
    status, _, palette = asked(port, "/api/palettes", json.dumps({"name": name}).encode(), cookie)
    assert status == 201
    return palette


def added(port: int, cookie: str, palette: Any, text: str = "#112233") -> Any:
    return posted(port, cookie, palette, "operations", operation={"kind": "add_swatches", "text": text})


def posted(port: int, cookie: str, palette: Any, what: str, **body: Any) -> Any:
    """The palette after something was done to it."""
    sent = json.dumps({"base": palette["revision"], **body}).encode()
    status, _, after = asked(port, f"/api/palettes/{palette['id']}/{what}", sent, cookie)
    assert status == 200, after
    return after


def step(palette: Any) -> dict[str, Any]:
    return {"what": "step", "palette": palette["id"], "revision": palette["revision"]}


@pytest.mark.django_db(transaction=True)
def test_windows_hear_what_changes(port: int) -> None:
    # One after the other, on one server: it takes longer to begin than all of them.
    hears_every_step_and_nothing_of_others(port)
    windows_that_wait_keep_nobody_waiting(port)
    what_could_not_be_heard_is_said_to_be_unknown(port)


def hears_every_step_and_nothing_of_others(port: int) -> None:
    cookie, others = signed_in("ada"), signed_in("ben")
    palette = made(port, cookie)
    with hearing(port, cookie, f"?palette={palette['id']}") as window, hearing(port, others) as stranger:
        assert window.next() == step(palette)
        assert stranger.next() == {"what": "begun"}
        after = added(port, cookie, palette)
        assert window.next() == step(after)
        undone = posted(port, cookie, after, "undo")
        assert window.next() == step(undone)
        data, kind = form(png(painted()))
        assert asked(port, "/api/pictures", data, cookie, **{"Content-Type": kind})[0] == 201
        assert window.next() == {"what": "shelf"}
        # In whatever way it comes about.
        with connection.cursor() as cursor:
            cursor.execute("UPDATE studio_palette SET head = 2 WHERE id = %s", (palette["id"],))
        assert window.next() == step(after)
        made(port, others, "Own")
        assert stranger.next() == {"what": "shelf"}
    # The id of another's palette tells nothing about it.
    with hearing(port, others, f"?palette={palette['id']}") as stranger, hearing(port, others, "?palette=nonsense'--") as odd:
        assert stranger.next() == {"what": "begun"}
        assert odd.next() == {"what": "begun"}
    assert asked(port, "/api/changes", cookie="")[0] == 401


def windows_that_wait_keep_nobody_waiting(port: int) -> None:
    cookie = signed_in()
    palette = made(port, cookie)
    windows = [hearing(port, cookie, f"?palette={palette['id']}") for _ in range(THREADS_AND_MORE)]
    heard = [window.__enter__() for window in windows]
    try:
        assert all(one.next() == step(palette) for one in heard)
        for _ in range(10):
            palette = added(port, cookie, palette)
        for one in heard:
            while one.next() != step(palette):
                pass
    finally:
        for window in windows:
            window.__exit__(None, None, None)


def what_could_not_be_heard_is_said_to_be_unknown(port: int) -> None:
    cookie = signed_in()
    palette = made(port, cookie)
    with hearing(port, cookie, f"?palette={palette['id']}") as window:
        assert window.next() == step(palette)
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT count(pg_terminate_backend(pid)) FROM pg_stat_activity WHERE query LIKE 'LISTEN%%'"
                " AND datname = current_database()"
            )
            assert cursor.fetchone()[0] >= 1
        assert window.next() == {"what": "anything"}
        after = added(port, cookie, palette)
        assert window.next() == step(after)


def test_a_window_that_does_not_read_holds_the_newest_of_each_and_no_more() -> None:
    async def said() -> list[list[str]]:
        stream = Stream()
        for number in range(5):
            stream.put("a", f"a{number}")
        stream.put("b", "b")
        few = await stream.next(1)
        for number in range(streams.MOST_WAITING + 5):
            stream.put(str(number), "step")
        return [few, await stream.next(1), await stream.next(0.01)]

    few, many, none = in_a_loop(said())
    assert few == ["a4", "b"]
    assert many[0] == streams.ANYTHING
    assert len(many) <= 6
    assert none == []


def asgi(hub: Hub, monkeypatch: pytest.MonkeyPatch, artist: bytes, gone_after_s: float) -> list[Any]:
    """What the application sends to a window that goes away after some time."""
    monkeypatch.setattr(streams, "HUB", hub)
    sent: list[Any] = []

    async def send(message: Any) -> None:
        sent.append(message)

    async def receive() -> Any:
        await asyncio.sleep(gone_after_s)
        return {"type": "http.disconnect"}

    in_a_loop(application({"type": "http", "headers": [(b"x-huvren-artist", artist)]}, receive, send))
    return sent


def test_a_window_that_is_gone_is_forgotten(monkeypatch: pytest.MonkeyPatch) -> None:
    hub = Hub()
    sent = asgi(hub, monkeypatch, b"7", 0.05)
    assert sent[0]["status"] == 200
    assert b"begun" in sent[1]["body"]
    assert hub.streams == {}


def test_a_stream_ends_by_itself_and_a_full_house_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(streams, "LIFE_S", 0.05)
    hub = Hub()
    sent = asgi(hub, monkeypatch, b"7", 60)
    assert sent[-1].get("more_body", False) is False
    assert hub.streams == {}
    hub.streams[7] = [object()] * streams.MOST_STREAMS_EACH  # type: ignore[list-item]
    assert asgi(hub, monkeypatch, b"7", 60)[0]["status"] == 503
    assert asgi(hub, monkeypatch, b"", 60)[0]["status"] == 503, "nobody is named"
    assert asgi(hub, monkeypatch, b"8", 60)[0]["status"] == 200
