"""Servers and workers for the time of a block."""

import contextlib
import ctypes
import json
import os
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import IO

from tools.needs import SERVING
from tools.postgres import Cluster, cluster_folder, free_port
from tools.processes import Sessions, end_session
from tools.proxy import Places, as_json, command, configuration, places
from tools.setup import environment, manage, preparing, set_up
from tools.steps import LOGS, PYTHON, ROOT, STATE, StepFailed, step

PR_SET_PDEATHSIG = 1
__all__ = ["Cluster", "check_page", "demo_server", "free_port", "served", "wait_for", "web", "working"]


def _end_with_parent() -> None:
    """In a child before it begins: it is told to end when the thread that started it ends in whatever way."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)


Reword = Callable[[str], str]


def _start(
    command: list[str | Path], env: dict[str, str], log: str, stack: contextlib.ExitStack, reword: Reword | None = None
) -> subprocess.Popen[bytes]:
    """A process in a session of its own, with a log; `-` is this process's own output. reword : for each line that it says."""
    LOGS.mkdir(parents=True, exist_ok=True)
    output = None if log.startswith("-") else stack.enter_context((LOGS / f"{log}.log").open("ab"))
    process = subprocess.Popen(
        [str(word) for word in command], cwd=ROOT, env=env, stdout=output, stderr=subprocess.PIPE if reword else output,
        start_new_session=True, preexec_fn=_end_with_parent if sys.platform == "linux" else None,
    )  # fmt: skip
    if reword:
        threading.Thread(target=_pass_on, args=(process, output or sys.stdout.buffer, reword), daemon=True).start()
    return process


def _pass_on(process: subprocess.Popen[bytes], output: IO[bytes], reword: Reword) -> None:
    assert process.stderr is not None
    with process.stderr as lines:
        for line in lines:
            # Where the log is closed already, the process has ended.
            with contextlib.suppress(ValueError):
                output.write(f"{reword(line.decode(errors='replace').rstrip())}\n".encode())
                output.flush()


@contextlib.contextmanager
def served(command: list[str | Path], env: dict[str, str], log: str) -> Iterator[subprocess.Popen[bytes]]:
    """A server process for the time of a block."""
    with contextlib.ExitStack() as stack:
        process = _start(command, env, log, stack)
        try:
            yield process
        finally:
            process.terminate()
            try:
                process.wait(timeout=15)
            except subprocess.TimeoutExpired:
                process.kill()
            # What it had started ends with it, also where it was killed and could not see to that.
            end_session(process.pid)


@contextlib.contextmanager
def kept_going(
    command: list[str | Path],
    env: dict[str, str],
    log: str,
    grace_s: float,
    started: Callable[[int], None] = lambda session: None,
    reword: Reword | None = None,
) -> Iterator[None]:
    """A process for the time of a block, started again should it end. started : hears of each session that it begins; reword : see
    `_start`."""
    ending = threading.Event()
    running: list[subprocess.Popen[bytes]] = []

    def keep_going() -> None:
        while not ending.is_set():
            with contextlib.ExitStack() as stack:
                process = _start(command, env, log, stack, reword)
                running[:] = [process]
                if ending.is_set():
                    # It was begun while this ended, and nobody else knows of it yet.
                    process.terminate()
                started(process.pid)
                process.wait()
                end_session(process.pid)
            ending.wait(1.0)

    keeper = threading.Thread(target=keep_going, daemon=True)
    keeper.start()
    try:
        yield
    finally:
        ending.set()
        for process in running:
            process.terminate()
            try:
                process.wait(timeout=grace_s)
            except subprocess.TimeoutExpired:
                process.kill()
        keeper.join(timeout=grace_s + 10)


YIELDING: list[str | Path] = ["nice", "-n", "10"]
"""Before the words of what goes on at length: whoever answers at once has the processors first."""


def working(env: dict[str, str], log: str = "worker") -> contextlib.AbstractContextManager[None]:
    """A worker process that does the jobs of the queue, started again should it end."""
    return kept_going([*YIELDING, PYTHON, ROOT / "manage.py", "work"], env, log, grace_s=5)


