"""As fast as hands: what the interface takes for a press, by the browser's own measure of its events and of its longest tasks."""

import io
import os
import random
import statistics
import subprocess
from collections.abc import Callable
from typing import Any

import numpy as np
from PIL import Image
from playwright.sync_api import Page, sync_playwright

from tools.postgres import free_port
from tools.serving import wait_for, web, working
from tools.steps import PYTHON, ROOT

CHROMIUM = "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-sync"
CARDS = 10_000
LISTEN = """() => {
  window.events = []; window.tasks = [];
  new PerformanceObserver((list) => events.push(...list.getEntries().map((entry) => entry.duration)))
    .observe({ type: 'event', durationThreshold: 16 });
  new PerformanceObserver((list) => tasks.push(...list.getEntries().map((entry) => entry.duration))).observe({ type: 'longtask' });
}"""
SEEN = """() => {
  const strip = document.getElementById('strip-list').getBoundingClientRect();
  return [...document.querySelectorAll('#strip-list [role=option]')].map((cell) => cell.getBoundingClientRect())
    .filter((cell) => cell.top >= strip.top && cell.bottom <= strip.bottom)
    .map(({ x, y, width, height }) => [x + width / 2, y + height / 2]);
}"""
WATCH_MOVE = """() => {
  const place = () => document.querySelector('#strip-list [aria-selected=true]')?.getAttribute('data-index');
  const before = place();
  window.pressed = window.seen = 0;
  document.addEventListener('keydown', (event) => { window.pressed = event.timeStamp; }, { once: true, capture: true });
  new MutationObserver((_, watch) => {
    if (place() === before) return;
    watch.disconnect();
    requestAnimationFrame((now) => { window.seen = now; });
  }).observe(document.getElementById('strip-list'), { subtree: true, childList: true, attributes: true });
}"""
POST = """async ([path, body]) => (await fetch('/api' + path, { method: 'POST', body: JSON.stringify(body), headers: {
  'Content-Type': 'application/json', 'X-CSRFToken': document.cookie.match(/csrftoken=([^;]+)/)?.[1] ?? '' } })).json()"""
FILL = f"""
from uuid import uuid4
from huvren.studio.models import Palette
row = Palette.objects.filter(count__lt=200).order_by("-count").first()
fields = {{field.attname: getattr(row, field.attname) for field in Palette._meta.concrete_fields}}
Palette.objects.bulk_create([Palette(**fields | {{"id": uuid4(), "name": f"Sheet {{n}}"}}) for n in range({CARDS})], batch_size=1000)
"""


class Hands:
    """One window, and rows of what it takes."""

    def __init__(self, page: Page, report: Callable[..., None]) -> None:
        self.page, self.report = page, report

    def listen(self) -> None:
        self.page.evaluate(LISTEN)

    def median(self, what: str, budget_ms: float, act: Callable[[int], object], times: int = 9, rest_ms: int = 600) -> None:
        """Presses with rests between them; of each the longest event. Events under 16 ms are not told and count as 16."""
        taken = []
        for turn in range(times):
            self.page.evaluate("events.length = 0")
            act(turn)
            self.page.wait_for_timeout(rest_ms)
            taken.append(max([16.0, *self.page.evaluate("events")]))
        median = statistics.median(taken)
        self.report(f"{what} / {budget_ms:g} ms", f"{median:.0f} ms, worst {max(taken):.0f}", median / budget_ms, 1.0, timed=True)

    def longest(self, what: str, budget_ms: float, act: Callable[[], object]) -> None:
        """The longest task of the page's own thread while something goes on."""
        self.page.evaluate("tasks.length = 0")
        act()
        self.page.wait_for_timeout(300)
        worst = max([0.0, *self.page.evaluate("tasks")])
        self.report(f"{what}, longest task / {budget_ms:g} ms", f"{worst:.0f} ms", worst / budget_ms, 1.0, timed=True)

    def click(self, turn: int) -> None:
        cells = self.page.evaluate(SEEN)
        self.page.mouse.click(*cells[(3 + turn * 5) % len(cells)])

    def move(self, what: str, budget_ms: float, times: int = 7) -> None:
        """From the press until the strip shows the swatch at its new place: the press alone is over when the step is sent."""
        taken = []
        for _ in range(times):
            self.page.evaluate(WATCH_MOVE)
            self.page.keyboard.press("Control+ArrowRight")
            self.page.wait_for_function("() => window.seen > 0")
            taken.append(self.page.evaluate("window.seen - window.pressed"))
            self.page.wait_for_timeout(1500)
        median = statistics.median(taken)
        self.report(f"{what} / {budget_ms:g} ms", f"{median:.0f} ms, worst {max(taken):.0f}", median / budget_ms, 1.0, timed=True)

    def rename(self, turn: int) -> None:
        self.page.keyboard.press("F2")
        self.page.wait_for_timeout(150)
        self.page.keyboard.type(f"N{turn}")
        self.page.keyboard.press("Enter")

    def view(self, name: str) -> None:
        self.page.get_by_role("tab", name=name, exact=True).click()

    def post(self, path: str, body: dict[str, Any]) -> Any:
        return self.page.evaluate(POST, [path, body])


