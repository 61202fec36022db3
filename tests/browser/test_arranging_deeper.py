"""Arrange in depth in the browser: grid, map, places, names, sorting, adjusting, other palettes, variants, keyboard alone."""

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import bring_in, settled
from tests.browser.test_care import scan
from tests.browser.test_gathering import halves, typed
from tests.browser.test_reduce_job import hexes, names, picture_pixel
from tests.waiting import until


def strip(page: Page) -> list[str]:
    """Hex codes of the strip alone, in order."""
    labels = page.get_by_role("region", name="Strip").get_by_role("option").evaluate_all("all => all.map(o => o.ariaLabel)")
    return [re.search(r"#[0-9a-f]{6}", label).group() for label in labels]  # type: ignore[union-attr]


def view(page: Page, name: str) -> None:
    page.keyboard.press("3")
    page.get_by_role("tab", name=name, exact=True).click()


def center(page: Page, selector: str) -> tuple[float, float]:
    box = page.locator(selector).first.bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_the_grid_moves_by_drag_and_selects_by_a_drag_beside(page: Page) -> None:
    typed(page, "#110000 #220000 #330000 #440000 #550000 #660000", 6)
    view(page, "Grid")
    cells = page.get_by_role("listbox", name="Grid").get_by_role("option")
    expect(cells).to_have_count(6)
    scan(page)
    page.get_by_label("Columns of the palette").fill("3")
    expect(page.get_by_text("saved")).to_be_visible()
    first, last = cells.nth(0).bounding_box(), cells.nth(5).bounding_box()
    assert first
    assert last
    assert last["y"] > first["y"] + 30, "two rows of three"
    cells.nth(0).click()
    expect(page.get_by_text("1 of 6 selected")).to_be_visible()
    page.mouse.move(first["x"] + 20, first["y"] + 20)
    page.mouse.down()
    page.mouse.move(last["x"] + last["width"] - 3, last["y"] + 20, steps=8)
    page.mouse.up()
    expect(page.get_by_text("saved")).to_be_visible()
    expect(page.get_by_role("option").first).to_have_attribute("aria-label", re.compile("#220000"))
    assert strip(page) == ["#220000", "#330000", "#440000", "#550000", "#660000", "#110000"]
    box = page.get_by_role("listbox", name="Grid").bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] - 60, box["y"] + 100)
    page.mouse.down()
    page.mouse.move(box["x"] + 120, box["y"] + 8, steps=8)
    page.mouse.up()
    expect(page.get_by_text("4 of 6 selected")).to_be_visible()
    page.get_by_role("listbox", name="Grid").focus()
    page.keyboard.press("Control+ArrowLeft")
    expect(page.get_by_role("option").first).to_have_attribute("aria-label", re.compile("#330000"))


def test_arranging_by_keyboard_alone(page: Page) -> None:
    typed(page, "#ff0000 #00ff00 #0000ff", 3)
    page.keyboard.press("3")
    page.get_by_role("region", name="Strip").get_by_role("option").first.focus()
    page.keyboard.press("Home")
    page.keyboard.press("Control+ArrowRight")
    expect(page.get_by_role("option").first).to_have_attribute("aria-label", re.compile("#00ff00"))
    expect(page.get_by_role("option").nth(1)).to_be_focused()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.get_by_text("2 of 3 selected")).to_be_visible()
    page.keyboard.press("g")
    page.get_by_label("Name of the group").fill("Pair")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Name of the group Pair")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Names …").focus()
    page.keyboard.press("Enter")
    page.get_by_label("Stem of the names").fill("Wing")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="Wing 2")).to_be_visible()
    assert names(page)[1:] == ["Wing 1", "Wing 2"]
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Names …").focus()
    page.keyboard.press("Enter")
    page.get_by_label("Find in names").fill("wing")
    page.get_by_label("Put in its place").fill("Tail")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="Tail 2")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("option", name="Wing 2")).to_be_visible()


