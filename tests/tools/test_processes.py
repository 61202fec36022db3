"""Own processes are told from those of others that are called alike."""

import json
import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.waiting import ended, until
from tools.processes import Sessions, command_of, descendants, end_session, named, of_session
from tools.steps import ROOT

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


SLEEPS = "import time; time.sleep(1000)"
STARTS_ANOTHER = f"import subprocess, sys; subprocess.Popen([sys.executable, '-c', {SLEEPS!r}]); {SLEEPS}"


def in_a_session(words: str) -> "subprocess.Popen[bytes]":
    return subprocess.Popen([sys.executable, "-c", words], start_new_session=True)


def test_a_session_is_ended_with_all_that_is_left_of_it() -> None:
    first, other = in_a_session(STARTS_ANOTHER), in_a_session(SLEEPS)
    until(lambda: len(of_session(first.pid)) == 2)
    first.kill()
    until(lambda: first.pid not in of_session(first.pid), "it is over, though nobody has taken notice yet")
    ended(first)
    assert len(of_session(first.pid)) == 1, "it goes on without the one that started it"
    end_session(first.pid)
    assert of_session(first.pid) == []
    assert of_session(other.pid) == [other.pid]
    other.kill()
    ended(other)


def test_what_a_killed_process_has_left_is_ended_and_what_a_living_one_has_is_not(tmp_path: Path) -> None:
    file = tmp_path / "ports" / "8000.json"
    assert Sessions(file).end_left() == []
    left = in_a_session(SLEEPS)
    keeping = f"import pathlib, tools.processes as p; p.Sessions(pathlib.Path({str(file)!r})).add({left.pid}); input()"
    keeper = subprocess.Popen([sys.executable, "-c", keeping], cwd=ROOT, stdin=subprocess.PIPE)
    until(file.exists)
    assert Sessions(file).end_left() == [], "its process is there"
    assert of_session(left.pid)
    keeper.kill()
    ended(keeper)
    keeper.stdin.close()  # type: ignore[union-attr]
    assert Sessions(file).end_left() == [left.pid]
    ended(left)
    said = json.loads(file.read_text())
    stranger = in_a_session(SLEEPS)
    file.write_text(json.dumps({**said, "boot": "another", "sessions": [stranger.pid]}))
    assert Sessions(file).end_left() == [], "since then the computer was started anew, and numbers mean others"
    assert of_session(stranger.pid)
    stranger.kill()
    ended(stranger)