THREADS, HEAVY_THREADS = 10, 12
"""Of each process for light requests, and of each for heavy ones; of these few work at once, the others wait for a turn."""
OF_STREAMS, OF_WORKER = 5, 5


def connections(workers: int) -> int:
    """How many connections to the database one `serve` may open, with a worker for jobs beside it: one for each thread, one for what
    processes share and one for readiness, those of one process of each kind more while another takes its place, and those of the
    streams."""
    return (workers + 1) * (THREADS + 2 + HEAVY_THREADS + 2) + OF_STREAMS + OF_WORKER


def application(socket: Path, workers: int, threads: int) -> list[str | Path]:
    """The application's server. It is loaded once, and each process is a copy of what was loaded: one that comes for another loads
    nothing. Processes begin anew now and then, so that nothing that grows goes on growing."""
    recycled = ["--max-requests", "4000", "--max-requests-jitter", "1000"] if workers > 1 else []
    return [
        PYTHON, "-m", "gunicorn", "huvren.site.wsgi:application", "--config", "python:huvren.site.gunicorn_config",
        "--bind", f"unix:{socket}", "--workers", str(workers), "--threads", str(threads), "--timeout", "90", "--preload",
        "--graceful-timeout", "30", "--no-control-socket", "--worker-tmp-dir", "/tmp", "--limit-request-line", "8190",
        *recycled,
    ]  # fmt: skip


def streaming(place: Places) -> list[str | Path]:
    """The process that holds the streams of changes: a window that waits takes no thread from who asks."""
    return [
        PYTHON, "-m", "uvicorn", "huvren.site.streams:application", "--uds", place.streams, "--http", "h11", "--ws", "none",
        "--no-access-log", "--log-level", "warning", "--timeout-graceful-shutdown", "2",
    ]  # fmt: skip


HEAVY = "heavy"
"""Who is there to take heavy requests stands in a folder of this name."""


