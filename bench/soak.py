"""Artists at work on a served application, with one adversary among them: `./run soak --minutes 10 --clients 50`.

Everything is on loopback: two servers as two computers would have, each with a proxy and a web process of its own, half of the
artists at each, and one database. Each artist has a picture of one megapixel and a palette, thinks for a second between two requests,
and remembers every edit that was acknowledged. After a calm part the adversary begins: it sends what once held or filled a server,
in turn and without a pause, and keeps two hundred slow connections open. In the last part a worker process, the job worker and the
database are killed once each. In the end every palette is looked at again: an acknowledged edit that is not there is a failure.
"""

import argparse
import contextlib
import io
import json
import os
import random
import signal
import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import django
import numpy as np
from PIL import Image

from bench.adversary import NASTY, Client
from tools.postgres import Cluster, free_port
from tools.processes import descendants, named
from tools.serving import wait_for, web, working
from tools.steps import ROOT

THINK_S = 1.0
WEB = "gunicorn huvren.site.wsgi"
LIMITS_MS = {"read": 300, "operation": 300, "preview": 1500}
"""The 95th percentile that each kind may have."""


@dataclass
class Notes:
    """What all clients measured, by part of the run and kind of request."""

    times_ms: dict[tuple[str, str], list[float]] = field(default_factory=dict)
    broken: dict[str, list[str]] = field(default_factory=dict)
    away: dict[str, int] = field(default_factory=dict)
    nasty: dict[str, list[tuple[int, float]]] = field(default_factory=dict)
    lock: threading.Lock = field(default_factory=threading.Lock)
    part: str = "calm"
    processors: dict[str, list[int]] = field(default_factory=dict)
    """By part, what the processors had done in all before it, and how much of that the computer under this one had taken."""

    def begin(self, part: str) -> None:
        words = Path("/proc/stat").read_text().split("\n", 1)[0].split()[1:9]
        self.processors[part] = [sum(map(int, words)), int(words[7])]
        self.part = part

    def taken_away(self, part: str, following: str) -> float:
        """The share of the processors' time in a part that the computer under this one took for others (proc(5), “steal”)."""
        (begun, had), (ended, has) = self.processors[part], self.processors[following]
        return (has - had) / max(ended - begun, 1)

    def add(self, kind: str, status: int, taken_ms: float, said: str) -> None:
        with self.lock:
            if status >= 500 or status == 0:
                if self.part == "killing":
                    self.away[kind] = self.away.get(kind, 0) + 1
                else:
                    self.broken.setdefault(self.part, []).append(f"{kind}: {status} {said[:200]}")
            else:
                self.times_ms.setdefault((self.part, kind), []).append(taken_ms)


def picture(seed: int) -> bytes:
    """One megapixel of smooth muted colors with grain, as PNG: about as many distinct colors as a photograph of that size has."""
    numbers = np.random.default_rng(seed)
    small = numbers.integers(0, 256, (9, 9, 3), dtype=np.uint8)
    image = np.asarray(Image.fromarray(small, "RGB").resize((1200, 834), Image.Resampling.BICUBIC)).astype(np.float64)
    gray = image.mean(axis=2, keepdims=True)
    muted = gray + (image - gray) * 0.2 + numbers.integers(-2, 3, (834, 1200, 1))
    buffer = io.BytesIO()
    Image.fromarray(np.clip(np.rint(muted), 0, 255).astype(np.uint8), "RGB").save(buffer, "PNG", compress_level=1)
    return buffer.getvalue()


def cookie_of(name: str) -> str:
    """Signed in, without a password being looked at."""
    from django.contrib.auth import get_user_model
    from django.test import Client as Cookies

    artists = get_user_model()
    cookies = Cookies()
    cookies.force_login(artists.objects.filter(username=name).first() or artists.objects.create_user(name))
    return f"sessionid={cookies.cookies['sessionid'].value}; csrftoken={'a' * 32}"


def is_wrong(status: int) -> bool:
    """A 5xx that does not say that the server is busy, or no answer at all."""
    return status == 0 or (status >= 500 and status != 503)


