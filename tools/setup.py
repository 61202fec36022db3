"""Setting up: the virtual environment, the built interface, the compiled kernels."""

import os
import sys

from tools.node import WEB, npm, set_up_node
from tools.postgres import Cluster
from tools.steps import PYTHON, ROOT, STATE, call, check_python, digest, mark, once, step

WEB_SOURCES = [WEB / name for name in ("src", "index.html", "package.json", "package-lock.json", "vite.config.ts", "tsconfig.json")]


def environment(cluster: Cluster | None = None, **more: str) -> dict[str, str]:
    """The environment of our own processes."""
    return {
        **os.environ, "HUVREN_STATE": str(STATE), "PYTHONPATH": str(ROOT), "DJANGO_SETTINGS_MODULE": "huvren.site.settings",
        **(cluster.environment() if cluster else {}), **more,
    }  # fmt: skip


def set_up_python(development: bool) -> None:
    """The virtual environment with locked packages."""
    check_python()
    if not PYTHON.exists():
        with step("Making the virtual environment"):
            STATE.mkdir(parents=True, exist_ok=True)
            call([sys.executable, "-m", "venv", STATE / "venv"], log="venv")
    locks = ["requirements.lock", "requirements-dev.lock"] if development else ["requirements.lock"]
    for name in locks:
        key = digest([ROOT / name])
        if once(name, key):
            with step(f"Installing the packages of {name}"):
                call(
                    [PYTHON, "-m", "pip", "install", "--disable-pip-version-check", "-r", ROOT / name],
                    log=f"pip-{name}", advice="Is the Python package index reachable?",
                )  # fmt: skip
        # Marked again each time, so that `./run` sees that it is newer than the lock.
        mark(name, key)


def build(force: bool = False) -> None:
    """The interface, and its files where the server finds them."""
    set_up_node()
    key = digest(WEB_SOURCES)
    if force or once("build", key) or not (WEB / "dist" / "index.html").exists() or not (STATE / "static").exists():
        with step("Building the interface"):
            npm("run", "build", log="vite-build", advice="The message above names the file.")
            call([PYTHON, "-m", "tools.licenses"], log="licenses", env=environment())
            call(
                [PYTHON, ROOT / "manage.py", "collectstatic", "--noinput", "--clear"],
                log="collectstatic",
                env=environment(),
            )
        mark("build", key)


def manage(cluster: Cluster, *words: str, **more: str) -> None:
    call([PYTHON, ROOT / "manage.py", *words], log=f"manage-{words[0]}", env=environment(cluster, **more))


def compile_kernels() -> None:
    """Compile before anybody waits for it, saying how far it is; a moment where that is done already."""
    key = digest([ROOT / "huvren" / "core", ROOT / "requirements.lock"])
    if once("kernels", key):
        with step("Compiling the kernels, once"):
            call([PYTHON, "-m", "huvren.core.compile_all"], env=environment())
        mark("kernels", key)
