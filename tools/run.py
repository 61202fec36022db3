"""The commands of `./run`."""

import argparse
import contextlib
import os
import signal
import subprocess
import sys
from pathlib import Path

from huvren import __version__
from tools import offline
from tools.needs import KEEPING, RUNNING, SERVING, TESTING, ensure
from tools.needs import WEB as WEB_NEEDS
from tools.node import WEB, node_environment, npm, set_up_node
from tools.setup import build, environment, interface_key, manage, set_up, set_up_python
from tools.steps import PYTHON, ROOT, STATE, StepFailed, call, step

DEMO_PORT = 8420


def needs_settings(*names: str) -> None:
    """Before anything is set up. Raises `StepFailed` with all settings that are missing."""
    if missing := [name for name in names if not os.environ.get(name)]:
        raise StepFailed(f"Set {', '.join(missing)} in the environment first; huvren/site/settings.py lists them all.")


def command_demo(options: argparse.Namespace) -> int:
    from tools.serving import check_page, demo_server, free_port

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
    from tools.serving import connections, web

    if os.environ.get("HUVREN_DEMO") == "1":
        raise StepFailed(
            "HUVREN_DEMO signs visitors in without a password and is for ./run demo alone. Take it out of the environment."
        )
    needs_settings("HUVREN_DB_HOST", "HUVREN_SECRET_KEY", "HUVREN_HOSTS")
    _workers()
    set_up(WEB_NEEDS, interface=True)
    call([PYTHON, ROOT / "manage.py", "migrate", "--noinput"], env=environment())
    workers = _workers()
    why = f"by {workers} web processes, one that takes another's place, the streams and a worker"
    call([PYTHON, ROOT / "manage.py", "check_connections", str(connections(workers)), "--why", why], env=environment())
    port = options.port or 8000
    with web(environment(), port, workers=workers, host=options.host, log="-"):
        print(f"Huvren answers at {options.host}:{port} with {workers} processes.", flush=True)
        with contextlib.suppress(KeyboardInterrupt):
            signal.pause()
    return 0


def _workers() -> int:
    """Web processes of one `serve`. Raises `StepFailed` for what is no number of them."""
    said = os.environ.get("HUVREN_WORKERS") or "2"
    if not said.isdecimal() or not 1 <= int(said) <= 64:
        raise StepFailed(f"HUVREN_WORKERS is “{said}”; a whole number from 1 to 64 was expected.")
    return int(said)


def command_work(options: argparse.Namespace) -> int:
    """A worker process beside `serve`, on this machine or another with the same PostgreSQL."""
    needs_settings("HUVREN_DB_HOST")
    set_up(RUNNING)
    os.execve(PYTHON, [str(PYTHON), str(ROOT / "manage.py"), "work"], environment())


def command_prepare(options: argparse.Namespace) -> int:
    """Everything that `serve` and `work` need, so that they begin at once: for images of containers."""
    set_up(WEB_NEEDS, interface=True)
    return 0


def command_pack(options: argparse.Namespace) -> int:
    """A folder for machines that reach no package index."""
    target = Path(os.environ.get("HUVREN_CALLED_FROM", ROOT)) / options.folder
    set_up(RUNNING, interface=True, kernels=False)
    offline.pack(target, ROOT / "requirements.lock", WEB / "dist", interface_key())
    print(f"{target} is for Huvren {__version__} on machines like this one: ./run serve --offline {options.folder}")
    return 0


def command_dev(options: argparse.Namespace) -> int:
    """Vite and Django, both reloading."""
    from tools.serving import Cluster, free_port, served, working

    ensure(SERVING)
    set_up_python(development=True)
    set_up_node()
    cluster = Cluster("studio", durable=True)
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
                subprocess.run(
                    ["npm", "run", "dev", "--", "--host", "127.0.0.1"], cwd=WEB, env={**env, "PATH": node_environment()["PATH"]}
                )
    return 0


def command_test(options: argparse.Namespace) -> int:
    """Everything: lint, types, layers, core, server, browser, front end."""
    from tools.serving import Cluster

    set_up(TESTING, development=True, interface=True)
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
        set_up_node()
        with step("Front end: lint, types, tests"):
            npm("run", "lint")
            npm("run", "check")
            npm("run", "test")
    cluster = Cluster("test-database", durable=False)
    with cluster.running():
        cluster.create_database()
        with step("pytest"):
            words = options.rest or ["-n", "2", "--dist", "worksteal"]
            call([PYTHON, "-m", "pytest", *words], env=environment(cluster))
    return 0


