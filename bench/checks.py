"""Checks and lenses: all ten questions at once, a verdict that follows a key, a lens laid over a picture of 2 megapixels."""

import statistics
from collections.abc import Callable
from typing import Any

import numpy as np

from huvren.core.checks import examine_all
from huvren.core.checks.subject import Subject
from huvren.core.color.value import Color
from huvren.core.palette.values import Palette, Swatch

COUNTS = ((64, 0.15), (256, 1.0), (4096, 5.0))

TO_VERDICT = """() => {
  window.verdictTime = new Promise((done) => {
    let begun = 0;
    window.addEventListener('pointermove', () => { begun = performance.now(); }, { once: true, capture: true });
    const watch = new MutationObserver(() => {
      watch.disconnect();
      requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - begun)));
    });
    watch.observe(document.querySelector('[data-drawing]'), { subtree: true, attributes: true, childList: true });
  });
}"""
"""From a slider that is dragged a little further to the check's picture as it is then."""

TO_LENS = """(label) => new Promise((done) => {
  const kind = OffscreenCanvasRenderingContext2D.prototype;
  const put = kind.putImageData;
  const choice = [...document.querySelectorAll('input[name=lens]')].find((node) => node.parentElement.textContent.trim() === label);
  const begun = performance.now();
  kind.putImageData = function (...given) {
    put.apply(this, given);
    kind.putImageData = put;
    requestAnimationFrame(() => done(performance.now() - begun));
  };
  choice.click();
})"""
"""A lens chosen, to the linked picture painted through it."""


def palette_of(count: int) -> Palette:
    rng = np.random.default_rng(1)
    colors = [Color.from_bytes(*(int(v) for v in row)) for row in rng.integers(0, 256, (count, 3))]
    return Palette("P", tuple(Swatch(color, f"Ink {number}") for number, color in enumerate(colors)))


def measure(report: Callable[..., None], medians: Callable[..., list[float]]) -> None:
    """In the core: every verdict and sentence, without pictures and mends, which are of the check that is looked at."""
    for count, budget in COUNTS:
        palette = palette_of(count)

        def ask(palette: Palette = palette) -> None:
            examine_all(Subject(palette))

        seconds = medians(ask, runs=7)[0]
        report(f"all ten checks on {count:,} swatches / {budget:g} s", f"{seconds * 1e3:.0f} ms", seconds / budget, 1.0, timed=True)

    alike = Palette("P", tuple(Swatch(Color.from_bytes(9, 9, 9), "Same", f"s{number}") for number in range(4096)))
    seconds = medians(lambda: examine_all(Subject(alike)), runs=3)[0]
    report("all ten checks on 4,096 swatches of one color / 5 s", f"{seconds * 1e3:.0f} ms", seconds / 5, 1.0, timed=True)


def in_browser(report: Callable[..., None], page: Any, base: str, palette: str) -> None:
    """On a palette that a picture of 2 megapixels is painted with."""
    page.goto(f"{base}/palettes/{palette}")
    page.get_by_role("slider", name="Divider between original and result").wait_for()
    page.wait_for_timeout(2500)
    page.get_by_role("button", name="Lens", exact=True).click()
    page.get_by_role("radio", name="lightness only").check()
    page.wait_for_timeout(800)
    times = [page.evaluate(TO_LENS, "a bright room" if turn % 2 else "lightness only") for turn in range(1, 16)][3:]
    median = statistics.median(times)
    report("a lens over a picture of 2 MP, to pixels / 50 ms", f"{median:.0f} ms", median / 50, 1.0, timed=True)
    page.get_by_role("radio", name="no lens").check()
    page.keyboard.press("Escape")
    page.keyboard.press("5")
    page.get_by_role("tab", name="Is it balanced?").click()
    page.locator("[data-drawing]").wait_for()
    page.wait_for_timeout(1000)
    box = page.get_by_role("slider", name="Lightness", exact=True).bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    times = []
    for turn in range(1, 19):
        page.evaluate(TO_VERDICT)
        page.mouse.move(x + 4 * turn, y)
        times.append(page.evaluate("window.verdictTime"))
        page.wait_for_timeout(120)
    page.mouse.up()
    times = times[3:]
    median = statistics.median(times)
    report("a color dragged, to the check's picture / 150 ms", f"{median:.0f} ms", median / 150, 1.0, timed=True)
