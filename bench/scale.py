"""Large palettes: merging thousands of swatches, and twenty thousand of them in the browser."""

import statistics
import time
from collections.abc import Callable

import numpy as np
from playwright.sync_api import Page

from huvren.core.color.value import Color
from huvren.core.palette.operations.merge import MergeNearTwins
from huvren.core.palette.operations.sort import SmoothOrder
from huvren.core.palette.values import Palette, Swatch

MERGED, SHOWN = 4096, 20_000
STALL_MS = 200
ROUNDS = 3
WATCH = """() => {
  window.stalls = [];
  new PerformanceObserver((list) => window.stalls.push(...list.getEntries().map((entry) => entry.duration)))
    .observe({ type: "longtask", buffered: false });
}"""


def random_palette(count: int) -> Palette:
    channels = np.random.default_rng(1).integers(0, 256, (count, 3)).tolist()
    return Palette("Many", tuple(Swatch(Color.from_bytes(*rgb), f"Swatch {n}") for n, rgb in enumerate(channels)))


def measure(report: Callable[..., None]) -> None:
    """Merging 4,096 swatches within a tolerance, and laying 1,024 along a smooth path."""
    palette = random_palette(MERGED)
    MergeNearTwins(tolerance=4).apply(random_palette(64))
    begun = time.perf_counter()
    left = len(MergeNearTwins(tolerance=4).apply(palette).palette.swatches)
    seconds = time.perf_counter() - begun
    report(f"merge {MERGED:,} swatches within ΔE 4, to {left:,} / 2 s", f"{seconds * 1e3:.0f} ms", seconds / 2, 1.0, timed=True)
    SmoothOrder().apply(random_palette(64))
    begun = time.perf_counter()
    SmoothOrder().apply(random_palette(1024))
    seconds = time.perf_counter() - begun
    report("smooth order of 1,024 swatches / 2 s", f"{seconds * 1e3:.0f} ms", seconds / 2, 1.0, timed=True)


def in_browser(report: Callable[..., None], page: Page, base: str) -> None:
    """The longest task of the page's own thread in each lap with 20,000 swatches, the median of three rounds."""
    rounds = [_round(page, base) for _ in range(ROUNDS)]
    for what in rounds[0]:
        milliseconds = statistics.median(each[what] for each in rounds)
        report(
            f"20,000 swatches, longest stall: {what} / {STALL_MS} ms",
            f"{milliseconds:.0f} ms",
            milliseconds / STALL_MS,
            1.0,
            timed=True,
        )


def _round(page: Page, base: str) -> dict[str, float]:
    """Import, scroll, select, lay out and sort 20,000 swatches: the longest task of each in milliseconds.

    What is waited for is found by plain selectors: looking for roles and texts would be work for that same thread.
    """
    codes = "\n".join(swatch.color.hex[1:] for swatch in random_palette(SHOWN).swatches)
    page.set_default_timeout(60_000)
    page.goto(base)
    page.get_by_role("button", name="New palette").wait_for()
    page.evaluate(WATCH)
    longest: dict[str, float] = {}

    def lap(what: str, settle_ms: int = 600) -> None:
        page.wait_for_timeout(settle_ms)
        longest[what] = max(page.evaluate("() => window.stalls.splice(0)"), default=0.0)

    file = {"name": "Many.hex", "mimeType": "text/plain", "buffer": codes.encode()}
    page.get_by_label("Files to bring in").set_input_files(file)  # type: ignore[arg-type]
    page.get_by_role("button", name="Make the palette").click()
    page.locator("[role=listbox]").wait_for()
    lap("import", 2500)
    page.keyboard.press("3")
    lap("open the list")
    page.mouse.move(400, 600)
    for _ in range(12):
        page.mouse.wheel(0, 9000)
        page.wait_for_timeout(60)
    lap("scroll")
    page.keyboard.press("Control+a")
    lap("select all")
    page.get_by_role("tab", name="Grid").click()
    lap("grid")
    page.get_by_role("tab", name="Sort").click()
    page.get_by_role("button", name="Sort", exact=True).click()
    page.locator("header [role=status]", has_text="saved").wait_for()
    lap("sort", 2500)
    return longest
