"""The application as `./run serve` serves it: behind its proxy, with slow visitors, large bodies, and processes that are killed."""

import contextlib
import gzip
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
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.core.management.base import CommandError
from django.db import connection
from django.test import Client

from bench.adversary import SLOW_CONNECTIONS
from huvren.studio.bounds import HEAVY_BYTES
from tests.pictures import painted, png
from tests.waiting import ended, until
from tools.postgres import free_port
from tools.processes import named
from tools.proxy import Places, as_json, command, configuration, places
from tools.serving import OF_STREAMS, connections, kept_going, wait_for, web
from tools.steps import LOGS, ROOT, StepFailed

THREADS = 8


@pytest.fixture(scope="module")
def serving(django_db_setup: None) -> Iterator[int]:
    """Served on the tests' database with one process, so that one that is held would hold everybody."""
    number = free_port()
    env = {**os.environ, "HUVREN_DB_NAME": str(connection.settings_dict["NAME"]), "HUVREN_TRUSTED_PROXIES": "127.0.0.1"}
    with web(env, number, workers=1, threads=THREADS, log="served-test"):
        wait_for(f"http://127.0.0.1:{number}", "served-test")
        yield number


@pytest.fixture
def port(serving: int, transactional_db: None) -> int:
    """Where it is served."""
    return serving


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


def test_what_is_heavy_goes_to_processes_of_its_own(port: int) -> None:
    """Those are held, as if somebody's work took all of them: whoever asks for little is answered all the same."""
    cookie = signed_in()
    heavy = named("heavy.sock", os.getpid())
    assert heavy
    palette = asked(port, "/api/palettes", b'{"text": "#102030 #405060"}', cookie)[2]
    upload, kind = form(png(painted(40, 30)))
    wishes: list[tuple[str, bytes | None, str]] = [
        (f"/api/palettes/{palette['id']}/previews", b'{"picture": "x"}', "application/json"),
        ("/api/pictures", upload, kind),
        ("/api/recipes", b'{"name": "' + b" " * HEAVY_BYTES + b'"}', "application/json"),
        ("/api/imports", form(b"#102030")[0], kind),
        ("/api/library/archive", None, "application/json"),
        (f"/api/palettes/{palette['id']}/merge-tree", b"{}", "application/json"),
        ("/api/palettes", b'{"picture": "11111111-1111-4111-8111-111111111111"}', "application/json"),
    ]
    with ThreadPoolExecutor(len(wishes)) as pool:
        try:
            for process in heavy:
                os.kill(process, signal.SIGSTOP)
            waiting = [pool.submit(asked, port, path, body, cookie, **{"Content-Type": kind}) for path, body, kind in wishes]
            for number in range(30):
                small = json.dumps({"base": number + 1, "operation": {"kind": "rename_palette", "name": f"Step {number}"}})
                answers = [
                    asked(port, "/api/shelf/palettes", cookie=cookie), asked(port, "/api/ready"),
                    asked(port, f"/api/palettes/{palette['id']}/operations", small.encode(), cookie),
                    asked(port, "/api/colors/parse?text=red", cookie=cookie),
                ]  # fmt: skip
                assert [status for status, _, _ in answers] == [200] * len(answers), answers[1]
            assert not [path for (path, _, _), answer in zip(wishes, waiting, strict=True) if answer.done()]
        finally:
            for process in heavy:
                os.kill(process, signal.SIGCONT)
    assert [answer.result()[0] for answer in waiting] == [422, 201, 422, 200, 200, 200, 404]


def test_they_yield_to_who_answers_at_once(port: int) -> None:
    light = set(named("app.sock", os.getpid()))
    heavy = set(named("heavy.sock", os.getpid()))
    assert light
    assert {os.getpriority(os.PRIO_PROCESS, process) for process in light} == {os.getpriority(os.PRIO_PROCESS, 0)}
    assert {os.getpriority(os.PRIO_PROCESS, process) for process in heavy} == {min(19, os.getpriority(os.PRIO_PROCESS, 0) + 10)}


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
            assert asked(port, "/api/shelf/palettes", cookie=cookie)[0] == 200
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
    status, headers, said = asked(port, "/api/shelf/palettes", cookie=cookie)
    assert (status, said["code"], headers["Retry-After"]) == (503, "away", "2")
    until(lambda: asked(port, "/api/health")[0] == 200, "it was not started again")
    assert asked(port, f"/api/palettes/{palette['id']}", cookie=cookie)[2] == palette