class Artist(Client):
    """Works on one palette; knows the last edit that was acknowledged."""

    def __init__(self, port: int, number: int, notes: Notes) -> None:
        super().__init__(port, cookie_of(f"artist{number}"), notes.add)
        self.chance = random.Random(number)
        self.number = number
        self.steps = 0
        self.is_right = True

    def begin(self) -> None:
        _, answer = self.upload("upload", "/api/pictures", picture(self.number), "plate.png")
        self.picture = json.loads(answer)["id"]
        _, palette = self.json("reduction", "POST", "/api/palettes", {"picture": self.picture, "recipe": {"colors": 32}})
        self.palette, self.revision = palette["id"], palette["revision"]
        self.swatches = [swatch["id"] for swatch in palette["swatches"]]
        self.name = palette["name"]
        # Others begin after this one, and the proxy closes what is idle for long.
        if self.connection is not None:
            self.connection.close()
            self.connection = None

    def edit(self) -> None:
        """Rename the palette: its name is that of the last edit. An edit whose fate is unknown is asked for before the next."""
        self.steps += 1
        wanted = f"Plate {self.number}, step {self.steps}"
        operation = {"kind": "rename_palette", "name": wanted}
        body = {"base": self.revision, "operation": operation}
        status, palette = self.json("operation", "POST", f"/api/palettes/{self.palette}/operations", body)
        if status == 200:
            self.revision, self.name = palette["revision"], wanted
            return
        while True:
            status, palette = self.json("read", "GET", f"/api/palettes/{self.palette}")
            if status == 200:
                break
            time.sleep(0.5)
        if palette["name"] not in (self.name, wanted):
            self.is_right = False
        self.revision, self.name = palette["revision"], palette["name"]

    def act(self) -> None:
        kind = self.chance.random()
        if kind < 0.45:
            self.edit()
        elif kind < 0.53:
            # Colors are tuned to the dithers that mix: two of three.
            recipe = {"colors": self.chance.randint(8, 64), "dither": self.chance.choice(["none", "floyd-steinberg", "blue-noise"])}
            body = json.dumps({"picture": self.picture, "recipe": recipe}).encode()
            self.send("preview", "POST", f"/api/palettes/{self.palette}/previews", body)
        elif kind < 0.8:
            search = self.chance.choice(["", "?q=note", "?q=near%20%23c48a3a", "?sort=name"])
            self.send("read", "GET", "/api/shelf/palettes" + search)
        elif kind < 0.93:
            self.send("read", "GET", f"/api/palettes/{self.palette}")
        else:
            self.send("read", "GET", f"/api/palettes/{self.palette}/files/gpl")

    def work(self, ending: threading.Event) -> None:
        ending.wait(self.chance.random() * THINK_S)
        while not ending.is_set():
            self.act()
            ending.wait(THINK_S * self.chance.uniform(0.7, 1.3))


