"""The served application: a palette operation over HTTP, and a preview from the key press to pixels."""

import io
import json
import os
import random
import statistics
import subprocess
import time
import urllib.request
from collections.abc import Callable
from http.cookiejar import CookieJar
from typing import Any

from PIL import Image
from playwright.sync_api import sync_playwright

from bench import checks, ramps, scale
from tools.postgres import free_port
from tools.serving import wait_for, web
from tools.steps import PYTHON, ROOT

CHROMIUM = "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-sync"

TO_PIXELS = """() => new Promise((done) => {
  const field = document.querySelector('input[aria-label="Number of colors"]');
  const strip = document.querySelector('[role=listbox]');
  const count = strip.querySelectorAll('[role=option]').length;
  field.focus();
  const begun = performance.now();
  const watch = new MutationObserver(() => {
    if (strip.querySelectorAll('[role=option]').length === count) return;
    watch.disconnect();
    requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - begun)));
  });
  watch.observe(strip, { childList: true, subtree: true });
  field.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowUp", bubbles: true, cancelable: true }));
})"""


TO_TUNED = """() => new Promise((done) => {
  const field = document.querySelector('input[aria-label="Number of colors"]');
  const strip = document.querySelector('[role=listbox]');
  const count = strip.querySelectorAll('[role=option]').length;
  field.focus();
  const begun = performance.now();
  let first = 0;
  const look = () => {
    if (!first && strip.querySelectorAll('[role=option]').length !== count) first = performance.now() - begun;
    if (first && !document.querySelector('[role=progressbar][aria-label=Reducing]')) done([first, performance.now() - begun]);
    else requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
  field.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowUp", bubbles: true, cancelable: true }));
})"""


class _Session:
    """A visitor signed in by the demo setting."""

    def __init__(self, base: str) -> None:
        self.base = base
        self.jar = CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.opener.open(base + "/")

    def post(self, path: str, body: bytes, kind: str = "application/json") -> Any:
        return json.loads(self.send(path, body, kind))

    def send(self, path: str, body: bytes, kind: str = "application/json") -> bytes:
        """The answer's bytes, to the last of them."""
        token = next(cookie.value for cookie in self.jar if cookie.name == "csrftoken")
        headers = {"Content-Type": kind, "X-CSRFToken": token or "", "Origin": self.base}
        return bytes(self.opener.open(urllib.request.Request(self.base + path, body, headers)).read())

    def upload(self, data: bytes) -> Any:
        edge = "----edge"
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="two.png"\r\nContent-Type: image/png\r\n\r\n'
        return self.post(
            "/api/pictures", head.encode() + data + f"\r\n--{edge}--\r\n".encode(), f"multipart/form-data; boundary={edge}"
        )


def measure(report: Callable[..., None], image: Image.Image) -> None:
    """Start the server on the benchmarks' database and measure against it."""
    port = free_port()
    env = {**os.environ, "HUVREN_DEMO": "1", "HUVREN_RATES": "0", "HUVREN_QUOTA_PALETTES": str(2 * SHELF)}
    for words in (["migrate", "--noinput"], ["load_demo"]):
        subprocess.run([PYTHON, ROOT / "manage.py", *words], env=env, check=True, stdout=subprocess.DEVNULL)
    with web(env, port, workers=1, log="bench"):
        base = f"http://127.0.0.1:{port}"
        wait_for(base, "bench")
        session = _Session(base)
        _operations(report, session)
        _shelf(report, session)
        buffer = io.BytesIO()
        image.save(buffer, "PNG")
        picture = session.upload(buffer.getvalue())
        palette = session.post("/api/palettes", json.dumps({"picture": picture["id"], "recipe": {"colors": 24}}).encode())
        _preview(report, base, palette["id"])
        _many(report, base, palette["id"])


def _operations(report: Callable[..., None], session: _Session) -> None:
    text = " ".join(f"#{n:02x}{255 - n:02x}{n * 7 % 256:02x}" for n in range(256))
    palette = session.post("/api/palettes", json.dumps({"text": text}).encode())
    times = []
    for step in range(60):
        operation = {"kind": "move_swatches", "ids": [palette["swatches"][step * 3]["id"]], "to": (step * 37) % 256}
        body = json.dumps({"base": palette["revision"], "operation": operation}).encode()
        begun = time.perf_counter()
        answer = session.send(f"/api/palettes/{palette['id']}/operations", body)
        times.append((time.perf_counter() - begun) * 1e3)
        palette = json.loads(answer)
    median = statistics.median(times)
    report("operation over HTTP, 256 swatches / 30 ms", f"{median:.1f} ms", median / 30, 1.0, timed=True)


