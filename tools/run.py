"""The commands of `./run`."""

import argparse
import contextlib
import json
import os
import shutil
import signal
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path

from tools.postgres import Cluster, free_port
from tools.steps import (
    LOGS,
    PYTHON,
    ROOT,
    STATE,
    StepFailed,
    call,
    check_python,
    digest,
    install_packages,
    mark,
    once,
    step,
)

CHROMIUM = Path("/usr/bin/chromium")
WEB = ROOT / "web"
WEB_SOURCES = [WEB / name for name in ("src", "index.html", "package.json", "package-lock.json", "vite.config.ts", "tsconfig.json")]
DEMO_PORT = 8420


def environment(cluster: Cluster | None = None, **more: str) -> dict[str, str]:
    """The environment of our own processes."""
    return {
        **os.environ, "HUVREN_STATE": str(STATE), "PYTHONPATH": str(ROOT), "DJANGO_SETTINGS_MODULE": "huvren.site.settings",
        **(cluster.environment() if cluster else {}), **more,
    }  # fmt: skip


def set_up_python(development: bool) -> None:
    """The virtual environment with locked packages."""
    check_python()
    if not Path("/usr/lib/x86_64-linux-gnu/libgomp.so.1").exists() and not list(Path("/usr/lib").glob("*/libgomp.so.1")):
        install_packages(["libgomp1"], "The OpenMP runtime")
    if not PYTHON.exists():
        with step("Making the virtual environment"):
            STATE.mkdir(parents=True, exist_ok=True)
            call(
                [sys.executable, "-m", "venv", STATE / "venv"],
                log="venv",
                advice="On Debian: apt-get install python3-venv",
            )
    locks = ["requirements.lock", "requirements-dev.lock"] if development else ["requirements.lock"]
    for name in locks:
        key = digest([ROOT / name])
        if once(name, key):
            with step(f"Installing the packages of {name}"):
                call(
                    [PYTHON, "-m", "pip", "install", "--disable-pip-version-check", "-r", ROOT / name],
                    log=f"pip-{name}", advice="Is the Python package index reachable?",
                )  # fmt: skip
            mark(name, key)


def set_up_node() -> None:
    """The packages of the front end."""
    if shutil.which("npm") is None:
        raise StepFailed("Node.js with npm is missing. Install Node.js 20.19 or newer.")
    key = digest([WEB / "package-lock.json"])
    if once("node", key) or not (WEB / "node_modules").exists():
        with step("Installing the packages of the front end"):
            call(
                ["npm", "install", "--no-save", "--no-audit", "--no-fund"], folder=WEB, log="npm-install",
                advice="Is the npm registry reachable?",
            )  # fmt: skip
        mark("node", key)


def build(force: bool = False) -> None:
    """The interface, and its files where the server finds them."""
    set_up_node()
    key = digest(WEB_SOURCES)
    if force or once("build", key) or not (WEB / "dist" / "index.html").exists() or not (STATE / "static").exists():
        with step("Building the interface"):
            call(["npm", "run", "build"], folder=WEB, log="vite-build", advice="The message above names the file.")
            call(
                [PYTHON, ROOT / "manage.py", "collectstatic", "--noinput", "--clear"],
                log="collectstatic",
                env=environment(),
            )
        mark("build", key)


def set_up_chromium() -> None:
    if not CHROMIUM.exists():
        install_packages(["chromium"], "Chromium")


def manage(cluster: Cluster, *words: str, **more: str) -> None:
    call([PYTHON, ROOT / "manage.py", *words], log=f"manage-{words[0]}", env=environment(cluster, **more))


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
def demo_server(port: int, fresh: bool = False, name: str = "database") -> Iterator[int]:
    """The demo, set up from nothing and serving."""
    set_up_python(development=False)
    build()
    cluster = Cluster(name, durable=True)
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


def command_demo(options: argparse.Namespace) -> int:
    port = free_port(options.port or DEMO_PORT)
    if options.port and port != options.port:
        raise StepFailed(f"Port {options.port} is taken. Choose another with --port, or leave it out.")
    with demo_server(port, options.fresh):
        if options.check:
            check_page(port)
            print("Everything answers.")
            return 0
        print(f"\nHuvren is at http://127.0.0.1:{port}/\nCtrl-C stops it; your work is kept.", flush=True)
        with contextlib.suppress(KeyboardInterrupt):
            signal.pause()
        print("\nStopping …")
    return 0


def command_serve(options: argparse.Namespace) -> int:
    """Production settings: everything comes from the environment."""
    set_up_python(development=False)
    build()
    missing = [name for name in ("HUVREN_DB_HOST", "HUVREN_SECRET_KEY", "HUVREN_HOSTS") if not os.environ.get(name)]
    if missing:
        raise StepFailed(f"Set {', '.join(missing)} in the environment first; huvren/site/settings.py lists them all.")
    call([PYTHON, ROOT / "manage.py", "migrate", "--noinput"], env=environment())
    workers = int(os.environ.get("HUVREN_WORKERS", "2"))
    command = [str(word) for word in gunicorn(options.port or 8000, workers, 8, options.host)]
    os.execve(command[0], command, environment())


def command_work(options: argparse.Namespace) -> int:
    """A worker process beside `serve`, on this machine or another with the same PostgreSQL."""
    set_up_python(development=False)
    if not os.environ.get("HUVREN_DB_HOST"):
        raise StepFailed("Set HUVREN_DB_HOST in the environment first; huvren/site/settings.py lists all settings.")
    os.execve(PYTHON, [str(PYTHON), str(ROOT / "manage.py"), "work"], environment())