def command_backup(options: argparse.Namespace) -> int:
    """One file that holds everything."""
    from tools.backup import backup, check_meant, database

    check_meant(demo=options.demo)
    ensure(SERVING if options.demo else KEEPING)
    with database(demo=options.demo) as env:
        backup(env, Path(os.environ.get("HUVREN_CALLED_FROM", ROOT)) / options.file)
    return 0


def command_restore(options: argparse.Namespace) -> int:
    """That file into an empty database, brought up to this version."""
    from tools.backup import check_meant, database, restore

    check_meant(demo=options.demo)
    ensure(SERVING if options.demo else KEEPING)
    set_up_python(development=False)
    with database(demo=options.demo) as env:
        restore(env, Path(os.environ.get("HUVREN_CALLED_FROM", ROOT)) / options.file)
        with step("Bringing the database up to date"):
            call([PYTHON, ROOT / "manage.py", "migrate", "--noinput"], log="manage-migrate", env={**environment(), **env})
    return 0


def command_manage(options: argparse.Namespace) -> int:
    """Django's commands and ours on the database that is meant: make_account, change_password, empty_trash and others."""
    from tools.backup import check_meant, database, named

    check_meant(demo=options.demo)
    ensure(SERVING if options.demo else RUNNING)
    set_up_python(development=False)
    with database(demo=options.demo) as env:
        print(f"  The {named(env)}", file=sys.stderr)
        return subprocess.run(
            [str(PYTHON), str(ROOT / "manage.py"), *options.rest], cwd=ROOT, env={**environment(), **env}
        ).returncode


def command_soak(options: argparse.Namespace) -> int:
    """Many artists at work at once, an adversary among them."""
    from tools.serving import Cluster

    set_up(SERVING, development=True, interface=True)
    cluster = Cluster("soak-database", durable=True)
    cluster.remove()
    with cluster.running():
        cluster.create_database()
        manage(cluster, "migrate", "--noinput")
        call([PYTHON, "-m", "bench.soak", *options.rest], env=environment(cluster))
    return 0


def command_bench(options: argparse.Namespace) -> int:
    from tools.serving import Cluster

    set_up(TESTING, development=True, interface=True)
    cluster = Cluster("bench-database", durable=False)
    cluster.remove()
    with cluster.running():
        cluster.create_database()
        call([PYTHON, "-m", "bench", *options.rest], env=environment(cluster))
    return 0


def command_shots(options: argparse.Namespace) -> int:
    """The pictures of docs/screenshots, from a fresh demo."""
    from tools.serving import demo_server, free_port

    ensure(TESTING)
    set_up_python(development=True)
    with demo_server(free_port(), fresh=True, name="shots-database") as port:
        call([PYTHON, "-m", "tools.shots", f"http://127.0.0.1:{port}", *options.rest], env=environment())
    return 0


def command_huvren(options: argparse.Namespace) -> int:
    """The command line; files are meant where it was called, not where the checkout is."""
    ensure(RUNNING)
    set_up_python(development=False)
    os.chdir(os.environ.get("HUVREN_CALLED_FROM", ROOT))
    os.execve(PYTHON, [str(PYTHON), "-m", "huvren.cli", *options.rest], environment())


def command_schema(options: argparse.Namespace) -> int:
    """openapi.json and the TypeScript types made from it."""
    ensure(RUNNING)
    set_up_python(development=True)
    set_up_node()
    call([PYTHON, "-m", "tools.schema"], env=environment())
    os.environ["HUVREN_SCHEMA"] = str(STATE / "openapi-for-types.json")
    npm("run", "schema")
    return 0


def command_build(options: argparse.Namespace) -> int:
    ensure(RUNNING)
    set_up_python(development=False)
    build(force=True)
    return 0


def command_mutate(options: argparse.Namespace) -> int:
    """Change single lines of core, studio or interface and list those that no test notices."""
    set_up(RUNNING, development=True)
    set_up_node()
    command, path = [PYTHON, "-m", "tools.mutate", *options.rest], {"PATH": node_environment()["PATH"]}
    if not {"studio", "web"} & set(options.rest):
        call(command, env={**environment(), **path})
        return 0
    from tools.serving import Cluster

    ensure(SERVING)
    cluster = Cluster("mutate-database", durable=False)
    with cluster.running():
        cluster.create_database()
        call(command, env={**environment(cluster), **path})
    return 0


def command_fuzz(options: argparse.Namespace) -> int:
    """Damaged and strange files for every reader; with --api, requests of every kind."""
    set_up(RUNNING, development=True)
    if "--api" not in options.rest:
        call([PYTHON, "-m", "tests.fuzzing", *options.rest], env=environment())
        return 0
    from tools.serving import Cluster

    ensure(SERVING)
    cluster = Cluster("fuzz-database", durable=False)
    cluster.remove()
    with cluster.running():
        cluster.create_database()
        manage(cluster, "migrate", "--noinput")
        env = environment(cluster, HUVREN_RATES="0", HUVREN_HOSTS="testserver")
        call([PYTHON, "-m", "tests.fuzzing_api", *options.rest], env=env)
    return 0


