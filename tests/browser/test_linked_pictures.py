"""Several pictures on one palette, and what a view proposes by itself."""

import io
import re

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.conftest import bring_in
from tests.browser.test_arranging_deeper import view
from tests.browser.test_care import scan
from tests.browser.test_gathering import typed
from tests.browser.test_reduce_job import download, hexes, picture_pixel
from tests.pictures import opaque, png
from tests.waiting import until

RED, BLUE = (200, 60, 20), (20, 60, 160)


def of_two(first: tuple[int, int, int], second: tuple[int, int, int]) -> bytes:
    """A PNG, left of one color and right of the other."""
    pixels = np.full((80, 120, 3), second, dtype=np.uint8)
    pixels[:, :60] = first
    return png(opaque(pixels))


def choose_picture(page: Page, name: str) -> None:
    page.get_by_role("button", name=re.compile("^Picture: ")).click()
    page.get_by_role("button", name=re.compile(f"^{name}")).click()


def test_a_second_picture_is_painted_looked_at_delivered_and_taken_off(page: Page) -> None:
    bring_in(page, of_two((250, 200, 40), (30, 110, 60)), "yellow.png")
    page.get_by_role("link", name="Shelf").click()
    bring_in(page, of_two(RED, BLUE), "plain.png")
    strip = hexes(page)
    choose_picture(page, "yellow")
    expect(page.get_by_role("button", name="Picture: yellow.png 2 of 2")).to_be_visible()
    expect(page.get_by_role("group", name="Recipe of the reduction")).to_contain_text("Paint with")
    assert hexes(page) == strip
    until(lambda: tuple(picture_pixel(page, 0.6)[:3]) in (RED, BLUE))
    scan(page)
    page.get_by_role("tab", name=re.compile("Deliver")).click()
    image = Image.open(io.BytesIO(download(page, ".png indexed"))).convert("RGB")
    assert {image.getpixel((5, 5)), image.getpixel((115, 5))} <= {RED, BLUE}
    page.get_by_role("tab", name=re.compile("Reduce")).click()
    choose_picture(page, "plain")
    expect(page.get_by_role("button", name="Picture: plain.png 1 of 2")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Picture: ")).click()
    page.get_by_role("button", name="Take off yellow.png").click()
    expect(page.get_by_role("button", name="Picture: plain.png", exact=True)).to_be_attached()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("button", name="Picture: plain.png 1 of 2")).to_be_visible()


def test_a_palette_without_a_picture_paints_one_of_the_shelf(page: Page) -> None:
    bring_in(page, of_two(RED, BLUE), "plain.png")
    page.get_by_role("link", name="Shelf").click()
    typed(page, "#c83c14 #143ca0 #ffffff", 3)
    page.get_by_role("tab", name=re.compile("Reduce")).click()
    expect(page.get_by_role("heading", name="No picture is on this bench")).to_be_visible()
    scan(page)
    page.get_by_role("list", name="Pictures of the shelf").get_by_role("button", name=re.compile("plain")).click()
    expect(page.get_by_text("used 2 of 3")).to_be_visible()
    expect(page.get_by_text("ΔE close up 0.0")).to_be_visible()
    assert hexes(page) == ["#c83c14", "#143ca0", "#ffffff"]


def test_only_dithering_anew_leaves_the_strip_alone(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    strip = hexes(page)
    page.get_by_role("button", name=re.compile("^How colors are chosen")).click()
    page.get_by_role("radio", name=re.compile("^the palette as it is")).check()
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^Dither")).click()
    page.get_by_role("radio", name=re.compile("^Floyd")).check()
    page.keyboard.press("Escape")
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text(re.compile("swatches · saved"))).to_be_visible()
    assert hexes(page) == strip
    page.get_by_role("button", name="How many colors?").click()
    page.get_by_role("button", name=re.compile("^Past .* colors each one more buys little")).click()
    expect(page.get_by_role("spinbutton", name="Number of colors")).to_be_visible()


def test_an_edit_beside_a_proposal_does_not_keep_it(page: Page) -> None:
    typed(page, "#100000 #120000 #400000 #430000 #0000ff", 5)
    view(page, "Near twins")
    expect(page.get_by_text("left 3 of 5")).to_be_visible()
    page.get_by_role("option").first.click()
    page.get_by_role("textbox", name="Name of swatch 0").fill("Soot")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="Soot")).to_be_visible()
    # The two stacks are proposed anew for the palette as it is, and nothing was merged.
    expect(page.get_by_text("left 3 of 5")).to_be_visible()
    page.get_by_role("tab", name=re.compile("Gather")).click()
    expect(page.get_by_text("5 swatches · saved")).to_be_visible()


def test_merging_goes_on_with_what_is_left(page: Page) -> None:
    typed(page, "#100000 #120000 #400000 #430000 #0000ff", 5)
    view(page, "Near twins")
    page.get_by_role("button", name="Merge to 3").click()
    expect(page.get_by_text("left 3 of 3")).to_be_visible()
    expect(page.get_by_text("Looking for near twins")).not_to_be_visible()
    page.get_by_role("spinbutton", name="Tolerance").fill("20")
    expect(page.get_by_role("button", name="Merge to 2")).to_be_enabled()