def command_dev(options: argparse.Namespace) -> int:
    """Vite and Django, both reloading."""
    set_up_python(development=True)
    set_up_node()
    cluster = Cluster("database", durable=True)
    port = free_port(options.port or 8421)
    with cluster.running():
        cluster.create_database()
        manage(cluster, "migrate", "--noinput")
        manage(cluster, "load_demo")
        env = environment(cluster, HUVREN_DEMO="1", HUVREN_DEBUG="1", HUVREN_ORIGINS="http://127.0.0.1:5173")
        with working(env), served([PYTHON, ROOT / "manage.py", "runserver", str(port)], env, "django"):
            print("The interface is at http://127.0.0.1:5173/ and reloads itself.", flush=True)
            env["HUVREN_API"] = f"http://127.0.0.1:{port}"
            with contextlib.suppress(KeyboardInterrupt):
                subprocess.run(["npm", "run", "dev", "--", "--host", "127.0.0.1"], cwd=WEB, env=env)
    return 0


def command_test(options: argparse.Namespace) -> int:
    """Everything: lint, types, layers, core, server, browser, front end."""
    set_up_python(development=True)
    set_up_chromium()
    set_up_node()
    quick = bool(options.rest)
    venv = STATE / "venv" / "bin"
    if not quick:
        with step("Lint and format (ruff)"):
            call([venv / "ruff", "check", "."])
            call([venv / "ruff", "format", "--check", "."])
        with step("Types (mypy)"):
            call([venv / "mypy"])
        with step("Layers (import-linter)"):
            call([venv / "lint-imports", "--no-cache"], env=environment())
        with step("Front end: lint, types, tests"):
            call(["npm", "run", "lint"], folder=WEB)
            call(["npm", "run", "check"], folder=WEB)
            call(["npm", "run", "test"], folder=WEB)
    build()
    cluster = Cluster("test-database", durable=False)
    with cluster.running():
        cluster.create_database()
        with step("pytest"):
            call([PYTHON, "-m", "pytest", *options.rest], env=environment(cluster))
    return 0


def command_bench(options: argparse.Namespace) -> int:
    set_up_python(development=True)
    set_up_chromium()
    build()
    cluster = Cluster("test-database", durable=False)
    with cluster.running():
        cluster.create_database()
        call([PYTHON, "-m", "bench", *options.rest], env=environment(cluster))
    return 0


def command_shots(options: argparse.Namespace) -> int:
    """The pictures of docs/screenshots, from a fresh demo."""
    set_up_python(development=True)
    set_up_chromium()
    with demo_server(free_port(), fresh=True, name="shots-database") as port:
        call([PYTHON, "-m", "tools.shots", f"http://127.0.0.1:{port}", *options.rest], env=environment())
    return 0


def command_huvren(options: argparse.Namespace) -> int:
    """The command line; files are meant where it was called, not where the checkout is."""
    set_up_python(development=False)
    os.chdir(os.environ.get("HUVREN_CALLED_FROM", ROOT))
    os.execve(PYTHON, [str(PYTHON), "-m", "huvren.cli", *options.rest], environment())


def command_schema(options: argparse.Namespace) -> int:
    """openapi.json and the TypeScript types made from it."""
    set_up_python(development=True)
    set_up_node()
    call([PYTHON, "-m", "tools.schema"], env=environment())
    call(["npm", "run", "schema"], folder=WEB, log="schema")
    return 0


def command_build(options: argparse.Namespace) -> int:
    set_up_python(development=False)
    build(force=True)
    return 0


def command_format(options: argparse.Namespace) -> int:
    """Formatters on both sides."""
    set_up_python(development=True)
    set_up_node()
    call([STATE / "venv" / "bin" / "ruff", "check", "--fix", "-q", "."])
    call([STATE / "venv" / "bin" / "ruff", "format", "-q", "."])
    call(["npm", "run", "format"], folder=WEB)
    return 0


def main() -> int:
    """Read the command line and run one command."""
    parser = argparse.ArgumentParser(prog="./run", description="Huvren: a bench for limited color.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    def add(name: str, run: object, text: str) -> argparse.ArgumentParser:
        command = commands.add_parser(name, help=text, description=text, add_help=name not in ("huvren", "test"))
        command.set_defaults(run=run, rest=[])
        return command

    demo = add("demo", command_demo, "Set everything up and start the app with demo data.")
    demo.add_argument("--port", type=int)
    demo.add_argument("--fresh", action="store_true", help="begin with a new database")
    demo.add_argument("--check", action="store_true", help="start, see that it answers, stop")
    add("test", command_test, "Set everything up and run every test; arguments go to pytest alone.")
    dev = add("dev", command_dev, "Work on the code: Vite and Django reload.")
    dev.add_argument("--port", type=int)
    serve = add("serve", command_serve, "Production settings, from the environment.")
    serve.add_argument("--port", type=int)
    serve.add_argument("--host", default="127.0.0.1")
    add("work", command_work, "A worker for long jobs, beside serve; settings from the environment.")
    add("bench", command_bench, "Measure against general-purpose libraries.")
    add("shots", command_shots, "Take the pictures of docs/screenshots.")
    add("huvren", command_huvren, "The command line: ./run huvren --help")
    add("schema", command_schema, "Write openapi.json and the TypeScript types.")
    add("build", command_build, "Build the interface.")
    add("format", command_format, "Format the code.")
    if sys.argv[1:2] == ["help"]:
        sys.argv[1:] = ["--help"]
    options, rest = parser.parse_known_args()
    if rest and options.command not in ("test", "bench", "shots", "huvren"):
        parser.error(f"unknown: {' '.join(rest)}")
    options.rest = rest
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    try:
        return int(options.run(options))
    except StepFailed as error:
        print(f"\n{error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        print("\nStopped.")
        return 130


if __name__ == "__main__":
    sys.exit(main())
