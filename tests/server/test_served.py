"""The application as `./run serve` serves it: behind its proxy, with slow visitors, large bodies, and processes that are killed."""

import contextlib
import json
import os
import re
import select
import signal
import socket
import subprocess
import sys
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from django.db import connection
from django.test import Client

from bench.adversary import SLOW_CONNECTIONS
from tests.pictures import painted, png
from tests.waiting import ended, until
from tools.postgres import free_port
from tools.proxy import Places, configuration
from tools.serving import wait_for, web
from tools.steps import ROOT

THREADS = 8


@pytest.fixture
def port(transactional_db: None) -> Iterator[int]:
    """Served on the tests' database with one process, so that one that is held would hold everybody."""
    number = free_port()
    env = {**os.environ, "HUVREN_DB_NAME": str(connection.settings_dict["NAME"]), "HUVREN_TRUSTED_PROXIES": "127.0.0.1"}
    with web(env, number, workers=1, threads=THREADS, log="served-test") as proxy:
        wait_for(f"http://127.0.0.1:{number}/api/health", proxy, "served-test")
        yield number


def signed_in(name: str = "ada") -> str:
    artists = get_user_model()
    cookies = Client()
    cookies.force_login(artists.objects.filter(username=name).first() or artists.objects.create_user(name))
    return f"sessionid={cookies.cookies['sessionid'].value}; csrftoken={'a' * 32}"


def asked(port: int, path: str, body: bytes | None = None, cookie: str = "", **headers: str) -> tuple[int, dict[str, str], Any]:
    sent = {"Cookie": cookie, "X-CSRFToken": "a" * 32, "Content-Type": "application/json", **headers}
    request = urllib.request.Request(f"http://127.0.0.1:{port}{path}", body, sent)
    try:
        with urllib.request.urlopen(request, timeout=30) as answer:
            data, status, said = answer.read(), answer.status, dict(answer.headers)
    except urllib.error.HTTPError as error:
        data, status, said = error.read(), error.code, dict(error.headers)
    return status, said, json.loads(data) if "json" in said.get("Content-Type", "") else data


def form(data: bytes) -> tuple[bytes, str]:
    edge = "----edge"
    head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="a.png"\r\nContent-Type: image/png\r\n\r\n'
    return head.encode() + data + f"\r\n--{edge}--\r\n".encode(), f"multipart/form-data; boundary={edge}"


def test_slow_visitors_keep_nobody_waiting(port: int) -> None:
    """More of them than there are threads stand with half a body; others are answered while every one of them still stands."""
    cookie = signed_in()
    slow = []
    try:
        for number in range(SLOW_CONNECTIONS):
            visitor = socket.create_connection(("127.0.0.1", port))
            length = 5000 if number % 2 else 50_000_000
            path = "/api/palettes" if number % 4 else "/api/pictures"
            head = f"POST {path} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nCookie: {cookie}\r\nContent-Length: {length}\r\n\r\n"
            visitor.sendall(head.encode() + b'{"name":"')
            slow.append(visitor)
        for _ in range(40):
            assert asked(port, "/api/shelf", cookie=cookie)[0] == 200
        standing, _, _ = select.select(slow, [], [], 0)
        assert len(slow) - len(standing) > THREADS, "those that were answered or cut off keep nobody"
    finally:
        for visitor in slow:
            visitor.close()


@pytest.mark.parametrize(
    ("path", "megabytes", "cookie", "status", "code"),
    [
        ("/api/pictures", 60, False, 401, "signed_out"), ("/api/palettes", 20, False, 401, "signed_out"),
        ("/api/recipes", 0.05, False, 401, "signed_out"), ("/api/pictures", 200, True, 413, "too_large"),
        ("/api/palettes/x/operations", 200, True, 413, "too_large"), ("/sign-in", 1, False, 413, "too_large"),
    ],
)  # fmt: skip
def test_large_bodies_are_refused_before_they_are_taken(
    port: int, path: str, megabytes: float, cookie: bool, status: int, code: str
) -> None:
    """Only the head is sent, and the answer is there: nobody waited for the body."""
    length = int(megabytes * 1048576)
    head = f"POST {path} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nX-CSRFToken: {'a' * 32}\r\nContent-Length: {length}\r\n"
    head += f"Content-Type: application/json\r\nCookie: {signed_in() if cookie else ''}\r\n\r\n"
    with socket.create_connection(("127.0.0.1", port), timeout=10) as visitor:
        # A small one is taken whole and refused by the application.
        visitor.sendall(head.encode() + (b" " * length if length < 100_000 else b""))
        answer = visitor.recv(65536).decode()
        while "\r\n\r\n" not in answer or "}" not in answer:
            more = visitor.recv(65536).decode()
            assert more, answer
            answer += more
    assert answer.startswith(f"HTTP/1.1 {status} ")
    assert f'"code": "{code}"' in answer
    assert "application/problem+json" in answer


