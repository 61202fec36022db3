"""What serves, works, proxies and stores is killed, in turn and together: all of it comes back, and nothing acknowledged is lost.

Everything is a child of this test, on a database cluster of its own; nothing else on the computer is touched.
"""

import contextlib
import json
import os
import signal
import subprocess
import sys
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from tests.pictures import painted, png
from tests.waiting import PATIENCE_S, ended, until
from tools.postgres import Cluster, free_port
from tools.processes import command_of, descendants, named, of_session, parent_of
from tools.steps import PYTHON, ROOT, STATE

SERVE = (
    "import os, signal, sys; sys.path.insert(0, '.')\n"
    "signal.signal(signal.SIGTERM, signal.default_int_handler)\n"
    "from tools.serving import web\n"
    "with web(dict(os.environ), int(sys.argv[1]), workers=2, threads=4, log='kills-test'): signal.pause()\n"
)


class Studio:
    """A service manager in small: `serve`, `work` and PostgreSQL, each started again by hand."""

    def __init__(self, cluster: Cluster) -> None:
        self.cluster = cluster
        self.port = free_port()
        self.env = {**os.environ, **cluster.environment(), "HUVREN_DEMO": "1", "HUVREN_HOSTS": "127.0.0.1"}
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
        self.sessions: set[int] = set()

    def serve(self) -> None:
        words = [sys.executable, "-c", SERVE, str(self.port)]
        self.serving = subprocess.Popen(words, cwd=ROOT, env=self.env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)

    def work(self) -> None:
        words = [str(PYTHON), str(ROOT / "manage.py"), "work"]
        self.working = subprocess.Popen(words, cwd=ROOT, env=self.env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)

    def asked(self, path: str, body: bytes | None = None, media: str = "application/json") -> tuple[int, Any]:
        request = urllib.request.Request(f"http://127.0.0.1:{self.port}/api{path}", body, {"Content-Type": media})
        for cookie in self.cookies:
            request.add_header("X-CSRFToken", cookie)
        try:
            with self.opener.open(request, timeout=30) as answer:
                return answer.status, json.loads(answer.read() or b"null")
        except urllib.error.HTTPError as error:
            return error.code, error.read()
        except OSError:
            return 0, None

    @property
    def cookies(self) -> list[str]:
        (processor,) = (one for one in self.opener.handlers if isinstance(one, urllib.request.HTTPCookieProcessor))
        return [cookie.value or "" for cookie in processor.cookiejar if cookie.name == "csrftoken"]

    def comes_back(self) -> None:
        """Pages, the database and whoever takes jobs."""

        def is_ready() -> bool:
            status, said = self.asked("/ready")
            return status == 200 and said["queue"] == "ok"

        until(is_ready, "it did not come back, or nobody takes jobs")
        with contextlib.suppress(OSError):
            self.sessions |= set(json.loads((STATE / "serving" / f"{self.port}.json").read_text())["sessions"])

    def of(self, words: str) -> list[int]:
        return named(words, self.serving.pid)

    def database(self) -> list[int]:
        """Held, so that it has no more of them by the time they are killed."""
        master = int((self.cluster.data / "postmaster.pid").read_text().splitlines()[0])
        os.kill(master, signal.SIGSTOP)
        return [master, *descendants(master)]


def kill(processes: list[int]) -> None:
    assert processes
    for process in processes:
        with contextlib.suppress(ProcessLookupError):
            os.kill(process, signal.SIGKILL)
    # Also as a process that is over and that nobody has taken notice of: PostgreSQL believes that one to be there.
    mine = {process for process in processes if parent_of(process) == os.getpid()}
    until(lambda: not any(Path(f"/proc/{process}").exists() for process in set(processes) - mine))


@pytest.fixture(scope="module")
def studio() -> Iterator[Studio]:
    cluster = Cluster("kills-database", durable=True)
    cluster.remove()
    with cluster.running():
        cluster.create_database()
        studio = Studio(cluster)
        account = "from django.contrib.auth import get_user_model; get_user_model().objects.create_user('demo')"
        for words in (["migrate", "--noinput"], ["shell", "-c", account]):
            manage = [str(PYTHON), str(ROOT / "manage.py"), *words]
            subprocess.run(manage, cwd=ROOT, env=studio.env, check=True, capture_output=True)
        studio.serve()
        studio.work()
        until(lambda: studio.asked("/health")[0] == 200)
        studio.opener.open(f"http://127.0.0.1:{studio.port}/", timeout=PATIENCE_S).close()
        studio.comes_back()
        yield studio
        for process in (studio.serving, studio.working):
            process.terminate()
            ended(process)
    assert [command_of(process) for session in studio.sessions for process in of_session(session)] == []
    cluster.remove()


