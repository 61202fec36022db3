"""What serves, works, proxies and stores is killed in turn and together: seconds until all of it is back.

It is back when it says that it is ready, has made a palette, which is a heavy request, has told a window where that stands, and has
done a job, all asked for after the kill. Everything is a child of this process, on a database cluster of its own; nothing else on the
computer is touched.
"""

import contextlib
import io
import json
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any

from PIL import Image

from tools.postgres import Cluster, free_port
from tools.processes import descendants, named, parent_of
from tools.steps import PYTHON, ROOT, STATE

BUDGET_S = 10.0
PATIENCE_S = 120
SERVE = (
    "import os, signal, sys; sys.path.insert(0, '.')\n"
    "signal.signal(signal.SIGTERM, signal.default_int_handler)\n"
    "from tools.serving import web\n"
    "with web(dict(os.environ), int(sys.argv[1]), workers=2, threads=4, log='kills'): signal.pause()\n"
)
SERVING = {
    "what answers light requests": "app.sock",
    "what answers heavy ones": "heavy.sock",
    "nginx, one of its workers": "nginx: worker",
    "nginx": "nginx: master",
    "what tells windows of changes": "huvren.site.streams",
}
"""What is killed of `serve`, by a piece of its command."""


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
        """Status and what was said; (0, None) where nobody answers."""
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

    def tells(self, palette: str) -> bool:
        """Whether a window that shows this palette is told where it stands."""
        try:
            with self.opener.open(f"http://127.0.0.1:{self.port}/api/changes?palette={palette}", timeout=5) as stream:
                return stream.status == 200 and bool(stream.readline())
        except OSError:
            return False

    def sent(self, picture: bytes) -> str:
        """Bring a PNG file in; its id."""
        edge = "----edge"
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="a.png"\r\nContent-Type: image/png\r\n\r\n'
        body = head.encode() + picture + f"\r\n--{edge}--\r\n".encode()
        status, answer = self.asked("/pictures", body, f"multipart/form-data; boundary={edge}")
        if status != 201:
            raise RuntimeError(f"The picture was not taken: {answer!r}")
        return str(answer["id"])

    @property
    def cookies(self) -> list[str]:
        (processor,) = (one for one in self.opener.handlers if isinstance(one, urllib.request.HTTPCookieProcessor))
        return [cookie.value or "" for cookie in processor.cookiejar if cookie.name == "csrftoken"]

    def is_ready(self) -> bool:
        """Pages, the database and whoever takes jobs. What was started is known from then on."""
        status, said = self.asked("/ready")
        if status != 200 or said["queue"] != "ok":
            return False
        with contextlib.suppress(OSError):
            self.sessions |= set(json.loads((STATE / "serving" / f"{self.port}.json").read_text())["sessions"])
        return True

    def of(self, words: str) -> list[int]:
        """Processes of `serve`."""
        return named(words, self.serving.pid)

    def database(self) -> list[int]:
        """Held, so that it has no more of them by the time they are killed."""
        master = int((self.cluster.data / "postmaster.pid").read_text().splitlines()[0])
        os.kill(master, signal.SIGSTOP)
        return [master, *descendants(master)]


def come_true(condition: Callable[[], object], hung: str) -> None:
    """Wait for it; raises `RuntimeError` where it takes for ever."""
    limit = time.monotonic() + PATIENCE_S
    while not condition():
        if time.monotonic() > limit:
            raise RuntimeError(hung)
        time.sleep(0.02)


def kill(processes: Sequence[int]) -> None:
    """At once and without a word, until they are gone. Raises `ValueError` where there are none."""
    if not processes:
        raise ValueError("Nothing to kill was found.")
    for process in processes:
        with contextlib.suppress(ProcessLookupError):
            os.kill(process, signal.SIGKILL)
    # Also as a process that is over and that nobody has taken notice of: PostgreSQL believes that one to be there.
    mine = {process for process in processes if parent_of(process) == os.getpid()}
    come_true(lambda: not any(Path(f"/proc/{process}").exists() for process in set(processes) - mine), "It cannot be killed.")


@contextlib.contextmanager
def started(name: str) -> Iterator[Studio]:
    """A studio with a demo artist that is signed in, all of it ready; ended and removed afterwards."""
    cluster = Cluster(name, durable=True)
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
        come_true(lambda: studio.asked("/health")[0] == 200, "It does not start.")
        studio.opener.open(f"http://127.0.0.1:{studio.port}/", timeout=PATIENCE_S).close()
        come_true(studio.is_ready, "It does not become ready.")
        try:
            yield studio
        finally:
            for process in (studio.serving, studio.working):
                process.terminate()
                process.wait(timeout=PATIENCE_S)
    cluster.remove()


def measure(report: Callable[..., None]) -> None:
    """Seconds from each kill until what was killed, and all that needs it, is back."""
    buffer = io.BytesIO()
    Image.linear_gradient("L").convert("RGB").save(buffer, "PNG")
    with started("bench-kills") as studio:
        picture = studio.sent(buffer.getvalue())

        def back_after_s(strike: Callable[[], None]) -> float:
            strike()
            begun = time.monotonic()
            come_true(studio.is_ready, "It does not come back.")

            def answered(path: str, body: object, wanted: int) -> str:
                """The id of what was made, once it is."""
                asked = list[Any]()

                def is_made() -> bool:
                    status, made = studio.asked(path, json.dumps(body).encode())
                    asked.append(made)
                    return status == wanted

                come_true(is_made, f"{path} is not answered.")
                return str(asked[-1]["id"])

            palette = answered("/palettes", {"text": "#102030 #c04030"}, 201)
            come_true(lambda: studio.tells(palette), "Nobody tells windows of changes.")
            job = answered("/jobs/batches", {"pictures": [picture], "recipe": {"colors": 6}}, 202)

            def is_done() -> bool:
                status, jobs = studio.asked("/jobs")
                return status == 200 and any(each["id"] == job and each["state"] == "done" for each in jobs)

            come_true(is_done, "The job is not done.")
            return time.monotonic() - begun

        def of_serving(words: str) -> Callable[[], None]:
            return lambda: kill(studio.of(words)[:1])

        def worker() -> None:
            kill([studio.working.pid])
            studio.working.wait()
            studio.work()

        def database() -> None:
            kill(studio.database())
            studio.cluster.start_again()

        def everything() -> None:
            for process in studio.of("nginx: master"):
                os.kill(process, signal.SIGSTOP)
            kill([studio.serving.pid, *studio.of("nginx: master"), studio.working.pid, *studio.database()])
            studio.serving.wait()
            studio.working.wait()
            studio.cluster.start_again()
            studio.serve()
            studio.work()

        strikes = {what: of_serving(words) for what, words in SERVING.items()}
        strikes |= {"who does jobs, started anew": worker, "the database, started anew": database, "all of it at once": everything}
        for what, strike in strikes.items():
            taken_s = back_after_s(strike)
            report(f"killed: {what}", f"all of it at work again after {taken_s:.1f} s", taken_s, BUDGET_S)
