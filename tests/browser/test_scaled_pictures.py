"""What the canvas shows of a picture, pixel by pixel, against the core's own scaler; and as other viewers shrink it."""

import base64
from typing import NamedTuple

import numpy as np
from playwright.sync_api import Page, expect

from huvren.core.scaling import scaled
from tests.browser.conftest import bring_in, settled
from tests.pictures import opaque, png
from tests.waiting import until

MARGIN = 20
COLORS = np.array([(20, 22, 30), (244, 240, 214), (200, 60, 40), (60, 120, 200)], np.uint8)


class View(NamedTuple):
    """As the picture's area has it: screen pixels a pixel of the picture, and its corner."""

    zoom: float
    x: float
    y: float


def fitted(width: int, height: int, area: tuple[int, int]) -> View:
    zoom = min((area[0] - 2 * MARGIN) / width, (area[1] - 2 * MARGIN) / height)
    return View(zoom, (area[0] - width * zoom) / 2, (area[1] - height * zoom) / 2)


def zoomed(view: View, zoom: float, area: tuple[int, int]) -> View:
    """Where its middle stays."""
    x, y = area[0] / 2, area[1] / 2
    return View(zoom, x - (x - view.x) / view.zoom * zoom, y - (y - view.y) / view.zoom * zoom)


def canvas_of(page: Page, side: str = "result") -> np.ndarray:
    """(h, w, 4) of the canvas on which the result is drawn, right of the divider, or the original, left of it."""
    canvas = page.get_by_test_id("picture")
    found = (canvas if side == "result" else canvas.locator("xpath=preceding-sibling::canvas")).evaluate(
        """(canvas) => {
          const { width, height } = canvas;
          const pixels = canvas.getContext('2d').getImageData(0, 0, width, height).data;
          let text = '';
          for (let at = 0; at < pixels.length; at += 32768) text += String.fromCharCode(...pixels.subarray(at, at + 32768));
          return [width, height, btoa(text)];
        }"""
    )

    return np.frombuffer(base64.b64decode(found[2]), np.uint8).reshape(found[1], found[0], 4)


def wanted(rgba: np.ndarray, view: View, area: tuple[int, int], side: str) -> tuple[np.ndarray, slice, slice]:
    """What is on one side of the divider, and where it lies. No row and column that the picture fills only in part."""
    x, y = round(view.x + 1e-9), round(view.y + 1e-9)
    left, top = max(0, x), max(0, y)
    right, bottom = min(area[0], x + int(rgba.shape[1] * view.zoom)), min(area[1], y + int(rgba.shape[0] * view.zoom))
    if side == "result":
        left = max(left, area[0] // 2 + 2)
    else:
        right = min(right, area[0] // 2 - 2)
    box = tuple(place / view.zoom for place in (left - x, top - y, right - x, bottom - y))
    return scaled(rgba, right - left, bottom - top, box), slice(top, bottom), slice(left, right)  # type: ignore[arg-type]


def gap(page: Page, rgba: np.ndarray, view: View, side: str = "result") -> int:
    """The most that any number of any pixel is off."""
    shown = canvas_of(page, side)
    found, rows, columns = wanted(rgba, view, (shown.shape[1], shown.shape[0]), side)
    assert found.size > 10_000
    return int(np.abs(shown[rows, columns].astype(int) - found).max())


def dots(height: int, width: int) -> np.ndarray:
    """Four colors in a pattern that any other way of shrinking shows otherwise."""
    y, x = np.mgrid[:height, :width]
    return opaque(COLORS[((x * 7 + y * 13) // 3 + x // 50 + (x + y) % 2) % 4])


def test_the_stage_shows_the_mean_of_light_and_whole_steps_as_they_are(page: Page) -> None:
    rgba = dots(700, 1000)
    bring_in(page, png(rgba[..., :3]), "Dots.png")
    expect(page.get_by_role("option")).to_have_count(4)
    settled(page)
    shown = canvas_of(page)
    area = (shown.shape[1], shown.shape[0])
    view = fitted(1000, 700, area)
    assert view.zoom < 1
    until(lambda: gap(page, rgba, view) <= 1)
    page.get_by_role("button", name="1 : 1, actual size").click()
    one = zoomed(view, 1, area)
    until(lambda: gap(page, rgba, one) == 0)
    page.get_by_role("button", name="Zoom in").click()
    expect(page.get_by_role("status", name="Zoom")).to_have_text("150 %")
    until(lambda: gap(page, rgba, zoomed(one, 1.5, area)) <= 1)
    page.get_by_role("button", name="Zooms, and how it is shrunk").click()
    page.get_by_role("menuitem", name="200 %").click()
    until(lambda: gap(page, rgba, zoomed(one, 2, area)) == 0)


def test_as_other_viewers_shrink_it_is_chosen_said_and_taken_back(page: Page) -> None:
    rgba = dots(700, 1000)
    bring_in(page, png(rgba[..., :3]), "Dots.png")
    settled(page)
    shown = canvas_of(page)
    view = fitted(1000, 700, (shown.shape[1], shown.shape[0]))
    until(lambda: gap(page, rgba, view) <= 1)
    light = canvas_of(page)
    page.get_by_role("button", name="Zooms, and how it is shrunk").focus()
    page.keyboard.press("Enter")
    page.keyboard.press("End")
    page.keyboard.press("Enter")
    told = page.get_by_role("button", name="shrunk as other viewers do")
    expect(told).to_be_visible()
    assert gap(page, rgba, view) > 20
    numbers = canvas_of(page)
    middle = slice(shown.shape[1] // 2 + 10, shown.shape[1] // 2 + 200)
    rows = slice(shown.shape[0] // 2 - 50, shown.shape[0] // 2 + 50)
    # The mean of numbers is that of too little light: a picture of dots grows darker.
    assert numbers[rows, middle, :3].mean() < light[rows, middle, :3].mean() - 5
    told.click()
    until(lambda: gap(page, rgba, view) <= 1)
    expect(told).to_have_count(0)


def test_a_large_picture_is_shrunk_by_light_as_well_both_as_it_was_and_as_it_is(page: Page, worker: object) -> None:
    rgba = dots(2500, 2700)
    bring_in(page, png(rgba[..., :3]), "Large.png")
    settled(page)
    shown = canvas_of(page)
    area = (shown.shape[1], shown.shape[0])
    view = fitted(2700, 2500, area)
    # By way of a copy of half the size: an area ends in the middle of one of its pixels now and then.
    for side in ("result", "original"):
        until(lambda side=side: gap(page, rgba, view, side) <= 16)
        shown = canvas_of(page, side)
        found, rows, columns = wanted(rgba, view, area, side)
        off = shown[rows, columns].astype(int) - found
        assert np.abs(off).mean() < 3
        assert abs(off.mean()) < 0.3
    page.get_by_role("button", name="1 : 1, actual size").click()
    until(lambda: gap(page, rgba, zoomed(view, 1, area)) == 0)
