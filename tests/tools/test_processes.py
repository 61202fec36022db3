"""Own processes are told from those of others that are called alike."""

import os
import subprocess
import sys
from collections.abc import Iterator

import pytest

from tests.waiting import until
from tools.processes import command_of, descendants, named

WORDS = f"huvren-test-{os.getpid()}"
IDLE = [sys.executable, "-c", "import sys; sys.stdin.read()", WORDS]
# A process of that name that belongs to nobody here: the one between ends, and it goes to the first process of the machine.
ORPHAN = f"""
import os, subprocess, sys
quiet = dict(stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
inner = subprocess.Popen({IDLE!r}, stdin=open(sys.argv[1]), start_new_session=True, **quiet)
print(inner.pid)
"""


@pytest.fixture
def pipe(tmp_path: object) -> Iterator[tuple[str, int]]:
    """A place to read from that gives nothing until the test is over."""
    reading, writing = os.pipe()
    yield f"/proc/{os.getpid()}/fd/{reading}", writing
    os.close(writing)
    os.close(reading)


def test_only_what_descends_from_a_process_is_found(pipe: tuple[str, int]) -> None:
    where, _ = pipe
    orphan = int(subprocess.run([sys.executable, "-c", ORPHAN, where], capture_output=True, text=True, check=True).stdout)
    with subprocess.Popen(
        ["/bin/sh", "-c", f"{sys.executable} -c 'import sys; sys.stdin.read()' {WORDS}; true"], stdin=subprocess.PIPE
    ) as shell:
        until(lambda: len(named(WORDS, os.getpid())) == 2)
        own = named(WORDS, os.getpid())
        assert own[0] == shell.pid, "parents come first"
        assert orphan not in own
        assert WORDS in command_of(orphan), "it is there, and called alike"
        assert own[1] in descendants(shell.pid)
        assert descendants(own[1]) == []
        shell.communicate(b"")
    assert named(WORDS, os.getpid()) == []
    assert command_of(shell.pid) == ""


def test_a_process_that_is_not_there_has_none() -> None:
    assert descendants(2**22 + 1) == []