class Work:
    """One palette whose name says the last edit that was acknowledged, and jobs that were asked for."""

    def __init__(self, studio: Studio) -> None:
        self.studio = studio
        edge = "----edge"
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="a.png"\r\nContent-Type: image/png\r\n\r\n'
        body = head.encode() + png(painted(600, 400)) + f"\r\n--{edge}--\r\n".encode()
        status, picture = studio.asked("/pictures", body, f"multipart/form-data; boundary={edge}")
        assert status == 201, picture
        self.picture = picture["id"]
        _, self.palette = studio.asked("/palettes", b'{"text": "#102030 #405060"}')
        self.edits = 0
        self.jobs: list[str] = []

    def seen(self) -> Any:
        """The palette, once there is an answer: what was killed a moment ago may still go."""
        answers = list[Any]()

        def is_seen() -> bool:
            status, palette = self.studio.asked(f"/palettes/{self.palette['id']}")
            answers.append(palette)
            return status == 200

        until(is_seen)
        return answers[-1]

    def edit(self) -> None:
        """Rename it; an edit whose fate is unknown is looked for, and made again where it is not there."""
        self.edits += 1
        wanted = f"Edit {self.edits}"
        while self.palette["name"] != wanted:
            body = {"base": self.palette["revision"], "operation": {"kind": "rename_palette", "name": wanted}}
            status, said = self.studio.asked(f"/palettes/{self.palette['id']}/operations", json.dumps(body).encode())
            assert status in (200, 503, 0), said
            self.palette = said if status == 200 else self.seen()

    def ask(self) -> None:
        body = json.dumps({"pictures": [self.picture], "recipe": {"colors": 6}}).encode()

        def is_asked() -> bool:
            status, job = self.studio.asked("/jobs/batches", body)
            assert status in (202, 503, 0), job
            self.jobs += [job["id"]] if status == 202 else []
            return status == 202

        until(is_asked)

    def is_whole(self) -> None:
        """All that was acknowledged is there, and all that was asked for gets done."""
        assert self.seen() == self.palette
        assert self.palette["name"] == f"Edit {self.edits}"

        def states() -> set[str]:
            status, jobs = self.studio.asked("/jobs")
            return {job["state"] for job in jobs if job["id"] in self.jobs} if status == 200 else set()

        until(lambda: states() == {"done"}, "a job was lost")


def test_each_is_killed_in_turn_and_all_of_them_together(studio: Studio) -> None:
    work = Work(studio)
    for words in ("app.sock", "heavy.sock", "nginx: worker", "nginx: master", "huvren.site.streams"):
        work.edit()
        work.ask()
        kill(studio.of(words)[:1])
        studio.comes_back()
        work.is_whole()
    # The one that does jobs, while there are some.
    work.ask()
    kill([studio.working.pid])
    ended(studio.working)
    work.ask()
    studio.work()
    work.is_whole()
    # The database, with all its processes: the worker is not started again, it comes back by itself.
    work.edit()
    work.ask()
    kill(studio.database())
    until(lambda: studio.asked("/ready")[0] == 503)
    studio.cluster.start_again()
    studio.comes_back()
    work.is_whole()
    assert studio.working.poll() is None
    # Everything at once; what it started is left without anybody, and holds the port.
    work.edit()
    work.ask()
    workers = studio.of("nginx: worker")
    # It would be told that its parent is gone, and see to its own.
    for process in studio.of("nginx: master"):
        os.kill(process, signal.SIGSTOP)
    kill([studio.serving.pid, *studio.of("nginx: master"), studio.working.pid, *studio.database()])
    ended(studio.serving)
    ended(studio.working)
    assert all(command_of(process) for process in workers), "they hold the port"
    studio.cluster.start_again()
    studio.serve()
    studio.work()
    studio.comes_back()
    work.is_whole()
    assert not [process for process in workers if command_of(process)]