def test_a_late_request_is_answered_and_its_process_goes_on(transactional_db: None) -> None:
    """A list takes longer than the deadline of this server, which is set very short."""
    number = free_port()
    env = {**os.environ, "HUVREN_DB_NAME": str(connection.settings_dict["NAME"]), "HUVREN_DEADLINE_S": "1"}
    with web(env, number, workers=1, threads=4, log="served-test"):
        wait_for(f"http://127.0.0.1:{number}", "served-test")
        cookie, before = signed_in(), set(workers_of(number))
        body, kind = form("\n".join(f"{n:06x}" for n in range(100_000)).encode())
        status, _, said = asked(number, "/api/imports", body, cookie, **{"Content-Type": kind})
        assert (status, said["code"]) == (503, "took_too_long"), said
        assert "longer than 1 seconds" in said["message"]
        assert set(workers_of(number)) == before
        assert asked(number, "/api/shelf/palettes", cookie=cookie)[0] == 200


def test_a_database_that_is_away_is_said_on_every_route_and_at_every_size() -> None:
    number = free_port()
    env = {**os.environ, "HUVREN_DB_PORT": str(free_port()), "HUVREN_DB_HOST": "127.0.0.1"}
    cookie = f"sessionid={'a' * 32}; csrftoken={'a' * 32}"
    body, kind = form(b"0" * 300_000)
    palette = "/palettes/11111111-1111-4111-8111-111111111111"
    routes: list[tuple[str, bytes | None, dict[str, str]]] = [
        ("/api/shelf/palettes", None, {}), ("/api/palettes", b'{"text":"#102030"}', {}),
        ("/api/palettes", json.dumps({"text": "#102030 " * 40_000}).encode(), {}), (f"/api{palette}/previews", b"{}", {}),
        *((f"/api/{name}", body, {"Content-Type": kind}) for name in ("pictures", "imports", "library/archive")),
        ("/api/changes?since=0", None, {}), ("/", None, {}), (palette, None, {}), ("/sign-in", None, {}),
    ]  # fmt: skip
    with web(env, number, workers=1, threads=4, log="served-test"):
        wait_for(f"http://127.0.0.1:{number}", "served-test")
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


def test_a_port_that_somebody_else_listens_at_is_said_at_once() -> None:
    with socket.create_server(("127.0.0.1", 0)) as other:
        number = other.getsockname()[1]
        with pytest.raises(StepFailed, match=f"cannot listen at 127.0.0.1:{number}: Address already in use"):
            with web(dict(os.environ), number, workers=1, log="served-test"):
                pass


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


