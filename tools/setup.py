"""Setting up: the virtual environment, the built interface, the compiled kernels."""

import contextlib
import os
import signal
import subprocess
import sys
from collections.abc import Callable, Iterator

from tools import offline
from tools.needs import RUNNING, Need, ensure
from tools.node import WEB, npm, set_up_node
from tools.postgres import Cluster
from tools.steps import LOGS, PYTHON, ROOT, STATE, call, check_python, digest, mark, once, step
from tools.together import once_at_a_time, together

WEB_SOURCES = [WEB / name for name in ("src", "index.html", "package.json", "package-lock.json", "vite.config.ts", "tsconfig.json")]


INDEX = "Is the Python package index reachable?"
FIRST_TIME = "  The first time takes a few minutes: packages, the interface and the kernels. After that it is a moment."


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
                    [PYTHON, "-m", "pip", "install", "--disable-pip-version-check", *offline.pip_words(), "-r", ROOT / name],
                    log=f"pip-{name}", advice=f"Is all of it in {at}?" if (at := offline.folder()) else INDEX,
                )  # fmt: skip
        # Marked again each time, so that `./run` sees that it is newer than the lock.
        mark(name, key)


def interface_key() -> str:
    """By which a built interface and its sources are known to belong together."""
    return digest(WEB_SOURCES)


def build(force: bool = False) -> None:
    """The interface, and its files where the server finds them."""
    key = interface_key()
    is_offline = offline.folder() is not None
    if force or once("build", key) or not (WEB / "dist" / "index.html").exists() or not (STATE / "static").exists():
        if not is_offline:
            set_up_node()
        with step("Putting the interface in its place" if is_offline else "Building the interface"):
            if is_offline:
                offline.take_interface(WEB / "dist", key)
            else:
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


def set_up(
    needs: tuple[Need, ...],
    *,
    development: bool = False,
    interface: bool = False,
    beside: Callable[[], object] | None = None,
    kernels: bool = True,
) -> None:
    """Everything that a command needs before it begins, by one command at a time.

    needs : of the machine itself; interface : whether it is built; beside : what else can be done once the packages are there;
    kernels : whether they are waited for, see `preparing`. What does not wait for another goes on beside it: packages of the
    machine beside those of Python, then the kernels beside the interface and the rest.
    """
    with once_at_a_time():
        if not PYTHON.exists():
            print(FIRST_TIME, flush=True)
        first = tuple(need for need in needs if need in RUNNING)
        ensure(first)
        with together() as steps:
            steps.begin(lambda: ensure(needs))
            set_up_python(development)
        with together() as steps:
            if kernels:
                steps.begin(compile_kernels)
            if beside:
                steps.begin(beside)
            if interface:
                build()


def _kernels_key() -> str:
    return digest([ROOT / "huvren" / "core", ROOT / "requirements.lock"])


@contextlib.contextmanager
def preparing() -> Iterator[dict[str, str]]:
    """Compile the kernels beside the block, where they are not; gives the settings by which others learn how far that is.

    What is compiled when the block ends is kept, and the rest is done by the next one.
    """
    key = _kernels_key()
    if not once("kernels", key):
        yield {}
        return
    LOGS.mkdir(parents=True, exist_ok=True)
    told = {"HUVREN_PREPARING": str(STATE / "preparing.json")}
    with (LOGS / "kernels.log").open("wb") as log:
        words = ["nice", str(PYTHON), "-m", "huvren.core.compile_all"]
        told_to_it = {**environment(NUMBA_NUM_THREADS="1"), **told}
        process = subprocess.Popen(words, env=told_to_it, cwd=ROOT, stdout=log, stderr=log, start_new_session=True)
        try:
            yield told
        finally:
            if process.poll() is None:
                with contextlib.suppress(ProcessLookupError):
                    os.killpg(process.pid, signal.SIGTERM)
            if process.wait() == 0:
                mark("kernels", key)


def compile_kernels() -> None:
    """Compile before anybody waits for it, saying how far it is; a moment where that is done already."""
    key = _kernels_key()
    if once("kernels", key):
        with step("Compiling the kernels, once"):
            call([PYTHON, "-m", "huvren.core.compile_all"], env=environment(NUMBA_NUM_THREADS="1"))
        mark("kernels", key)
