"""Artists at work on a served application, with one adversary among them: `./run soak --minutes 10 --clients 50`.

Everything is on loopback. Each artist has a picture of one megapixel and a palette, thinks for a second between two requests,
and remembers every edit that was acknowledged. After a calm part the adversary begins: it sends what once held or filled a server,
in turn and without a pause, and keeps two hundred slow connections open. In the last part a worker process, the job worker and the
database are killed once each. In the end every palette is looked at again: an acknowledged edit that is not there is a failure.
"""

import argparse
import contextlib
import http.client
import io
import json
import os
import random
import signal
import socket
import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import django
import numpy as np
from PIL import Image

from bench.adversary import NASTY, nasty_requests
from tools.postgres import Cluster, free_port
from tools.serving import wait_for, web, working
from tools.steps import ROOT

THINK_S = 1.0
SLOW_CONNECTIONS = 200
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

    def add(self, kind: str, status: int, taken_ms: float, said: str) -> None:
        with self.lock:
            if status >= 500 or status == 0:
                if self.part == "killing":
                    self.away[kind] = self.away.get(kind, 0) + 1
                else:
                    self.broken.setdefault(self.part, []).append(f"{kind}: {status} {said[:200]}")
            else:
                self.times_ms.setdefault((self.part, kind), []).append(taken_ms)


class Client:
    """One signed-in visitor with one connection."""

    def __init__(self, port: int, name: str, notes: Notes) -> None:
        from django.contrib.auth import get_user_model
        from django.test import Client as Cookies

        self.port, self.notes = port, notes
        artists = get_user_model()
        self.user = artists.objects.filter(username=name).first() or artists.objects.create_user(name)
        cookies = Cookies()
        cookies.force_login(self.user)
        self.cookie = f"sessionid={cookies.cookies['sessionid'].value}; csrftoken={'a' * 32}"
        self.connection: http.client.HTTPConnection | None = None

    def send(
        self, kind: str, method: str, path: str, body: bytes | None = None, media: str = "application/json"
    ) -> tuple[int, bytes]:
        headers = {"Cookie": self.cookie, "X-CSRFToken": "a" * 32, "Content-Type": media}
        begun = time.perf_counter()
        status, answer = 0, b""
        for attempt in (1, 2):
            if self.connection is None:
                self.connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=180)
            try:
                self.connection.request(method, path, body, headers)
                response = self.connection.getresponse()
                status, answer = response.status, response.read()
                break
            except (OSError, http.client.HTTPException) as error:
                answer = repr(error).encode()
                self.connection.close()
                self.connection = None
                if attempt == 2 or method != "GET":
                    break
        self.notes.add(kind, status, (time.perf_counter() - begun) * 1e3, answer[:200].decode("utf-8", "replace"))
        return status, answer

    def json(self, kind: str, method: str, path: str, body: Any = None) -> tuple[int, Any]:
        status, answer = self.send(kind, method, path, None if body is None else json.dumps(body).encode())
        try:
            return status, json.loads(answer)
        except ValueError:
            return status, None

    def upload(self, kind: str, path: str, data: bytes, name: str) -> tuple[int, bytes]:
        edge = "----edge"
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\nContent-Type: image/png\r\n\r\n'
        body = head.encode() + data + f"\r\n--{edge}--\r\n".encode()
        return self.send(kind, "POST", path, body, f"multipart/form-data; boundary={edge}")


def picture(seed: int) -> bytes:
    """One megapixel of smooth colors with grain, as PNG."""
    random_numbers = np.random.default_rng(seed)
    small = random_numbers.integers(0, 256, (9, 9, 3), dtype=np.uint8)
    image = np.asarray(Image.fromarray(small, "RGB").resize((1200, 834), Image.Resampling.BICUBIC)).astype(np.int16)
    grained = np.clip(image + random_numbers.integers(-6, 7, image.shape), 0, 255).astype(np.uint8)
    buffer = io.BytesIO()
    Image.fromarray(grained, "RGB").save(buffer, "PNG", compress_level=1)
    return buffer.getvalue()