class Adversary:
    """A process of its own, so that what it prepares and sends takes nothing from the artists' clients."""

    def __init__(self, ports: list[int], cookie: str) -> None:
        words = [sys.executable, "-m", "bench.adversary", ",".join(map(str, ports)), cookie]
        self.process = subprocess.Popen(words, cwd=ROOT, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        assert self.process.stdout is not None
        if self.process.stdout.readline().strip() != "ready":
            raise SystemExit("The adversary could not prepare itself.")

    def begin(self) -> None:
        self._say("begin")

    def end(self) -> dict[str, list[tuple[int, float]]]:
        """What it sent, with the answers' statuses and seconds."""
        self._say("end")
        assert self.process.stdout is not None
        return dict(json.loads(self.process.stdout.readline() or "{}"))

    def _say(self, word: str) -> None:
        assert self.process.stdin is not None
        self.process.stdin.write(word + "\n")
        self.process.stdin.flush()


def workers_rss() -> dict[int, int]:
    """Resident bytes of each web worker process that this one has started, by its id."""
    found = {}
    for master in named(WEB, os.getpid()):
        for process in named(WEB, master):
            with contextlib.suppress(OSError, ValueError, IndexError):
                found[process] = int(Path(f"/proc/{process}/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")
    return found


def _kill(processes: Iterable[int]) -> None:
    """At once and without a word; one that is over already is no fault."""
    for process in processes:
        with contextlib.suppress(ProcessLookupError):
            os.kill(process, signal.SIGKILL)


@dataclass
class Memory:
    """Largest and latest resident bytes of the workers, sampled twice a second."""

    samples: list[tuple[float, int]] = field(default_factory=list)

    def watch(self, ending: threading.Event) -> None:
        while not ending.wait(0.5):
            found = workers_rss()
            if found:
                self.samples.append((time.monotonic(), max(found.values())))

    def by_minute(self) -> list[float]:
        """MiB of the largest worker, the median of each minute."""
        if not self.samples:
            return []
        begun = self.samples[0][0]
        minutes: dict[int, list[int]] = {}
        for when, size in self.samples:
            minutes.setdefault(int((when - begun) / 60), []).append(size)
        return [round(statistics.median(sizes) / 1048576) for _, sizes in sorted(minutes.items())]

    def peak_mib(self) -> float:
        return max((size for _, size in self.samples), default=0) / 1048576


def p95(times: list[float]) -> float:
    return sorted(times)[int(len(times) * 0.95)] if times else float("nan")


def _kill_each_once(cluster: Cluster) -> None:
    """A web worker, the job workers, and the database with all its processes, in turn."""
    _kill(list(workers_rss())[:1])
    time.sleep(4)
    _kill(named("manage.py work", os.getpid()))
    time.sleep(4)
    master = int((cluster.data / "postmaster.pid").read_text().splitlines()[0])
    # Asked for while their parent is there: afterwards nobody could tell whose they were.
    children = descendants(master)
    _kill([master])
    time.sleep(3)
    _kill(children)
    cluster.start_again()
    time.sleep(6)


@contextlib.contextmanager
def threads(targets: list[Any], ending: threading.Event) -> Iterator[None]:
    running = [threading.Thread(target=target, args=(ending,), daemon=True) for target in targets]
    for thread in running:
        thread.start()
    try:
        yield
    finally:
        ending.set()
        for thread in running:
            thread.join(timeout=200)


def main() -> int:
    parser = argparse.ArgumentParser(prog="./run soak", description=__doc__)
    parser.add_argument("--minutes", type=float, default=10)
    parser.add_argument("--clients", type=int, default=50)
    parser.add_argument("--write", action="store_true", help="put the table into docs/BENCHMARKS.md")
    options = parser.parse_args()
    django.setup()
    cluster = Cluster("soak-database", durable=True)
    cluster.port = int(os.environ["HUVREN_DB_PORT"])
    ports = [free_port(), free_port()]
    notes, memory = Notes(), Memory()
    with contextlib.ExitStack() as stack:
        for number in range(2):
            stack.enter_context(working(dict(os.environ), f"soak-worker-{number}"))
        for number, port in enumerate(ports):
            # Each has a half of this computer.
            threads_of_it = str(max(1, (os.cpu_count() or 1) // len(ports)))
            env = {**os.environ, "NUMBA_NUM_THREADS": threads_of_it}
            stack.enter_context(web(env, port, workers=1, log=f"soak-{number}"))
            wait_for(f"http://127.0.0.1:{port}", f"soak-{number}")
        notes.part = "beginning"
        artists = [Artist(ports[number % 2], number, notes) for number in range(options.clients)]
        for artist in artists:
            artist.begin()
        adversary = Adversary(ports, cookie_of("adversary"))
        over = threading.Event()
        with threads([memory.watch, *(artist.work for artist in artists)], over):
            third = options.minutes * 60 / 4
            print(f"{options.clients} artists at work", flush=True)
            time.sleep(5)
            notes.begin("calm")
            time.sleep(third)
            notes.begin("under attack")
            print("the adversary begins", flush=True)
            adversary.begin()
            time.sleep(third * 2.6)
            notes.nasty = adversary.end()
            notes.begin("killing")
            print("a worker, the job worker and the database are killed", flush=True)
            _kill_each_once(cluster)
            time.sleep(max(third * 0.4, 10))
        lost = [artist.name for artist in artists if not _is_kept(artist)]
    text = table(notes, memory, len(artists), options.minutes, lost)
    print(text)
    if options.write:
        _write(text)
    wrong = [line for lines in notes.broken.values() for line in lines]
    wrong += [f"the adversary, {name}: {status}" for name, tried in notes.nasty.items() for status, _ in tried if is_wrong(status)]
    for line in wrong[:20]:
        print(f"5xx or no answer: {line}")
    return 1 if wrong or lost else 0


def _is_kept(artist: Artist) -> bool:
    status, palette = artist.json("read", "GET", f"/api/palettes/{artist.palette}")
    return artist.is_right and status == 200 and palette["name"] == artist.name and palette["revision"] >= artist.revision


def table(notes: Notes, memory: Memory, clients: int, minutes: float, lost: list[str]) -> str:
    rows = ["| requests | calm: p50, p95 | under attack: p50, p95 | may be | |", "|---|---:|---:|---:|---|"]
    for kind, most in LIMITS_MS.items():
        cells = []
        for part in ("calm", "under attack"):
            times = notes.times_ms.get((part, kind), [])
            cells.append(f"{statistics.median(times):.0f}, {p95(times):.0f} ms ({len(times):,})" if times else "none")
        over = p95(notes.times_ms.get(("under attack", kind), [])) > most
        rows.append(f"| {kind} | {cells[0]} | {cells[1]} | {most} ms | {'over' if over else ''} |")
    seen = ", ".join(f"{size:.0f}" for size in memory.by_minute())
    taken = notes.taken_away("calm", "under attack"), notes.taken_away("under attack", "killing")
    rows += [
        "",
        f"{clients} artists, {minutes:g} minutes, two servers with a process each, two workers. Answers of 500 and above, or none: "
        f"{sum(map(len, notes.broken.values()))} before the killing; 503 or none while it went on: {sum(notes.away.values())}. "
        f"Acknowledged edits lost: {len(lost)}. "
        f"The computer under this one took for others {taken[0]:.0%} of the processors while it was calm "
        f"and {taken[1]:.0%} under attack. "
        f"The largest worker, MiB, median of each minute: {seen}; peak {memory.peak_mib():.0f}.",
        "",
        "| the adversary sent | answers | longest |", "|---|---|---:|",
    ]  # fmt: skip
    for name in NASTY:
        tried = notes.nasty.get(name, [])
        if tried:
            statuses = ", ".join(f"{status}" for status in sorted({status for status, _ in tried}))
            rows.append(f"| {name} | {statuses} ({len(tried)}) | {max(taken for _, taken in tried):.1f} s |")
    return "\n".join(rows)


BEGIN, END = "<!-- soak -->", "<!-- end of soak -->"


def _write(text: str) -> None:
    file = ROOT / "docs" / "BENCHMARKS.md"
    before, _, rest = file.read_text().partition(BEGIN)
    _, _, after = rest.partition(END)
    file.write_text(f"{before}{BEGIN}\n{text}\n{END}{after}")


if __name__ == "__main__":
    sys.exit(main())