def test_swatches_are_carried_by_keys_and_each_step_is_said(page: Page) -> None:
    typed(page, "#110000 #220000 #330000 #440000", 4)
    live = page.locator("[id^=DndLiveRegion]")
    page.get_by_role("region", name="Strip").get_by_role("option").first.focus()
    page.keyboard.press("Home")
    page.keyboard.press("Space")
    expect(live.first).to_contain_text("Lifted")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    expect(page.locator("[data-gap]")).to_be_visible()
    expect(live.first).to_contain_text("Between")
    page.keyboard.press("Escape")
    expect(live.first).to_contain_text("back")
    assert strip(page) == ["#110000", "#220000", "#330000", "#440000"], "put back where it was"
    page.keyboard.press("Space")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    expect(live.first).to_contain_text("Between")
    page.keyboard.press("Space")
    expect(page.get_by_role("option").nth(2)).to_have_attribute("aria-label", re.compile("#110000"))
    expect(page.get_by_role("option").nth(2)).to_be_focused()
    expect(page.get_by_text("saved")).to_be_visible()
    view(page, "Grid")
    page.get_by_label("Columns of the palette").fill("2")
    # “saved” stands there from before: the columns are there when the step is named.
    expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute("title", re.compile("columns"))
    cells = page.get_by_role("listbox", name="Grid").get_by_role("option")
    cells.nth(0).click()
    page.get_by_role("listbox", name="Grid").focus()
    page.keyboard.press("ArrowRight")
    expect(cells.nth(1)).to_be_focused()
    page.keyboard.press("Space")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Space")
    expect(cells.nth(3)).to_have_attribute("aria-label", re.compile("#330000"))
    assert strip(page) == ["#220000", "#110000", "#440000", "#330000"]
    page.keyboard.press("Control+z")
    expect(cells.nth(1)).to_have_attribute("aria-label", re.compile("#330000"))
    scan(page)


@pytest.mark.provokes("status of 422")
def test_numbered_places_are_fixed_pinned_and_filled(page: Page) -> None:
    typed(page, "#111111 #222222 #333333", 3)
    view(page, "List")
    page.get_by_role("button", name="Places …").click()
    page.get_by_label("Number of places").fill("8")
    page.get_by_role("button", name="Fix").click()
    empty = page.locator("[data-empty]")
    expect(empty).to_have_count(5)
    scan(page)
    page.get_by_role("option", name="#222222").click()
    from_x, from_y = center(page, "[data-index='1']")
    to_x, to_y = center(page, "[data-empty='6']")
    page.mouse.move(from_x, from_y)
    page.mouse.down()
    page.mouse.move(to_x, to_y, steps=8)
    page.mouse.up()
    expect(page.locator("[role=option][data-index='6']")).to_have_count(1)
    expect(page.locator("[data-empty='1']")).to_have_count(1)
    page.get_by_role("option", name="#111111").click()
    page.get_by_role("button", name="Pin", exact=True).click()
    expect(page.get_by_role("button", name="Unpin")).to_be_visible()
    page.get_by_role("button", name="Places …").click()
    page.get_by_role("button", name="Reverse").click()
    expect(page.locator("[role=option][data-index='0'][aria-label*='#111111']")).to_have_count(1)
    page.keyboard.press("Escape")
    page.keyboard.press("a")
    page.get_by_label("Type or paste colors").fill("#1 #2 #3 #4 #5 #6".replace("#", "#00000"))
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("This palette has 8 numbered places, and 9 swatches do not fit.")
    expect(page.get_by_role("option")).to_have_count(3)


def test_sorting_along_a_path_and_back_to_an_earlier_order(page: Page) -> None:
    typed(page, "#ffffff #000000 #888888 #444444 #cccccc", 5)
    view(page, "Sort")
    page.get_by_role("button", name="How it is sorted").click()
    page.get_by_role("radio", name="along the smoothest path").check()
    page.keyboard.press("Escape")
    expect(page.get_by_text("swatches that move 4 of 5")).to_be_visible()
    scan(page)
    page.get_by_role("button", name="Sort", exact=True).click()
    expect(page.get_by_text("5 swatches · saved")).to_be_visible()
    assert hexes(page) == ["#000000", "#444444", "#888888", "#cccccc", "#ffffff"]
    page.get_by_role("button", name="How it is sorted").click()
    page.get_by_role("radio", name="back to the order of").check()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Step whose order is taken").click()
    page.get_by_role("radio", name="step 2").check()
    page.keyboard.press("Escape")
    expect(page.get_by_text("swatches that move 4 of 5")).to_be_visible()
    page.get_by_role("button", name="Sort", exact=True).click()
    expect(page.get_by_text("5 swatches · saved")).to_be_visible()
    assert hexes(page)[0] == "#ffffff"
    page.get_by_role("button", name="History").click()
    expect(page.get_by_role("button", name=re.compile("Back to the order of step 2"))).to_be_visible()