def _many(hands: Hands, count: int, budget_ms: float) -> None:
    page, press = hands.page, hands.page.keyboard.press
    codes = [f"#{value:06x}" for value in random.Random(count).sample(range(1 << 24), count)]
    palette = hands.post("/palettes", {"name": f"Large {count}"})
    for begin in range(0, count, 1024):
        operation = {"kind": "add_swatches", "text": "\n".join(codes[begin : begin + 1024])}
        palette = hands.post(f"/palettes/{palette['id']}/operations", {"base": palette["revision"], "operation": operation})
    page.goto(f"/palettes/{palette['id']}?stage=arrange")
    page.get_by_role("option").first.wait_for()
    page.wait_for_timeout(2500)
    hands.listen()
    what = f"{count:,} swatches, "
    hands.median(f"{what}select", budget_ms, hands.click)
    hands.median(f"{what}arrow key", budget_ms, lambda turn: press("ArrowRight"))
    hands.median(f"{what}rename", budget_ms, hands.rename, 5, 1500)
    hands.click(0)
    hands.move(f"{what}move, until it is seen", budget_ms)

    def everything(turn: int) -> None:
        hands.click(turn)
        page.wait_for_timeout(800)
        page.evaluate("events.length = 0")
        press("Control+a")

    hands.median(f"{what}select all", 150, everything, 5, 1200)

    def map_view(turn: int) -> None:
        hands.view("List")
        page.wait_for_timeout(800)
        page.evaluate("events.length = 0")
        hands.view("Map")

    hands.median(f"{what}map", 300, map_view, 5, 1200)


def _large(hands: Hands) -> None:
    page = hands.page
    y, x = np.mgrid[0:4000, 0:6000].astype(np.float32)
    waves = [np.sin(x / 700 + y / 900), np.cos(x / 500), np.sin(y / 400)]
    rgb = 127 + 120 * np.stack(waves, axis=-1) + np.random.default_rng(1).normal(0, 9, (4000, 6000, 1))
    file = io.BytesIO()
    Image.fromarray(np.clip(rgb, 0, 255).astype(np.uint8)).save(file, "JPEG", quality=90)
    page.goto("/")
    page.locator("input[type=file]").first.set_input_files({"name": "Large.jpg", "mimeType": "image/jpeg", "buffer": file.getvalue()})
    page.wait_for_url("**/palettes/*", timeout=120_000)
    page.get_by_role("option").first.wait_for()
    page.wait_for_timeout(9000)
    hands.listen()
    hands.median("24 MP picture, select", 100, hands.click, rest_ms=1500)

    def drag() -> None:
        box = page.get_by_role("slider", name="Hue").first.bounding_box()
        assert box
        across, down = box["x"] + box["width"] * 0.8, box["y"] + box["height"] / 2
        page.mouse.move(across, down)
        page.mouse.down()
        for step in range(40):
            page.mouse.move(across - step * 2, down)
            page.wait_for_timeout(30)
        page.mouse.up()

    hands.longest("24 MP picture, dragging the hue", 100, drag)


def _shelf(hands: Hands) -> None:
    page = hands.page
    page.goto("/")
    page.get_by_text("Sheet 9999").first.wait_for(timeout=60_000)
    page.wait_for_timeout(3000)
    hands.listen()
    page.mouse.move(600, 500)

    def scroll() -> None:
        for _ in range(60):
            page.mouse.wheel(0, 300)
            page.wait_for_timeout(60)

    hands.longest(f"shelf of {CARDS:,} cards, scrolled at 5,000 px a second", 50, scroll)


def _elsewhere(report: Callable[..., None], first: Page, second: Page) -> None:
    """From the press until the step is drawn at another browser."""
    hands = Hands(first, report)
    first.goto("/")
    first.get_by_role("button", name="New palette").wait_for()
    palette = hands.post("/palettes", {"name": "Shared", "text": "#102030"})
    second.goto(f"/palettes/{palette['id']}")
    second.get_by_role("option").first.wait_for()
    second.wait_for_timeout(1500)
    taken = []
    for turn in range(9):
        second.evaluate(
            """(count) => { window.seen = 0; new MutationObserver((_, watch) => {
                 if (document.querySelectorAll('#strip-list [role=option]').length < count) return;
                 watch.disconnect(); requestAnimationFrame(() => { window.seen = Date.now(); });
               }).observe(document.body, { childList: true, subtree: true }); }""",
            turn + 2,
        )
        operation = {"kind": "add_swatches", "text": f"#{turn:02x}8040"}
        made = first.evaluate("Date.now()")
        palette = hands.post(f"/palettes/{palette['id']}/operations", {"base": palette["revision"], "operation": operation})
        second.wait_for_function("() => window.seen > 0")
        taken.append(second.evaluate("window.seen") - made)
    median = statistics.median(taken)
    report("a step seen at another browser / 1,000 ms", f"{median:.0f} ms, worst {max(taken):.0f}", median / 1000, 1.0, timed=True)


def measure(report: Callable[..., None]) -> None:
    """Start the server, with a worker, on the benchmarks' database, and press."""
    port = free_port()
    env = {**os.environ, "HUVREN_DEMO": "1", "HUVREN_RATES": "0", "HUVREN_QUOTA_PALETTES": str(2 * CARDS)}
    for words in (["migrate", "--noinput"], ["load_demo"], ["shell", "-c", FILL]):
        subprocess.run([PYTHON, ROOT / "manage.py", *words], env=env, check=True, stdout=subprocess.DEVNULL)
    with working(env, log="bench-worker"), web(env, port, workers=1, log="bench"), sync_playwright() as playwright:
        base = f"http://127.0.0.1:{port}"
        wait_for(base, "bench")
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM.split())
        size: Any = {"width": 1280, "height": 800}
        hands = Hands(browser.new_context(viewport=size, base_url=base).new_page(), report)
        other = browser.new_context(viewport=size, base_url=base).new_page()
        _elsewhere(report, hands.page, other)
        other.context.close()
        _shelf(hands)
        _many(hands, 1024, 100)
        _many(hands, 4096, 200)
        _large(hands)
        browser.close()
