"""Ramps: how long many steps take, how even made ramps are beside colormaps of Matplotlib, and a stop moved in the browser."""

import statistics
import time
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import matplotlib as mpl
import numpy as np

from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.ramp.curves import CURVES
from huvren.core.ramp.makers import make
from huvren.core.ramp.plan import plain_only
from huvren.core.ramp.profile import evenness
from huvren.core.ramp.spacings import SPACINGS
from huvren.core.ramp.stops import Stop
from huvren.core.ramp.values import Ramp
from huvren.core.ramp.ways import Lane

LANES = 5

TO_PIXELS = """(key) => new Promise((done) => {
  const stop = [...document.querySelectorAll('[role=slider][aria-label^="Position of"]')][1];
  stop.focus();
  const kind = CanvasRenderingContext2D.prototype;
  const put = kind.putImageData;
  const begun = performance.now();
  let painted = 0;
  kind.putImageData = function (...given) {
    put.apply(this, given);
    if (++painted < LANES) return;
    kind.putImageData = put;
    requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - begun)));
  };
  stop.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true }));
})""".replace("LANES", str(LANES))


def measure(report: Callable[..., None]) -> None:
    """In the core."""
    rng = np.random.default_rng(1)
    stops = tuple(Stop(parse_color("#{:02x}{:02x}{:02x}".format(*rng.integers(0, 256, 3)))) for _ in range(64))
    slowest = 0.0
    for spacing in SPACINGS:
        for curve in CURVES:
            times = []
            for _ in range(15):
                ramp = Ramp(stops, Lane.of("oklab"), spacing, curve)
                begun = time.perf_counter()
                ramp.shown(ramp.shares(1024))
                times.append(time.perf_counter() - begun)
            slowest = max(slowest, statistics.median(times[3:]))
    report("ramp, 1,024 steps over 64 stops, slowest of all / 5 ms", f"{slowest * 1e3:.2f} ms", slowest / 0.005, 1.0, timed=True)
    few = tuple(Stop(parse_color(code)) for code in ("#262b5c", "#2bb5a0", "#ffd478"))
    shares = np.linspace(0, 1, 256)
    begun = time.perf_counter()
    for _ in range(1000):
        Ramp(few, Lane.of("oklab")).shown(shares)
    spent = time.perf_counter() - begun
    report("ramps, 1,000 of 256 steps / 1 s", f"{spent * 1e3:.0f} ms", spent, 1.0, timed=True)
    smooth = Ramp(few[::2], Lane.of("oklab"), SPACINGS["even"])
    report("even spacing, 256 steps, largest / mean step", "", evenness(smooth, 256).exact, 1.02)
    corner = replace(smooth, stops=few)
    report("even spacing with a corner, largest / mean step", "", evenness(corner, 256).exact, 1.10)
    (plan,) = make("sequential", [stop.color for stop in few], {}, None)
    made = plan.ramp(plain_only)
    for name in ("viridis", "cividis"):
        for steps in (64, 256):
            rows = np.floor(mpl.colormaps[name](np.linspace(0, 1, steps))[:, :3] * 255 + 0.5) / 255
            gaps = np.linalg.norm(np.diff(convert(rows, "srgb", "oklab"), axis=0), axis=1)
            theirs, ours = float(gaps.max() / gaps.mean()), evenness(made, steps).rounded
            report(f"made sequential / {name}, evenness of {steps} rounded steps", f"{ours:.2f} / {theirs:.2f}", ours / theirs, 1.0)


def in_browser(report: Callable[..., None], page: Any, base: str) -> None:
    """A stop moved by a key, to the pixels of all lanes."""
    page.goto(base)
    found = "async () => (await (await fetch('/api/shelf/palettes?q=\"dusk to lamp\"')).json()).cards[0].id"
    page.goto(f"{base}/palettes/{page.evaluate(found)}")
    page.get_by_role("option").first.wait_for()
    page.keyboard.press("4")
    track = page.get_by_role("slider", name="Position of Dusk")
    track.wait_for()
    box = track.bounding_box()
    page.mouse.click(box["x"] + 200, box["y"] + box["height"] / 2)
    page.wait_for_timeout(2500)
    times = [page.evaluate(TO_PIXELS, "ArrowRight" if turn % 2 else "ArrowLeft") for turn in range(31)][5:]
    median = statistics.median(times)
    report(f"ramp, a stop moved to the pixels of {LANES} lanes / 50 ms", f"{median:.0f} ms", median / 50, 1.0, timed=True)
