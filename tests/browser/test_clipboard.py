"""Copying, cutting and pasting swatches; menus of what was pressed; cards that are selected and dropped on."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import bring_in, settled
from tests.browser.test_care import scan
from tests.browser.test_gathering import typed

LINES = "Night #1b1a1d\nLamp #e85421\nPaper #f3ead6"


@pytest.fixture
def bench(page: Page) -> Page:
    """A bench with three swatches, which may use the clipboard."""
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    typed(page, LINES, 3, "Press")
    settled(page)
    return page


def options(page: Page) -> list[str]:
    labels = page.get_by_role("option").evaluate_all("all => all.map((one) => one.getAttribute('aria-label'))")
    return [re.sub(r"^\d+ ", "", label.split(",")[0]) for label in labels]


def new_bench(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="New palette").click()
    expect(page.get_by_label("Type or paste colors")).to_be_focused()
    page.keyboard.press("Escape")


def test_swatches_are_copied_as_text_and_whole(bench: Page) -> None:
    page = bench
    page.get_by_role("option", name="Lamp").click()
    page.keyboard.press("l")
    expect(page.get_by_role("option", name="Lamp")).to_have_attribute("aria-label", re.compile("locked"))
    page.get_by_role("option", name="Paper").click(modifiers=["Control"])
    page.keyboard.press("Control+c")
    expect(page.get_by_text("2 swatches are copied.")).to_be_visible()
    assert page.evaluate("navigator.clipboard.readText()") == "Lamp #e85421\nPaper #f3ead6"
    new_bench(page)
    page.keyboard.press("Control+v")
    expect(page.get_by_role("option")).to_have_count(2)
    assert options(page) == ["Lamp", "Paper"]
    # The lock is in no text: it came with the swatch itself.
    expect(page.get_by_role("option", name="Lamp")).to_have_attribute("aria-label", re.compile("locked"))
    expect(page.locator("[role=option][aria-selected=true]")).to_have_count(2)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("option")).to_have_count(0)


def test_what_is_cut_can_be_pasted_after_it_is_gone(bench: Page) -> None:
    page = bench
    page.get_by_role("option", name="Night").click()
    page.keyboard.press("Control+x")
    page.keyboard.press("Control+v")
    page.keyboard.press("Control+v")
    expect(page.get_by_role("option")).to_have_count(4)
    assert options(page) == ["Lamp", "Paper", "Night", "Night"]
    for _ in range(3):
        page.keyboard.press("Control+z")
    expect(page.get_by_role("option").first).to_have_attribute("aria-label", re.compile("^0 Night"))
    assert options(page) == ["Night", "Lamp", "Paper"]


def test_a_field_keeps_the_clipboard_for_its_text(bench: Page) -> None:
    page = bench
    page.get_by_role("option", name="Lamp").click()
    page.keyboard.press("F2")
    field = page.get_by_role("textbox", name=re.compile("^Name of swatch"))
    expect(field).to_be_focused()
    field.fill("Lantern")
    page.keyboard.press("Control+a")
    page.keyboard.press("Control+x")
    expect(field).to_have_value("")
    page.keyboard.press("Control+v")
    expect(field).to_have_value("Lantern")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="Lantern")).to_be_visible()
    assert len(options(page)) == 3


def test_a_menu_says_what_may_be_done_with_swatches(bench: Page) -> None:
    page = bench
    page.get_by_role("option", name="Night").click()
    page.get_by_role("option", name="Paper").click(button="right")
    menu = page.get_by_role("menu", name="What can be done here")
    expect(menu).to_be_visible()
    scan(page)
    expect(menu.get_by_role("menuitem", name="Copy Ctrl C")).to_be_visible()
    assert page.locator("[role=option][aria-selected=true]").get_attribute("aria-label").startswith("2 Paper")
    expect(menu.get_by_role("menuitem", name="Merge … M")).to_be_disabled()
    expect(menu.get_by_role("menuitem", name="Paste Ctrl V")).to_be_disabled()
    menu.get_by_role("menuitem", name="Lock L").click()
    expect(page.get_by_role("option", name="Paper")).to_have_attribute("aria-label", re.compile("locked"))
    # By keys alone, on two that are selected: cut, and pasted again.
    page.get_by_role("option", name="Night").click()
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Shift+F10")
    expect(page.get_by_role("menuitem", name="Copy 2 swatches")).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option")).to_have_count(1)
    page.get_by_role("option").click(button="right")
    page.get_by_role("menuitem", name="Paste 2 from “Press”").click()
    expect(page.get_by_role("option")).to_have_count(3)
    assert options(page) == ["Paper", "Night", "Lamp"]


def test_the_menus_of_pictures_ramps_and_fields(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    settled(page)
    box = page.get_by_test_id("picture").bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] * 0.6, box["y"] + box["height"] * 0.5, button="right")
    expect(page.get_by_role("menuitem", name="Copy Ctrl C")).to_be_visible()
    page.get_by_role("menuitem", name="Take Evening plate.png off the palette").click()
    expect(page.get_by_text("No picture is on this bench")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="Picture: Evening plate.png")).to_be_visible()
    page.get_by_label("Palette name").click(button="right")
    expect(page.get_by_role("menu")).to_have_count(0)
    # Two ramps are kept: the second is moved before the first by its menu, and opened from its card on the shelf.
    page.keyboard.press("Escape")
    page.keyboard.press("4")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text(re.compile("^kept as "))).to_be_visible()
    page.get_by_role("button", name="Keep as new").click()
    kept = page.get_by_role("list", name="Kept ramps").get_by_role("button")
    expect(kept).to_have_count(2)
    first, second = (kept.nth(place).text_content() for place in (0, 1))
    kept.nth(1).click(button="right")
    page.get_by_role("menuitem", name="Move left").click()
    expect(kept.first).to_have_text(second or "")
    kept.first.click(button="right")
    expect(page.get_by_role("menuitem", name="Move left")).to_be_disabled()
    page.get_by_role("menuitem", name="Remove").click()
    expect(kept).to_have_count(1)
    expect(kept).to_have_text(first or "")
    page.goto("/")
    expect(page.get_by_role("heading", name="Ramps 1")).to_be_visible()
    page.get_by_role("region", name="Ramps").get_by_role("listitem").first.click(button="right")
    page.get_by_role("menuitem", name="Open it Enter").click()
    expect(page.get_by_role("tab", name="Ramp")).to_have_attribute("aria-selected", "true")


def test_swatches_are_dragged_onto_the_card_of_another_palette(bench: Page) -> None:
    page = bench
    typed(page, "#123456 #345678", 2, "Sea")
    page.get_by_role("option").first.click()
    start = page.get_by_role("option").first.bounding_box()
    assert start
    page.mouse.move(start["x"] + 9, start["y"] + 9)
    page.mouse.down()
    page.mouse.move(start["x"] + 40, start["y"] + 60, steps=4)
    tray = page.get_by_text("Let go here to take them along")
    expect(tray).to_be_visible()
    card = page.locator("[data-palette-name=Press]").bounding_box()
    assert card
    page.mouse.move(card["x"] + card["width"] / 2, card["y"] + card["height"] / 2, steps=6)
    page.mouse.up()
    expect(page.get_by_text("1 swatch is in “Press” as well.")).to_be_visible()
    expect(tray).to_have_count(0)
    expect(page.get_by_role("option")).to_have_count(2)
    page.get_by_role("button", name="Open it").click()
    expect(page.get_by_role("option")).to_have_count(4)


def test_a_range_of_cards_is_selected_and_a_card_has_a_menu(page: Page) -> None:
    for name in ("One", "Two", "Three", "Four"):
        typed(page, "#123456 #345678", 2, name)
    page.goto("/")
    card = {name: page.get_by_role("button", name=re.compile(f"^{name} 2 swatches")) for name in ("One", "Two", "Three", "Four")}
    card["Four"].click(modifiers=["Control"])
    card["Two"].click(modifiers=["Shift"])
    expect(page.get_by_text("3 palettes selected")).to_be_visible()
    card["Three"].click()
    expect(page.get_by_text("2 palettes selected")).to_be_visible()
    page.get_by_role("button", name="Done").click()
    card["One"].click(button="right")
    page.get_by_role("menuitem", name="Make it a favorite").click()
    expect(page.get_by_role("button", name=re.compile("One.*favorite|favorite.*One", re.I)).first).to_be_visible()
    card["One"].click(button="right")
    page.get_by_role("menuitem", name="Trash").click()
    expect(page.get_by_text("“One” is in the trash.")).to_be_visible()
    expect(card["One"]).to_have_count(0)
