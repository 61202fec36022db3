"""Stages loaded when needed, keys of a number word, what cannot be understood, the trash, and a shelf of thousands."""

import pytest
from django.contrib.auth import get_user_model
from playwright.sync_api import Page, expect

from huvren.core.color.value import Color
from huvren.core.palette.values import Palette, Swatch
from huvren.studio.models import Revision
from huvren.studio.services.shelf import palettes
from tests.browser.conftest import bring_in
from tests.browser.test_care import scan
from tests.server.stored import document_of, links_of, rewrite


def test_each_stage_is_a_script_of_its_own_loaded_when_it_is_wanted(page: Page, picture: bytes) -> None:
    scripts: list[str] = []
    page.on("response", lambda answer: scripts.append(answer.url.rsplit("/", 1)[-1]) if answer.url.endswith(".js") else None)
    page.add_init_script("window.requestIdleCallback = () => 0; window.requestAnimationFrame(() => {});")
    page.goto("/")
    page.get_by_role("button", name="New palette").wait_for()
    assert not any(name.startswith(("bench-", "reduce-", "arrange-", "deliver-")) for name in scripts), scripts
    bring_in(page, picture)
    assert any(name.startswith("bench-") for name in scripts)
    assert any(name.startswith("reduce-") for name in scripts)
    assert not any(name.startswith("deliver-") for name in scripts)
    page.keyboard.press("6")
    page.get_by_role("radio", name=".css custom properties").wait_for()
    assert any(name.startswith("deliver-") for name in scripts)


def test_the_keys_panel_lists_the_keys_of_the_stages(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.get_by_role("button", name="Keys").click()
    keys = page.get_by_role("dialog", name="Keys")
    for text in ("1 – 6", "add a color by typing it", "group the selected swatches", "keep a preview, put it back"):
        expect(keys.get_by_text(text)).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("g")
    expect(page.get_by_role("tab", name="Arrange")).to_have_attribute("aria-selected", "true")
    expect(page.get_by_label("Name of the group")).to_be_focused()


def test_letters_do_nothing_to_a_number_and_are_keys_of_the_bench(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    number = page.get_by_role("spinbutton", name="Number of colors")
    number.fill("7")
    page.keyboard.press("Enter")
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    page.keyboard.press("x")
    expect(number).to_have_value("7")
    page.keyboard.press("k")
    expect(page.get_by_text("preview, not kept")).to_have_count(0)
    expect(number).to_have_value("7")
    expect(page.get_by_role("listbox", name="Swatches").get_by_role("option")).to_have_count(7)


def test_what_is_not_understood_is_said_on_the_bench_and_the_palette_can_be_worked_on(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    revision = Revision.objects.get()
    (link,) = links_of(revision)
    spoiled = {**link, "recipe": {**link["recipe"], "dither": "sparkle"}}
    rewrite(revision, links=[spoiled], document={**document_of(revision), "glow": 3})
    page.reload()
    said = page.get_by_role("alert", name="Not understood")
    expect(said).to_contain_text("“glow” is unknown here")
    said.get_by_role("button", name="1 more").click()
    expect(said).to_contain_text("There is no dither “sparkle”")
    scan(page)
    page.get_by_role("listbox", name="Swatches").get_by_role("option").first.click()
    page.keyboard.press("l")
    expect(said).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(said).to_be_visible()


def test_the_trash_is_emptied_after_a_second_question(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.goto("/")
    page.get_by_role("button", name="Trash Evening plate", exact=True).first.click()
    page.get_by_role("button", name="Trash", exact=True).click()
    page.get_by_role("button", name="Empty the trash").click()
    page.get_by_role("button", name="Remove for good").click()
    expect(page.get_by_text("1 palette and 0 pictures removed for good.")).to_be_visible()
    expect(page.get_by_text("The trash is empty. What is put here is removed for good after 30 days.")).to_be_visible()


@pytest.fixture
def thousands(page: Page) -> int:
    artist = get_user_model().objects.get(username="demo")
    for number in range(400):
        swatches = tuple(Swatch(Color.from_bytes(number % 256, place * 3, 90), id=f"{number}-{place}") for place in range(64))
        palettes.create(artist, Palette(f"Card {number:03}", swatches), "Begin")
    return 400


def test_a_long_shelf_draws_only_what_is_near_and_scrolls_to_its_end(page: Page, thousands: int) -> None:
    page.goto("/")
    page.get_by_text("Card 399", exact=True).wait_for()
    assert page.get_by_role("listitem").count() < 80
    page.get_by_label("Sort the shelf").select_option("name")
    page.locator("main").evaluate("area => area.scrollTo(0, area.scrollHeight)")
    page.get_by_text("Card 399", exact=True).wait_for()
    expect(page.get_by_text("Card 000", exact=True)).to_have_count(0)
    page.get_by_label("Search by name").fill("Card 123")
    page.get_by_text("Card 123", exact=True).wait_for()
    expect(page.get_by_role("listitem")).to_have_count(1)
    assert thousands == 400