def test_a_body_in_pieces_is_counted_while_it_comes(port: int) -> None:
    head = f"POST /api/recipes HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nCookie: {signed_in()}\r\nTransfer-Encoding: chunked\r\n\r\n"
    with socket.create_connection(("127.0.0.1", port), timeout=20) as visitor:
        visitor.sendall(head.encode())
        sent, piece = 0, b"100000\r\n" + b" " * 0x100000 + b"\r\n"
        try:
            while sent < 60:
                visitor.sendall(piece)
                sent += 1
        except OSError:
            pass
        answer = b""
        try:
            answer = visitor.recv(4096)
        except OSError:
            assert sent < 60, "it was cut off"
    assert b" 413 " in answer or sent < 60


def test_pictures_and_edits_go_through_as_ever(port: int) -> None:
    cookie = signed_in()
    body, kind = form(png(painted()))
    status, headers, picture = asked(port, "/api/pictures", body, cookie, **{"Content-Type": kind})
    assert status == 201, picture
    assert headers["X-Request-Id"].isalnum()
    status, _, palette = asked(
        port, "/api/palettes", json.dumps({"picture": picture["id"], "recipe": {"colors": 8}}).encode(), cookie
    )
    assert status == 201
    large = [{"color": {"space": "srgb", "coords": [n % 7 / 7, 0.5, 0.25]}, "name": f"Swatch {n}"} for n in range(3000)]
    document = json.dumps({"document": {"name": "Large", "swatches": large}}).encode()
    assert len(document) > 200_000
    status, _, many = asked(port, "/api/palettes", document, cookie)
    assert (status, len(many["swatches"])) == (201, 3000)
    path = f"/api/palettes/{palette['id']}/files/indexed-png?picture={picture['id']}"
    assert asked(port, path, cookie=cookie)[2][:4] == b"\x89PNG"
    assert asked(port, "/static/licenses.txt")[1]["X-Content-Type-Options"] == "nosniff"


def test_a_trusted_proxy_says_who_asks_and_how(port: int) -> None:
    """The fixture trusts 127.0.0.1, so its word counts; the address it names is that of the visitor whom waits are for."""
    wrong = b"username=cy&password=no&csrfmiddlewaretoken=" + b"a" * 32
    kind = {"Content-Type": "application/x-www-form-urlencoded"}
    for _ in range(6):
        page = asked(port, "/sign-in", wrong, f"csrftoken={'a' * 32}", **kind, **{"X-Forwarded-For": "198.51.100.7"})[2]
    assert b"Too many wrong passwords" in page
    other = asked(port, "/sign-in", wrong, f"csrftoken={'a' * 32}", **kind, **{"X-Forwarded-For": "198.51.100.8"})[2]
    assert b"do not belong together" in other


def workers_of(port: int) -> list[int]:
    listed = subprocess.run(["pgrep", "-f", "gunicorn huvren.site.wsgi"], capture_output=True, text=True).stdout.split()
    mine = []
    for word in listed:
        with contextlib.suppress(OSError):
            if str(connection.settings_dict["NAME"]).encode() in Path(f"/proc/{word}/environ").read_bytes():
                mine.append(int(word))
    return mine


def test_what_was_acknowledged_stays_when_every_process_is_killed(port: int) -> None:
    cookie = signed_in()
    _, _, palette = asked(port, "/api/palettes", b'{"text":"#102030"}', cookie)
    for process in workers_of(port):
        os.kill(process, signal.SIGKILL)
    status, headers, said = asked(port, "/api/shelf", cookie=cookie)
    assert (status, said["code"], headers["Retry-After"]) == (503, "away", "2")
    until(lambda: asked(port, "/api/health")[0] == 200, "it was not started again")
    assert asked(port, f"/api/palettes/{palette['id']}", cookie=cookie)[2] == palette


