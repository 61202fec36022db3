"""What serves, works, proxies and stores is killed, in turn and together: all of it comes back, and nothing acknowledged is lost.

Everything is a child of this test, on a database cluster of its own; nothing else on the computer is touched.
"""

import json
import os
import signal
from collections.abc import Iterator
from typing import Any

import pytest

from bench.kills import SERVING, Studio, kill, started
from tests.pictures import painted, png
from tests.waiting import ended, until
from tools.processes import command_of, of_session


@pytest.fixture(scope="module")
def studio() -> Iterator[Studio]:
    with started("kills-database") as studio:
        yield studio
    assert [command_of(process) for session in studio.sessions for process in of_session(session)] == []


class Work:
    """One palette whose name says the last edit that was acknowledged, and jobs that were asked for."""

    def __init__(self, studio: Studio) -> None:
        self.studio = studio
        self.picture = studio.sent(png(painted(600, 400)))
        _, self.palette = studio.asked("/palettes", b'{"text": "#102030 #405060"}')
        self.edits = 0
        self.jobs: list[str] = []

    def seen(self) -> Any:
        """The palette, once there is an answer: what was killed a moment ago may still go."""
        answers = list[Any]()

        def is_seen() -> bool:
            status, palette = self.studio.asked(f"/palettes/{self.palette['id']}")
            answers.append(palette)
            return status == 200

        until(is_seen)
        return answers[-1]

    def edit(self) -> None:
        """Rename it; an edit whose fate is unknown is looked for, and made again where it is not there."""
        self.edits += 1
        wanted = f"Edit {self.edits}"
        while self.palette["name"] != wanted:
            body = {"base": self.palette["revision"], "operation": {"kind": "rename_palette", "name": wanted}}
            status, said = self.studio.asked(f"/palettes/{self.palette['id']}/operations", json.dumps(body).encode())
            assert status in (200, 503, 0), said
            self.palette = said if status == 200 else self.seen()

    def ask(self) -> None:
        body = json.dumps({"pictures": [self.picture], "recipe": {"colors": 6}}).encode()

        def is_asked() -> bool:
            status, job = self.studio.asked("/jobs/batches", body)
            assert status in (202, 503, 0), job
            self.jobs += [job["id"]] if status == 202 else []
            return status == 202

        until(is_asked)

    def is_whole(self) -> None:
        """All that was acknowledged is there, and all that was asked for gets done."""
        assert self.seen() == self.palette
        assert self.palette["name"] == f"Edit {self.edits}"

        def states() -> set[str]:
            status, jobs = self.studio.asked("/jobs")
            return {job["state"] for job in jobs if job["id"] in self.jobs} if status == 200 else set()

        until(lambda: states() == {"done"}, "a job was lost")


def test_each_is_killed_in_turn_and_all_of_them_together(studio: Studio) -> None:
    work = Work(studio)
    for words in SERVING.values():
        work.edit()
        work.ask()
        kill(studio.of(words)[:1])
        until(studio.is_ready, "it did not come back, or nobody takes jobs")
        work.is_whole()
    # The one that does jobs, while there are some.
    work.ask()
    kill([studio.working.pid])
    ended(studio.working)
    work.ask()
    studio.work()
    work.is_whole()
    # The database, with all its processes: the worker is not started again, it comes back by itself.
    work.edit()
    work.ask()
    kill(studio.database())
    until(lambda: studio.asked("/ready")[0] == 503)
    studio.cluster.start_again()
    until(studio.is_ready, "it did not come back, or nobody takes jobs")
    work.is_whole()
    assert studio.working.poll() is None
    # Everything at once; what it started is left without anybody, and holds the port.
    work.edit()
    work.ask()
    workers = studio.of("nginx: worker")
    # It would be told that its parent is gone, and see to its own.
    for process in studio.of("nginx: master"):
        os.kill(process, signal.SIGSTOP)
    kill([studio.serving.pid, *studio.of("nginx: master"), studio.working.pid, *studio.database()])
    ended(studio.serving)
    ended(studio.working)
    assert all(command_of(process) for process in workers), "they hold the port"
    studio.cluster.start_again()
    studio.serve()
    studio.work()
    until(studio.is_ready, "it did not come back, or nobody takes jobs")
    work.is_whole()
    assert not [process for process in workers if command_of(process)]