@pytest.fixture
def alone(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[int]:
    """The proxy with nothing behind it, as for a visitor who comes by TLS where that is asked for."""
    number = free_port()
    with places() as place:
        place.configuration.write_text(configuration(place, "127.0.0.1", number, is_https=request.param))
        with kept_going(command(place), dict(os.environ), "served-alone-proxy", grace_s=10, reword=as_json):
            until(lambda: answers(number))
            yield number


def answers(number: int) -> bool:
    with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", number), timeout=1):
        return True
    return False


@pytest.mark.parametrize("alone", [False, True], indirect=True, ids=["plain", "tls"])
def test_transport_is_said_with_every_answer_or_with_none(alone: int, request: pytest.FixtureRequest) -> None:
    is_tls = "tls" in request.node.name
    for path, body, status in (("/", None, 503), ("/api/palettes", b"x" * 500_000, 503), ("/sign-in", b"x" * 50_000, 413)):
        answer, headers, _ = asked(alone, path, body)
        assert answer == status
        said = [value for name, value in headers.items() if name.lower() == "strict-transport-security"]
        assert said == (["max-age=31536000"] if is_tls else [])


@pytest.mark.parametrize("alone", [False], indirect=True)
def test_what_the_proxy_says_is_json_like_the_rest(alone: int) -> None:
    log = LOGS / "served-alone-proxy.log"
    asked(alone, "/api/only-asked-here")
    until(lambda: "only-asked-here" in log.read_text())
    lines = [json.loads(line) for line in log.read_text().splitlines()]
    line = next(line for line in reversed(lines) if "only-asked-here" in line["message"])
    assert (line["logger"], line["level"]) == ("nginx", "critical")
    assert datetime.fromisoformat(line["time"]).tzinfo is not None


def test_lines_of_the_proxy_are_understood_or_kept_as_they_are(monkeypatch: pytest.MonkeyPatch) -> None:
    line = json.loads(as_json('2026/11/30 05:20:11 [warn] 12#12: *4 a "word", client: ::1'))
    assert (line["level"], line["message"]) == ("warning", '12#12: *4 a "word", client: ::1')
    assert line["time"].startswith("2026-11-30T")
    other = json.loads(as_json("something else, “quoted”"))
    assert (other["level"], other["message"]) == ("info", "something else, “quoted”")


def test_connections_beyond_those_of_the_database_are_refused_before_anything_starts(db: None) -> None:
    with connection.cursor() as cursor:
        cursor.execute("SELECT current_setting('max_connections')::int - current_setting('superuser_reserved_connections')::int")
        taken = cursor.fetchone()[0]
    call_command("check_connections", str(taken))
    with pytest.raises(CommandError, match=f"takes {taken} connections, and {taken + 1} may be opened: by many. Set HUVREN_WORKERS"):
        call_command("check_connections", str(taken + 1), "--why", "by many")
    assert connections(2) == 3 * 26 + 5 + 5


def test_no_process_opens_more_connections_than_are_counted(port: int) -> None:
    """Every thread is asked at once, again and again."""
    cookie = signed_in()
    with ThreadPoolExecutor(4 * THREADS) as pool:
        found = set(pool.map(lambda number: asked(port, "/api/shelf/palettes", cookie=cookie)[0], range(12 * THREADS)))
    assert found == {200}
    asked(port, "/api/ready")
    opened = connections_by_process()
    assert {"gunicorn", "uvicorn"} == set(opened)
    assert 1 < opened["gunicorn"] <= THREADS + 2
    assert opened["uvicorn"] <= OF_STREAMS


def connections_by_process() -> dict[str, int]:
    """The most that one process of each server holds to the tests' database; what the tests themselves hold is not counted."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT client_port FROM pg_stat_activity WHERE datname = current_database() AND client_port > 0")
        ports = {row[0] for row in cursor.fetchall()}
    lines = [line.split() for line in Path("/proc/net/tcp").read_text().splitlines()[1:]]
    sockets = {f"socket:[{words[9]}]" for words in lines if int(words[1].split(":")[1], 16) in ports}
    most: dict[str, int] = {}
    for process in Path("/proc").glob("[0-9]*"):
        with contextlib.suppress(OSError):
            words = (process / "cmdline").read_bytes().split(b"\0")
            server = next((name for name in ("gunicorn", "uvicorn") if name.encode() in words), None)
            held = sum(target(file) in sockets for file in (process / "fd").iterdir())
            if server and held:
                most[server] = max(held, most.get(server, 0))
    return most


def target(link: Path) -> str:
    """What a link names, or nothing where it has gone meanwhile."""
    try:
        return os.readlink(link)
    except FileNotFoundError:
        return ""


@pytest.mark.parametrize("said", ["0", "two", "-1", "1.5", "65", " "])
def test_a_number_of_processes_that_is_none_is_said_before_anything_is_set_up(said: str) -> None:
    env = {**os.environ, "HUVREN_WORKERS": said, "HUVREN_SECRET_KEY": "x" * 50, "HUVREN_HOSTS": "localhost"}
    env.pop("HUVREN_DEMO", None)
    words = [sys.executable, "-m", "tools.run", "serve"]
    refused = subprocess.run(words, cwd=ROOT, env=env, capture_output=True, text=True, timeout=60)
    assert refused.returncode == 1
    assert f"HUVREN_WORKERS is “{said}”" in refused.stderr
    assert "·" not in refused.stdout


def test_long_answers_are_sent_packed_to_who_takes_them_so(port: int) -> None:
    cookie = signed_in()
    text = " ".join(f"#{number:06x}" for number in range(0, 200_000, 500))
    _, _, palette = asked(port, "/api/palettes", json.dumps({"text": text}).encode(), cookie)
    address = f"/api/palettes/{palette['id']}"

    def sent(path: str, accepted: str) -> tuple[str | None, bytes]:
        wish = urllib.request.Request(f"http://127.0.0.1:{port}{path}", headers={"Cookie": cookie, "Accept-Encoding": accepted})
        with urllib.request.urlopen(wish, timeout=30) as answer:
            return answer.headers["Content-Encoding"], answer.read()

    coding, packed = sent(address, "gzip")
    plain_coding, plain = sent(address, "identity")
    assert (coding, plain_coding) == ("gzip", None)
    assert gzip.decompress(packed) == plain
    assert len(packed) < len(plain) / 3
    assert sent("/api/health", "gzip")[0] is None, "what is short is not worth it"