def test_merging_to_a_number_and_by_the_tree(page: Page) -> None:
    typed(page, "#100000 #120000 #400000 #430000 #0000ff", 5)
    view(page, "Near twins")
    tree = page.get_by_role("img", name=re.compile("^Merge tree of 5 swatches"))
    expect(tree).to_be_visible()
    box = tree.bounding_box()
    assert box
    page.mouse.click(box["x"] + 10, box["y"] + 108)
    expect(page.get_by_role("spinbutton", name="Tolerance")).not_to_have_value("4.0")
    page.get_by_role("button", name="How far").click()
    page.get_by_role("radio", name="until").check()
    page.keyboard.press("Escape")
    page.get_by_role("spinbutton", name="Swatches left").fill("3")
    page.keyboard.press("Escape")
    expect(page.get_by_text("left 3 of 5")).to_be_visible()
    scan(page)
    page.get_by_role("button", name="Merge to 3").click()
    expect(page.get_by_text("3 swatches · saved")).to_be_visible()
    expect(page.get_by_text("There are 3 swatches, no more than are to be left.")).to_be_visible()
    expect(page.get_by_text("Looking for near twins")).to_have_count(0)


def test_adjusting_shows_the_picture_first(page: Page) -> None:
    bring_in(page, halves())
    view(page, "Adjust")
    page.get_by_label("Hue turned, number").fill("120")
    expect(page.get_by_text("swatches that change 2 of 2")).to_be_visible()
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    expect(page.get_by_text(re.compile("picture changes by"))).to_be_visible()
    until(lambda: picture_pixel(page, 0.6)[1] > picture_pixel(page, 0.6)[0], "turned from red toward green, before it is kept")
    scan(page)
    page.get_by_role("button", name="Adjust", exact=True).click()
    expect(page.get_by_text("2 swatches · saved")).to_be_visible()
    expect(page.get_by_label("Hue turned, number")).to_have_value("0")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("option", name="#c83c14")).to_be_visible()


def test_another_palette_is_matched_and_snapped_to(page: Page) -> None:
    typed(page, "Soot #111111\nChalk #ffffff", 2, "Card")
    typed(page, "#151515 #f0f0f0 #c04030", 3, "Mine")
    view(page, "Against another")
    page.get_by_role("list", name="Palettes of the shelf").get_by_role("button", name="Card 2").click()
    expect(page.get_by_role("button", name="The other palette: Card")).to_be_visible()
    expect(page.get_by_role("list", name="Each swatch and its nearest").get_by_role("listitem")).to_have_count(3)
    scan(page)
    page.get_by_role("button", name="What is done").click()
    page.get_by_role("radio", name="Keep what is not in").check()
    page.keyboard.press("Escape")
    page.get_by_role("spinbutton", name="Tolerance").fill("5")
    page.keyboard.press("Escape")
    expect(page.get_by_text("after 1")).to_be_visible()
    page.get_by_role("button", name="What is done").click()
    page.get_by_role("radio", name="Snap to the colors of").check()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Snap", exact=True).click()
    expect(page.get_by_text("3 swatches · saved")).to_be_visible()
    assert hexes(page) == ["#111111", "#ffffff", "#111111"]


def test_variants_are_looked_at_before_they_are_shown(page: Page) -> None:
    bring_in(page, halves())
    view(page, "Variants")
    page.get_by_label("Name of the present colors").fill("Day")
    page.get_by_label("Name of the new variant").fill("Night")
    page.keyboard.press("Enter")
    expect(page.get_by_role("list", name="Variants").get_by_role("listitem")).to_have_count(2)
    page.get_by_role("option", name="#c83c14").click()
    page.get_by_label("Hex or any color notation").fill("#203040")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="#203040")).to_be_visible()
    page.get_by_role("button", name="Look", exact=True).click()
    expect(page.get_by_role("option", name="#c83c14")).to_be_visible()
    until(lambda: picture_pixel(page, 0.6)[:3] == [200, 60, 20])
    scan(page)
    page.get_by_role("button", name="Show Day").click()
    expect(page.get_by_text("2 swatches · saved")).to_be_visible()
    page.get_by_role("button", name="Remove the variant Night").click()
    expect(page.get_by_text("No variants yet")).to_be_visible()
    expect(page.get_by_role("option", name="#c83c14")).to_be_visible()