class Artist(Client):
    """Works on one palette; knows the last edit that was acknowledged."""

    def __init__(self, port: int, number: int, notes: Notes) -> None:
        super().__init__(port, f"artist{number}", notes)
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
        elif kind < 0.65:
            recipe = {"colors": self.chance.randint(8, 64), "dither": self.chance.choice(["none", "floyd-steinberg", "blue-noise"])}
            body = json.dumps({"picture": self.picture, "recipe": recipe}).encode()
            self.send("preview", "POST", f"/api/palettes/{self.palette}/previews", body)
        elif kind < 0.8:
            self.send("read", "GET", "/api/shelf")
        elif kind < 0.93:
            self.send("read", "GET", f"/api/palettes/{self.palette}")
        else:
            self.send("read", "GET", f"/api/palettes/{self.palette}/files/gpl")

    def work(self, ending: threading.Event) -> None:
        ending.wait(self.chance.random() * THINK_S)
        while not ending.is_set():
            self.act()
            ending.wait(THINK_S * self.chance.uniform(0.7, 1.3))


class Adversary(Client):
    """Sends what is bad for a server, one after the other, and keeps slow connections open."""

    def attack(self, ending: threading.Event) -> None:
        with contextlib.ExitStack() as stack:
            for _ in range(SLOW_CONNECTIONS):
                slow = stack.enter_context(socket.create_connection(("127.0.0.1", self.port)))
                head = f"POST /api/palettes HTTP/1.1\r\nHost: 127.0.0.1:{self.port}\r\nCookie: {self.cookie}\r\nContent-Length: 5000"
                slow.sendall(head.encode() + b'\r\n\r\n{"name":"')
            requests = list(nasty_requests(self))
            while not ending.is_set():
                for name, send in requests:
                    if ending.is_set():
                        break
                    begun = time.perf_counter()
                    status, answer = send()
                    taken = time.perf_counter() - begun
                    with self.notes.lock:
                        self.notes.nasty.setdefault(name, []).append((status, taken))
                    if status >= 500 and status != 503:
                        self.notes.broken.setdefault("adversary", []).append(f"{name}: {status} {answer[:200]!r}")


def workers_rss() -> dict[int, int]:
    """Resident bytes of each web worker process, by its id."""
    found = {}
    listed = subprocess.run(["pgrep", "-f", "gunicorn huvren.site.wsgi"], capture_output=True, text=True).stdout.split()
    ids = {int(word) for word in listed}
    for process in ids:
        with contextlib.suppress(OSError, ValueError, IndexError):
            parent = int(Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()[1])
            if parent in ids:
                found[process] = int(Path(f"/proc/{process}/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")
    return found


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
    """A web worker, the job worker, and the database with all its processes, in turn."""
    for process in list(workers_rss())[:1]:
        os.kill(process, signal.SIGKILL)
    time.sleep(4)
    subprocess.run(["pkill", "-KILL", "-f", "manage.py work"])
    time.sleep(4)
    master = int((cluster.data / "postmaster.pid").read_text().splitlines()[0])
    os.kill(master, signal.SIGKILL)
    time.sleep(3)
    subprocess.run(["pkill", "-KILL", "-f", f"postgres.*{cluster.port}"])
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
    port = free_port()
    notes, memory = Notes(), Memory()
    with working(dict(os.environ), "soak-worker"), web(dict(os.environ), port, workers=2, log="soak") as proxy:
        wait_for(f"http://127.0.0.1:{port}/api/ready", proxy, "soak")
        notes.part = "beginning"
        artists = [Artist(port, number, notes) for number in range(options.clients)]
        for artist in artists:
            artist.begin()
        ending, over = threading.Event(), threading.Event()
        with threads([memory.watch, *(artist.work for artist in artists)], over):
            third = options.minutes * 60 / 4
            print(f"{options.clients} artists at work", flush=True)
            time.sleep(5)
            notes.part = "calm"
            time.sleep(third)
            notes.part = "under attack"
            print("the adversary begins", flush=True)
            with threads([Adversary(port, "adversary", notes).attack], ending):
                time.sleep(third * 2.6)
            notes.part = "killing"
            print("a worker, the job worker and the database are killed", flush=True)
            _kill_each_once(cluster)
            time.sleep(max(third * 0.4, 10))
        lost = [artist.name for artist in artists if not _is_kept(artist)]
    text = table(notes, memory, len(artists), options.minutes, lost)
    print(text)
    if options.write:
        _write(text)
    wrong = [line for lines in notes.broken.values() for line in lines]
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
    rows += [
        "",
        f"{clients} artists, {minutes:g} minutes, two worker processes. Answers of 500 and above, or none: "
        f"{sum(map(len, notes.broken.values()))} before the killing; 503 or none while it went on: {sum(notes.away.values())}. "
        f"Acknowledged edits lost: {len(lost)}. "
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