LOCKS = {"requirements.lock": ("server",), "requirements-dev.lock": ("server", "dev"), "requirements-node.lock": ("server", "node")}
PLAIN = (
    "--quiet --generate-hashes --strip-extras --no-annotate --no-header --no-emit-index-url --no-emit-trusted-host "
    "--no-emit-find-links --no-emit-options --allow-unsafe"
)
"""No address of a registry, and nothing about the machine that made it."""


def command_lock(options: argparse.Namespace) -> int:
    """The lock files, with hashes, from the declarations in pyproject.toml. What is pinned stays, unless --upgrade is given."""
    ensure(RUNNING)
    set_up_python(development=True)
    for name, extras in LOCKS.items():
        words = [word for extra in extras for word in ("--extra", extra)]
        words += [] if name == "requirements.lock" else ["--constraint", "requirements.lock"]
        command = [STATE / "venv" / "bin" / "pip-compile", *PLAIN.split(), *words, *options.rest, "--output-file", name]
        with step(f"Locking {name}"):
            call([*command, "pyproject.toml"], log=f"lock-{name}", advice="Is the Python package index reachable?")
    return 0


def command_format(options: argparse.Namespace) -> int:
    """Formatters on both sides."""
    ensure(RUNNING)
    set_up_python(development=True)
    set_up_node()
    call([STATE / "venv" / "bin" / "ruff", "check", "--fix", "-q", "."])
    call([STATE / "venv" / "bin" / "ruff", "format", "-q", "."])
    npm("run", "format")
    return 0


def main() -> int:
    """Read the command line and run one command."""
    parser = argparse.ArgumentParser(prog="./run", description="Huvren: a bench for limited color.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    def add(name: str, run: object, text: str) -> argparse.ArgumentParser:
        command = commands.add_parser(name, help=text, description=text, add_help=name not in ("huvren", "test", "mutate", "fuzz"))
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
    work = add("work", command_work, "A worker for long jobs, beside serve; settings from the environment.")
    prepare = add("prepare", command_prepare, "Set up what serve and work need, and end.")
    of_a_database = [
        add("backup", command_backup, "One file that holds everything: ./run backup FILE"),
        add("restore", command_restore, "Such a file into an empty database: ./run restore FILE"),
        add("manage", command_manage, "Commands on the database: make_account NAME, change_password NAME, empty_trash, …"),
    ]
    for command in of_a_database:
        command.add_argument("--demo", action="store_true", help="the demo's own database, not that of HUVREN_DB_…")
    for command in of_a_database[:2]:
        command.add_argument("file")
    for command in (serve, work, prepare, *of_a_database):
        command.add_argument("--offline", metavar="FOLDER", help="set up from a folder that ./run pack wrote, asking no index")
    pack = add("pack", command_pack, "A folder to set Huvren up from where no package index is reached: ./run pack FOLDER")
    pack.add_argument("folder")
    add("soak", command_soak, "Fifty artists and an adversary for some minutes: ./run soak --minutes 10 --clients 50")
    add("bench", command_bench, "Measure against general-purpose libraries.")
    add("shots", command_shots, "Take the pictures of docs/screenshots.")
    add("huvren", command_huvren, "The command line: ./run huvren --help")
    add("schema", command_schema, "Write openapi.json and the TypeScript types.")
    add("build", command_build, "Build the interface.")
    add(
        "mutate",
        command_mutate,
        "Change single lines and list those that no test notices: --area core, studio or web.",
    )
    add("fuzz", command_fuzz, "Damaged and strange files for every reader, seeded and bounded.")
    add("lock", command_lock, "Write the lock files from pyproject.toml; --upgrade takes the newest versions.")
    add("format", command_format, "Format the code.")
    if sys.argv[1:2] == ["help"]:
        sys.argv[1:] = ["--help"]
    options, rest = parser.parse_known_args()
    if rest and options.command not in ("test", "bench", "shots", "huvren", "lock", "mutate", "fuzz", "manage", "soak"):
        parser.error(f"unknown: {' '.join(rest)}")
    options.rest = rest
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    try:
        if getattr(options, "offline", None):
            offline.use(options.offline)
        return int(options.run(options))
    except StepFailed as error:
        print(f"\n{error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        print("\nStopped.")
        return 130


if __name__ == "__main__":
    sys.exit(main())