SHELF = 10_000
PAGES = {
    "first page": ("/api/shelf/palettes", 60), "sorted by name": ("/api/shelf/palettes?sort=name", 60),
    "two words in names of swatches": ("/api/shelf/palettes?q=reed%2055", 100),
    "a word that nothing has": ("/api/shelf/palettes?q=nothinglikeit", 100), "a tag": ("/api/shelf/palettes?q=tag:press", 100),
    "nearness to a color": ("/api/shelf/palettes?q=near%20%23c48a3a", 100),
    "nearness to a color within 2": ("/api/shelf/palettes?q=near%20%23c48a3a%20within%202", 100),
}  # fmt: skip
"""What is asked of it, and milliseconds."""
MULTIPLY = f"""
INSERT INTO studio_palette (id, owner_id, name, head, tags, count, strip, colors, searched, tag_words, sort_key, painted, favorite,
                            bytes, created, updated)
SELECT gen_random_uuid(), p.owner_id, p.name || n, p.head, p.tags, p.count, p.strip, p.colors, p.searched || n, p.tag_words,
       p.sort_key || n, p.painted, n % 20 = 0, p.bytes, p.created, p.updated + n * interval '1 second'
FROM studio_palette p, generate_series(1, 40) n WHERE p.name LIKE 'Reeds %' LIMIT {SHELF}
"""


def _shelf(report: Callable[..., None], session: _Session) -> None:
    """A page and searches of ten thousand palettes of 64 swatches: 250 by chance, and their copies."""
    chance = random.Random(6)
    for number in range(SHELF // 40):
        base = [chance.randrange(40, 216) for _ in range(3)]
        colors = [[min(255, max(0, channel + chance.randrange(-60, 60))) for channel in base] for _ in range(64)]
        text = "\n".join(f"Reed {chance.randrange(9999)} #{red:02x}{green:02x}{blue:02x}" for red, green, blue in colors)
        palette = session.post("/api/palettes", json.dumps({"name": f"Reeds {number}", "text": text}).encode())
        if number % 3:
            operation = {"base": palette["revision"], "operation": {"kind": "tag_palette", "tags": ["press"]}}
            session.post(f"/api/palettes/{palette['id']}/operations", json.dumps(operation).encode())
    script = f"from django.db import connection; connection.cursor().execute({MULTIPLY!r})"
    words = [PYTHON, ROOT / "manage.py", "shell", "-v", "0", "-c", script]
    subprocess.run(words, env={**os.environ, "HUVREN_DEMO": "1"}, check=True)
    for what, (path, goal_ms) in PAGES.items():
        times = []
        for _ in range(11):
            begun = time.perf_counter()
            answer = session.opener.open(session.base + path).read()
            times.append((time.perf_counter() - begun) * 1e3)
        assert json.loads(answer)["all"] >= SHELF
        median = statistics.median(times)
        report(f"shelf of 10,000 × 64, {what} / {goal_ms} ms", f"{median:.0f} ms", median / goal_ms, 1.0, timed=True)
        if what == "first page":
            report("shelf of 10,000 × 64, bytes of a first page / 60 KB", f"{len(answer) / 1e3:.0f} KB", len(answer) / 60e3, 1.0)


def _many(report: Callable[..., None], base: str, palette: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM.split())
        ramps.in_browser(report, browser.new_page(viewport={"width": 1280, "height": 800}), base)
        checks.in_browser(report, browser.new_page(viewport={"width": 1280, "height": 800}), base, palette)
        scale.in_browser(report, browser.new_page(viewport={"width": 1280, "height": 800}), base)
        browser.close()


def _preview(report: Callable[..., None], base: str, palette: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM.split())
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{base}/palettes/{palette}")
        page.get_by_role("slider", name="Divider between original and result").wait_for()
        page.wait_for_timeout(2500)
        times = [page.evaluate(TO_PIXELS) for _ in range(25)][3:]
        page.get_by_role("button", name="Dither: ").click()
        page.get_by_role("radio", name="Floyd–Steinberg").check()
        page.keyboard.press("Escape")
        page.wait_for_timeout(4000)
        tuned = [page.evaluate(TO_TUNED) for _ in range(18)][3:]
        browser.close()
    median = statistics.median(times)
    report("preview, 2 MP, key press to pixels / 100 ms", f"{median:.0f} ms", median / 100, 1.0, timed=True)
    first, last = (statistics.median(column) for column in zip(*tuned, strict=True))
    report("preview, 2 MP, dithered: as chosen, at first / 120 ms", f"{first:.0f} ms", first / 120, 1.0, timed=True)
    report("preview, 2 MP, dithered: tuned / 300 ms", f"{last:.0f} ms", last / 300, 1.0, timed=True)