def test_a_late_request_is_answered_and_its_process_goes_on(transactional_db: None) -> None:
    """A list takes longer than the deadline of this server, which is set very short."""
    number = free_port()
    env = {**os.environ, "HUVREN_DB_NAME": str(connection.settings_dict["NAME"]), "HUVREN_DEADLINE_S": "1"}
    with web(env, number, workers=1, threads=4, log="served-test") as proxy:
        wait_for(f"http://127.0.0.1:{number}/api/health", proxy, "served-test")
        cookie, before = signed_in(), set(workers_of(number))
        body, kind = form("\n".join(f"{n:06x}" for n in range(100_000)).encode())
        status, _, said = asked(number, "/api/imports", body, cookie, **{"Content-Type": kind})
        assert (status, said["code"]) == (503, "took_too_long"), said
        assert "longer than 1 seconds" in said["message"]
        assert set(workers_of(number)) == before
        assert asked(number, "/api/shelf", cookie=cookie)[0] == 200


def test_a_database_that_is_away_is_said_on_every_route_and_at_every_size() -> None:
    number = free_port()
    env = {**os.environ, "HUVREN_DB_PORT": str(free_port()), "HUVREN_DB_HOST": "127.0.0.1"}
    cookie = f"sessionid={'a' * 32}; csrftoken={'a' * 32}"
    body, kind = form(b"0" * 300_000)
    palette = "/palettes/11111111-1111-4111-8111-111111111111"
    routes: list[tuple[str, bytes | None, dict[str, str]]] = [
        ("/api/shelf", None, {}), ("/api/palettes", b'{"text":"#102030"}', {}),
        ("/api/palettes", json.dumps({"text": "#102030 " * 40_000}).encode(), {}), (f"/api{palette}/previews", b"{}", {}),
        *((f"/api/{name}", body, {"Content-Type": kind}) for name in ("pictures", "imports", "library/archive")),
        ("/api/changes?since=0", None, {}), ("/", None, {}), (palette, None, {}), ("/sign-in", None, {}),
    ]  # fmt: skip
    with web(env, number, workers=1, threads=4, log="served-test") as proxy:
        wait_for(f"http://127.0.0.1:{number}/api/health", proxy, "served-test")
        for path, sent, headers in routes:
            status, answered, said = asked(number, path, sent, cookie, **headers)
            assert (status, answered["Retry-After"]) == (503, "2"), (path, status, said)
            assert b"try again in a moment" in (said if isinstance(said, bytes) else json.dumps(said).encode()), path
            if path.startswith("/api/"):
                assert said["code"] in ("away", "database_away"), path


def test_serving_ends_with_all_that_it_started(tmp_path: Any) -> None:
    number = free_port()
    script = (
        "import os, signal, sys, time; sys.path.insert(0, '.')\n"
        "signal.signal(signal.SIGTERM, signal.default_int_handler)\n"
        "from tools.serving import web\n"
        f"with web(dict(os.environ), {number}, workers=1, log='served-test'):\n"
        "    print('up', flush=True)\n    time.sleep(60)\n"
    )
    with subprocess.Popen([sys.executable, "-c", script], cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL) as process:
        assert process.stdout is not None
        process.stdout.readline()
        process.send_signal(signal.SIGTERM)
        ended(process)
    with pytest.raises(OSError, match="refused"):
        socket.create_connection(("127.0.0.1", number), timeout=2)


def test_the_configuration_names_trusted_proxies_and_no_other(tmp_path: Any) -> None:
    place = Places(tmp_path)
    plain = configuration(place, "127.0.0.1", 8000)
    assert "set_real_ip_from" not in plain
    # A location with headers of its own inherits none of the server's.
    of_its_own = [block for block in re.findall(r"location [^{]*\{([^}]*)\}", plain) if "proxy_set_header" in block]
    assert len(of_its_own) == 3
    for block in [plain.partition("location /")[0], *of_its_own]:
        assert block.count("X-Huvren-Client $remote_addr;") == 1, "its own word, not the visitor's"
    trusting = configuration(place, "::1", 8000, ("10.0.0.0/8", "192.0.2.1"))
    assert "set_real_ip_from 10.0.0.0/8; set_real_ip_from 192.0.2.1;" in trusting
    assert "listen [::1]:8000" in trusting