def behind_proxy(env: dict[str, str], place: Places, workers: int, handover: str = "handover") -> dict[str, str]:
    """The environment of an application behind our proxy. Few arenas: memory that is freed goes back to the system."""
    more = {
        "HUVREN_OWN_PROXY": "1",
        "HUVREN_HANDOVER": str(place.folder / handover),
        "HUVREN_HEAVY": str(place.folder / HEAVY),
        "HUVREN_PROCESSES": str(workers),
        "MALLOC_ARENA_MAX": "2",
        "MALLOC_TRIM_THRESHOLD_": "1048576",
    }
    # A process for each core, and threads that sleep while they wait: what computes does not stand in its own way.
    cores = env.get("NUMBA_NUM_THREADS") or str(max(1, (os.cpu_count() or 1) // workers))
    more |= {"NUMBA_NUM_THREADS": cores, "OMP_WAIT_POLICY": "passive"}
    if env.get("HUVREN_METRICS") == "1":
        figures = place.folder / "figures"
        figures.mkdir(exist_ok=True)
        more["PROMETHEUS_MULTIPROC_DIR"] = str(figures)
    return {**env, **more}


def _check_free(host: str, port: int) -> None:
    """Said at once: nginx would try again and again. Raises `StepFailed`."""
    with socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            said = f"Huvren cannot listen at {host}:{port}: {error.strerror}. Choose another with --port or --host."
            raise StepFailed(said) from error


@contextlib.contextmanager
def web(
    env: dict[str, str], port: int, *, workers: int, threads: int | None = None, host: str = "127.0.0.1", log: str = "server"
) -> Iterator[None]:
    """The application behind its proxy for the time of a block; whatever of it ends is started again.

    What an earlier one that was killed has left at this port is ended first. Raises `StepFailed` where somebody else listens there.
    """
    sessions = Sessions(STATE / "serving" / f"{port}.json")
    if left := sessions.end_left():
        print(f"  {len(left)} processes that an earlier start had left at port {port} were ended.", flush=True)
    _check_free(host, port)
    trusted = tuple(filter(None, (word.strip() for word in env.get("HUVREN_TRUSTED_PROXIES", "").split(","))))
    with places() as place:
        place.configuration.write_text(configuration(place, host, port, trusted, is_https=env.get("HUVREN_HTTPS") == "1"))
        checked = subprocess.run([*map(str, command(place)), "-t"], capture_output=True, text=True)
        if checked.returncode != 0:
            raise StepFailed(f"The proxy refuses its configuration: {checked.stderr.strip()[-500:]}")
        light = application(place.socket, workers, threads or THREADS)
        heavy = [*YIELDING, *application(place.heavy, workers, threads or HEAVY_THREADS)]
        with (
            kept_going(light, behind_proxy(env, place, workers), log, grace_s=35, started=sessions.add),
            kept_going(heavy, behind_proxy(env, place, workers, HEAVY), f"{log}-heavy", grace_s=35, started=sessions.add),
            kept_going(streaming(place), env, f"{log}-streams", grace_s=5, started=sessions.add),
            kept_going(command(place), env, f"{log}-proxy", grace_s=15, started=sessions.add, reword=as_json),
        ):
            yield


def _said_at(url: str) -> dict[str, str]:
    """What stands there as JSON, also where it is no good news; nothing where nobody answers."""
    with contextlib.suppress(OSError, ValueError):
        try:
            with urllib.request.urlopen(url, timeout=5) as answer:
                return dict(json.load(answer))
        except urllib.error.HTTPError as error:
            return dict(json.loads(error.read()))
    return {}


def wait_for(url: str, log: str, seconds: float = 60) -> None:
    """Until a server answers there, and what is heavy too. Raises `StepFailed` where it never does, with the end of the log."""
    limit = time.monotonic() + seconds
    while time.monotonic() < limit:
        if _said_at(f"{url}/api/health").get("status") == "ok" and _said_at(f"{url}/api/ready").get("heavy") == "ok":
            return
        time.sleep(0.15)
    tail = "\n".join((LOGS / f"{log}.log").read_text(errors="replace").splitlines()[-15:])
    raise StepFailed(f"{tail}\nThe server does not answer at {url}. The end of its log is above.")


def check_page(port: int) -> None:
    """The page and the API answer, and the page's script is there."""
    base = f"http://127.0.0.1:{port}"
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
    page = opener.open(f"{base}/", timeout=10).read().decode()
    if 'id="root"' not in page:
        raise StepFailed("The page answers, but it is not the interface.")
    script = page.split('src="', 1)[1].split('"', 1)[0]
    if opener.open(base + script, timeout=10).status != 200:
        raise StepFailed(f"The page's script {script} is missing.")
    found = {kind: json.load(opener.open(f"{base}/api/shelf/{kind}", timeout=10))["all"] for kind in ("palettes", "pictures")}
    print(f"  the page answers; the shelf holds {found['palettes']} palettes and {found['pictures']} pictures")


@contextlib.contextmanager
def demo_server(port: int, fresh: bool = False, name: str = "studio") -> Iterator[int]:
    """The demo, set up from nothing and serving."""
    cluster = Cluster(name, durable=True)
    if name == "studio" and (cluster_folder("database") / "data" / "PG_VERSION").exists():
        print(
            f"  Work of a version before 0.5 lies in {cluster_folder('database')} and is left alone. Start that version once more, "
            "fetch “Archive” from its shelf, and bring that in here."
        )
    if fresh:
        with step("Throwing the old database away"):
            cluster.remove()
    with contextlib.ExitStack() as stack:

        def database() -> None:
            stack.enter_context(cluster.running())
            cluster.create_database()
            with step("Bringing the database up to date"):
                manage(cluster, "migrate", "--noinput")

        told: dict[str, str] = {}

        def shelf() -> None:
            told.update(stack.enter_context(preparing()))
            database()
            with step("Loading the demo"):
                manage(cluster, "load_demo")

        set_up(SERVING, interface=True, beside=shelf, kernels=False)
        env = {**environment(cluster, HUVREN_DEMO="1"), **told}
        with working(env), web(env, port, workers=1):
            wait_for(f"http://127.0.0.1:{port}", "server")
            yield port