@pytest.mark.provokes("status of 422")
def test_selecting_by_rule_and_on_the_map(page: Page) -> None:
    typed(page, "#101010 #111111 #c04030 #101010 #ffffff", 5)
    view(page, "Map")
    page.get_by_role("option").first.click()
    page.get_by_role("button", name="Select …").click()
    page.get_by_role("button", name=re.compile("^similar to this")).click()
    expect(page.get_by_text("3 of 5 selected")).to_be_visible()
    page.get_by_role("button", name="Select …").click()
    page.get_by_role("button", name="All others").click()
    expect(page.get_by_text("2 of 5 selected")).to_be_visible()
    page.get_by_role("button", name="Select …").click()
    page.get_by_role("button", name=re.compile("^painting nothing")).click()
    expect(page.get_by_role("alert")).to_contain_text("No picture is painted with this palette")
    page.get_by_role("button", name="Dismiss").click()
    page.keyboard.press("Escape")
    area = page.get_by_role("application", name=re.compile("^Map of the palette")).bounding_box()
    assert area
    page.mouse.move(area["x"] + 2, area["y"] + 22)
    page.mouse.down()
    page.mouse.move(area["x"] + area["width"] - 4, area["y"] + area["height"] - 4, steps=10)
    page.mouse.up()
    expect(page.get_by_text("5 of 5 selected")).to_be_visible()
    scan(page)


def test_twenty_thousand_swatches_import_scroll_sort_and_select_without_a_stall(page: Page) -> None:
    """Longest task of the page's own thread while it works, by the browser's own measure."""
    random = np.random.default_rng(3)
    codes = "\n".join(f"{r:02x}{g:02x}{b:02x}" for r, g, b in random.integers(0, 256, (20_000, 3)))
    page.goto("/")
    page.locator("input[type=file]").first.set_input_files({"name": "Many.hex", "mimeType": "text/plain", "buffer": codes.encode()})
    expect(page.get_by_text("Take all 20000 swatches").or_(page.get_by_text("Take all 20,000 swatches"))).to_be_visible()
    page.get_by_role("button", name="Make the palette").click()
    expect(page.get_by_text(re.compile("20,000 swatches"))).to_be_visible()
    page.keyboard.press("3")
    for name in ("Grid", "List"):
        page.get_by_role("tab", name=name, exact=True).click()
        settled(page)
    page.keyboard.press("Control+a")
    expect(page.get_by_text("20000 of 20000 selected")).to_be_visible()
    drawn = page.locator("[data-swatch]").count()
    assert drawn < 1500, "only what is near the view is drawn"
    page.get_by_role("tab", name="Sort").click()
    page.get_by_role("button", name="Sort", exact=True).click()
    expect(page.get_by_text("20,000 swatches · saved")).to_be_visible()


def test_variants_are_delivered_shown_packed_and_in_one_file(page: Page) -> None:
    typed(page, "#f3ead6 Paper\n#1b1a1d Ink", 2, "Press")
    page.keyboard.press("3")
    page.get_by_role("tab", name="Variants").click()
    page.get_by_label("Name of the new variant").fill("Night")
    page.keyboard.press("Enter")
    expect(page.get_by_text("saved")).to_be_visible()
    page.get_by_role("option").first.click()
    field = page.get_by_label("Hex or any color notation")
    field.fill("#10131c")
    field.press("Enter")
    expect(page.get_by_role("option", name=re.compile("#10131c"))).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("6")
    page.get_by_role("radio", name=re.compile(r"^\.css custom")).check()
    with page.expect_download() as one:
        page.get_by_role("button", name="Download .css").click()
    assert one.value.suggested_filename == "Press, Night.css"
    page.get_by_role("button", name="Which variants").click()
    page.get_by_role("radio", name=re.compile("one file of all variants")).check()
    page.keyboard.press("Escape")
    expect(page.get_by_text("prefers-color-scheme")).to_be_visible()
    with page.expect_download() as both:
        page.get_by_role("button", name="Download .css").click()
    assert both.value.suggested_filename == "Press.css"
    assert b".night" in both.value.path().read_bytes()
    # A kind that holds one variant packs a file for each.
    page.get_by_role("radio", name=re.compile(r"^\.gpl")).check()
    with page.expect_download() as packed:
        page.get_by_role("button", name="Download 2 files").click()
    assert packed.value.suggested_filename == "Press.zip"
