"""Doing several things of the set-up at once, and never one of them twice."""

import contextlib
import fcntl
import threading
from collections.abc import Callable, Iterator

from tools.steps import STATE


class Together:
    """Steps that go on beside each other: `begin` starts one, the end of the block waits for all and raises the first failure.

    A step that fails keeps the others from being waited for longer than they take; nothing is begun after it.
    """

    def __init__(self) -> None:
        self._threads: list[threading.Thread] = []
        self._failures: list[BaseException] = []

    def begin(self, work: Callable[[], object]) -> threading.Thread:
        """Start a step; the thread can be waited for by another step that needs it."""

        def run() -> None:
            try:
                work()
            except BaseException as failure:
                self._failures.append(failure)

        thread = threading.Thread(target=run, daemon=True)
        self._threads.append(thread)
        thread.start()
        return thread

    def check(self) -> None:
        """Raises what a step failed with."""
        if self._failures:
            raise self._failures[0]

    def wait(self) -> None:
        """Until all steps have ended; raises the first failure."""
        for thread in self._threads:
            thread.join()
        self.check()


@contextlib.contextmanager
def together() -> Iterator[Together]:
    """A block whose end waits for all that was begun in it."""
    steps = Together()
    try:
        yield steps
    finally:
        steps.wait()


@contextlib.contextmanager
def once_at_a_time() -> Iterator[None]:
    """The set-up is done by one command at a time; another waits, says so, and finds it done."""
    STATE.mkdir(parents=True, exist_ok=True)
    with (STATE / "set-up.lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            print("· Another command is setting things up; waiting for it …", flush=True)
            fcntl.flock(lock, fcntl.LOCK_EX)
        yield
