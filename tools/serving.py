"""Servers and workers for the time of a block."""

import contextlib
import json
import subprocess
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path

from tools.needs import SERVING, ensure
from tools.postgres import Cluster, cluster_folder, free_port
from tools.setup import build, compile_kernels, environment, manage, set_up_python
from tools.steps import LOGS, PYTHON, ROOT, StepFailed, step

__all__ = ["Cluster", "check_page", "demo_server", "free_port", "gunicorn", "served", "working"]


@contextlib.contextmanager
def served(command: list[str | Path], env: dict[str, str], log: str) -> Iterator[subprocess.Popen[bytes]]:
    """A server process for the time of a block."""
    LOGS.mkdir(parents=True, exist_ok=True)
    with (LOGS / f"{log}.log").open("ab") as output:
        process = subprocess.Popen(
            [str(word) for word in command], cwd=ROOT, env=env, stdout=output, stderr=output, start_new_session=True
        )
        try:
            yield process
        finally:
            process.terminate()
            try:
                process.wait(timeout=15)
            except subprocess.TimeoutExpired:
                process.kill()


@contextlib.contextmanager
def working(env: dict[str, str], log: str = "worker") -> Iterator[None]:
    """A worker process that does the jobs of the queue, started again should it end."""
    LOGS.mkdir(parents=True, exist_ok=True)
    ending = threading.Event()
    running: list[subprocess.Popen[bytes]] = []

    def keep_going() -> None:
        while not ending.is_set():
            with (LOGS / f"{log}.log").open("ab") as output:
                command = [str(PYTHON), str(ROOT / "manage.py"), "work"]
                process = subprocess.Popen(command, cwd=ROOT, env=env, stdout=output, stderr=output, start_new_session=True)
                running[:] = [process]
                process.wait()
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
                process.wait(timeout=3)
            except subprocess.TimeoutExpired:
                process.kill()
        keeper.join(timeout=5)


def gunicorn(port: int, workers: int, threads: int, host: str = "127.0.0.1") -> list[str | Path]:
    return [
        PYTHON, "-m", "gunicorn", "huvren.site.wsgi:application", "--bind", f"{host}:{port}", "--workers", str(workers),
        "--threads", str(threads), "--timeout", "300", "--no-control-socket", "--worker-tmp-dir", "/tmp",
    ]  # fmt: skip


def wait_for(url: str, process: subprocess.Popen[bytes], log: str, seconds: float = 60) -> None:
    """Until the address answers 200."""
    limit = time.monotonic() + seconds
    while time.monotonic() < limit:
        if process.poll() is not None:
            break
        with contextlib.suppress(urllib.error.URLError, OSError):
            with urllib.request.urlopen(url, timeout=5) as answer:
                if answer.status == 200:
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
    shelf = json.load(opener.open(f"{base}/api/shelf", timeout=10))
    print(f"  the page answers; the shelf holds {len(shelf['palettes'])} palettes and {len(shelf['pictures'])} pictures")


@contextlib.contextmanager
def demo_server(port: int, fresh: bool = False, name: str = "studio") -> Iterator[int]:
    """The demo, set up from nothing and serving."""
    ensure(SERVING)
    set_up_python(development=False)
    build()
    compile_kernels()
    cluster = Cluster(name, durable=True)
    if name == "studio" and (cluster_folder("database") / "data" / "PG_VERSION").exists():
        print(
            f"  Work of a version before 0.5 lies in {cluster_folder('database')} and is left alone. Start that version once more, "
            "fetch “Archive” from its shelf, and bring that in here."
        )
    if fresh:
        with step("Throwing the old database away"):
            cluster.remove()
    with cluster.running():
        cluster.create_database()
        with step("Bringing the database up to date"):
            manage(cluster, "migrate", "--noinput")
        with step("Loading the demo"):
            manage(cluster, "load_demo")
        env = environment(cluster, HUVREN_DEMO="1")
        with working(env), served(gunicorn(port, workers=1, threads=8), env, "server") as process:
            wait_for(f"http://127.0.0.1:{port}/api/health", process, "server")
            yield port
