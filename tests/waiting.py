"""The one place where tests look at a clock: how long they wait for something that happens elsewhere before they call it hung.

Nothing passes or fails by how fast it was; `test_clocks.py` holds the other files to that.
"""

import subprocess
import time
from collections.abc import Callable

PATIENCE_S = 120


def until(condition: Callable[[], object], hung: str = "It did not come to that.") -> None:
    """Wait for something that another process, thread or page does."""
    limit = time.monotonic() + PATIENCE_S
    while not condition():
        assert time.monotonic() < limit, hung
        time.sleep(0.02)


def ended(process: "subprocess.Popen[bytes] | subprocess.Popen[str]") -> int:
    """The exit status of a process that was told to end."""
    return process.wait(timeout=PATIENCE_S)
