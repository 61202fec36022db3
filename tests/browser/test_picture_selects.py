"""Swatches are chosen in the picture that they paint: by a click, by a rectangle, by a free outline."""

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import bring_in, settled
from tests.pictures import png

SIDE = 120
CORNERS = {"red": (200, 30, 40), "green": (30, 160, 60), "blue": (40, 60, 200), "yellow": (240, 210, 60)}


@pytest.fixture
def quarters(page: Page) -> Page:
    """A bench with a picture of four flat quarters: red, green above blue, yellow."""
    pixels = np.zeros((2 * SIDE, 2 * SIDE, 3), np.uint8)
    for place, color in enumerate(CORNERS.values()):
        row, column = divmod(place, 2)
        pixels[row * SIDE : (row + 1) * SIDE, column * SIDE : (column + 1) * SIDE] = color
    bring_in(page, png(pixels), "Quarters.png")
    expect(page.get_by_role("option")).to_have_count(4)
    settled(page)
    return page


def place(page: Page, x: float, y: float) -> tuple[float, float]:
    """Where a place of the picture, 0..1 each way, lies on the screen."""
    box = page.get_by_test_id("picture").bounding_box()
    assert box
    zoom = int((page.get_by_role("status", name="Zoom").text_content() or "").split()[0]) / 100
    side = 2 * SIDE * zoom
    return box["x"] + (box["width"] - side) / 2 + x * side, box["y"] + (box["height"] - side) / 2 + y * side


def chosen(page: Page) -> list[str]:
    """The colors that are selected, by the name of their quarter."""
    hexes = {"#{:02x}{:02x}{:02x}".format(*color): name for name, color in CORNERS.items()}
    said = page.locator("[role=option][aria-selected=true]").evaluate_all("all => all.map((one) => one.getAttribute('aria-label'))")
    return sorted(hexes[re.search(r"#\w{6}", label)[0]] for label in said)


def drag(page: Page, *points: tuple[float, float]) -> None:
    page.mouse.move(*place(page, *points[0]))
    page.mouse.down()
    for point in points[1:]:
        page.mouse.move(*place(page, *point), steps=6)
    page.mouse.up()


def test_a_click_selects_the_swatch_with_shift_and_ctrl_as_in_the_strip(quarters: Page) -> None:
    page = quarters
    page.mouse.click(*place(page, 0.2, 0.8))
    assert chosen(page) == ["blue"]
    page.keyboard.down("Control")
    page.mouse.click(*place(page, 0.8, 0.2))
    assert chosen(page) == ["blue", "green"]
    page.mouse.click(*place(page, 0.2, 0.8))
    assert chosen(page) == ["green"]
    page.keyboard.up("Control")
    first, last = page.get_by_role("option").first, page.get_by_role("option").last
    first.click()
    label = last.get_attribute("aria-label") or ""
    corner = next(name for name, color in CORNERS.items() if "#{:02x}{:02x}{:02x}".format(*color) in label)
    spot = {"red": (0.2, 0.2), "green": (0.8, 0.2), "blue": (0.2, 0.8), "yellow": (0.8, 0.8)}[corner]
    page.keyboard.down("Shift")
    page.mouse.click(*place(page, *spot))
    page.keyboard.up("Shift")
    assert chosen(page) == sorted(CORNERS)


def test_a_drag_selects_what_paints_the_area(quarters: Page) -> None:
    page = quarters
    drag(page, (0.1, 0.1), (0.9, 0.4))
    assert chosen(page) == ["green", "red"]
    page.keyboard.down("Shift")
    drag(page, (0.7, 0.7), (0.9, 0.9))
    assert chosen(page) == ["green", "red", "yellow"]
    page.keyboard.up("Shift")
    page.keyboard.down("Control")
    drag(page, (0.9, 0.1), (0.1, 0.9))
    page.keyboard.up("Control")
    assert chosen(page) == ["blue"]
    page.get_by_role("button", name=re.compile("free outline")).click()
    drag(page, (0.1, 0.1), (0.1, 0.9), (0.9, 0.9), (0.2, 0.6), (0.2, 0.1))
    assert chosen(page) == ["blue", "red", "yellow"]


def test_escape_calls_a_drag_off_and_the_hand_moves_the_picture(quarters: Page) -> None:
    page = quarters
    page.mouse.click(*place(page, 0.2, 0.2))
    page.mouse.move(*place(page, 0.1, 0.1))
    page.mouse.down()
    page.mouse.move(*place(page, 0.9, 0.9), steps=4)
    expect(page.get_by_role("img", name="Area with 4 swatches")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("img", name=re.compile("Area with"))).to_have_count(0)
    page.mouse.up()
    assert chosen(page) == ["red"]
    page.get_by_role("button", name=re.compile("A drag moves the picture")).click()
    page.get_by_role("button", name="1 : 1").click()
    settled(page)
    box = page.get_by_test_id("picture").bounding_box()
    assert box
    middle = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    # The divider stands in the middle.
    page.mouse.move(middle[0] - 50, middle[1])
    page.mouse.down()
    page.mouse.move(middle[0] + 10, middle[1] + 40, steps=4)
    page.mouse.up()
    assert chosen(page) == ["red"], "a drag with the hand selects nothing"
    # The upper left quarter has come to where the middle was, and a click selects still.
    page.mouse.click(middle[0] + 40, middle[1] + 20)
    assert chosen(page) == ["red"]
    page.mouse.click(middle[0] + 100, middle[1] + 80)
    assert chosen(page) == ["yellow"]


def test_selected_swatches_are_outlined_until_that_is_put_away(quarters: Page) -> None:
    page = quarters
    outline = page.get_by_test_id("outline")
    expect(outline).to_have_count(0)
    page.mouse.click(*place(page, 0.2, 0.2))
    expect(outline).to_be_visible()
    page.wait_for_function("() => Number(document.querySelector('[data-testid=outline]')?.dataset.edge) > 0")
    page.keyboard.press("o")
    expect(outline).to_have_count(0)
    page.reload()
    page.get_by_role("option").nth(1).click()
    expect(outline).to_have_count(0)
    page.keyboard.press("o")
    expect(outline).to_be_visible()


def test_an_area_is_named_and_grouped_where_swatches_are_arranged(quarters: Page) -> None:
    page = quarters
    page.keyboard.press("3")
    page.get_by_role("tab", name="Picture", exact=True).click()
    settled(page)
    drag(page, (0.1, 0.6), (0.9, 0.9))
    assert chosen(page) == ["blue", "yellow"]
    page.keyboard.press("g")
    page.get_by_role("textbox", name="Name of the group").fill("Below")
    page.keyboard.press("Enter")
    expect(page.get_by_role("group", name="Below").get_by_role("option")).to_have_count(2)
