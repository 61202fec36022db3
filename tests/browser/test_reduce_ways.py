"""Reduce in depth in the browser: other choosers, details, the error curve, marks, and the ways to compare."""

import io
import re

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.conftest import bring_in
from tests.browser.test_care import scan
from tests.browser.test_reduce_job import download, hexes, picture_pixel
from tests.pictures import opaque, png
from tests.waiting import until


def test_the_curve_sets_the_number_of_colors(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.get_by_role("button", name="How many colors?").click()
    knee = page.get_by_role("button", name=re.compile("^Past .* colors each one more buys little"))
    expect(knee).to_be_visible()
    scan(page)
    number = re.search(r"\d+", knee.inner_text())
    assert number
    knee.click()
    expect(page.get_by_role("spinbutton", name="Number of colors")).to_have_value(number.group())
    expect(page.get_by_role("option")).to_have_count(int(number.group()))
    chart = page.get_by_role("img", name=re.compile("^Error against the number of colors"))
    box = chart.bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] * 0.05, box["y"] + 20)
    expect(page.get_by_role("option")).to_have_count(2)


def test_compare_in_two_panes_flicker_gray_and_errors(page: Page) -> None:
    flat = opaque(np.full((90, 120, 3), (200, 60, 20), np.uint8))
    flat[:, :60] = (10, 20, 30, 255)
    bring_in(page, png(flat))
    expect(page.get_by_role("option")).to_have_count(2)
    page.get_by_role("button", name="Two panes").click()
    until(lambda: picture_pixel(page, 0.85)[:3] == [200, 60, 20], "the right pane shows the result")
    page.keyboard.down("f")
    until(lambda: picture_pixel(page, 0.85)[3] == 0, "while F is held the result is away")
    page.keyboard.up("f")
    until(lambda: picture_pixel(page, 0.85)[:3] == [200, 60, 20])
    page.get_by_role("button", name="In gray").click()
    until(lambda: len(set(picture_pixel(page, 0.85)[:3])) == 1)
    page.get_by_role("button", name="Error map").click()
    until(lambda: picture_pixel(page, 0.85)[:3] == [0, 0, 0], "a picture of two colors has no error")
    page.get_by_role("option", name="#c83c14").click()
    page.get_by_label("Hex or any color notation").fill("#000000")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="#000000")).to_be_visible()
    until(lambda: picture_pixel(page, 0.85)[:3] == [255, 255, 255], "off by more than ΔE 20")


def test_marks_weigh_parts_and_are_kept_in_the_recipe(page: Page) -> None:
    random = np.random.default_rng(0)
    halves = opaque(np.zeros((96, 160, 3), np.uint8))
    halves[:, :80, :3] = random.integers(0, 60, (96, 80, 3))
    halves[:, 80:, :3] = random.integers(190, 255, (96, 80, 3))
    bring_in(page, png(halves))
    page.get_by_role("button", name="Weigh parts").click()
    page.get_by_text("ignored", exact=True).click()
    area = page.get_by_role("application").bounding_box()
    assert area
    # The picture is fitted with a margin; a drag from beyond its corner to its middle covers the left half.
    page.mouse.move(area["x"] + 2, area["y"] + 2)
    page.mouse.down()
    page.mouse.move(area["x"] + area["width"] / 2, area["y"] + area["height"] - 2, steps=6)
    page.mouse.up()
    expect(page.get_by_role("img", name="1 marks")).to_be_visible()
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    expect(page.get_by_role("option", name=re.compile("#[0-8]"))).to_have_count(0)  # the dark half gets no color
    scan(page)
    page.keyboard.press("k")
    expect(page.get_by_text("24 swatches · saved")).to_be_visible()
    page.reload()
    page.get_by_role("button", name="History").click()
    expect(page.get_by_role("button", name=re.compile("1 mark weighed"))).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Weigh parts").click()
    expect(page.get_by_role("img", name="1 marks")).to_be_visible()
    page.get_by_role("button", name="Take the last back").click()
    expect(page.get_by_role("img", name="0 marks")).to_be_visible()


def test_a_tile_limit_holds_in_the_delivered_file(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.get_by_role("button", name="Dither: not at all").click()
    page.get_by_role("radio", name="Atkinson").check()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Details: as usual").click()
    page.get_by_role("radio", name="4 in 8×8").check()
    page.get_by_role("radio", name="by use").check()
    scan(page)
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Details: with 2 details")).to_be_visible()
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("24 swatches · saved")).to_be_visible()
    page.get_by_role("tab", name="Deliver").click()
    indices = np.asarray(Image.open(io.BytesIO(download(page, ".png indexed picture"))))
    tiles = [indices[y : y + 8, x : x + 8] for y in range(0, 192, 8) for x in range(0, 256, 8)]
    assert max(len(np.unique(tile)) for tile in tiles) <= 4


def test_colors_come_from_a_list_of_the_shelf(page: Page, picture: bytes) -> None:
    page.goto("/")
    page.get_by_role("button", name="New palette").click()
    page.get_by_label("Type or paste colors").fill("#000000 #ffffff #c06030 #203040 #8090a0")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option")).to_have_count(5)
    page.get_by_label("Palette name").fill("Display")
    page.keyboard.press("Enter")
    expect(page.get_by_text("5 swatches · saved")).to_be_visible()
    bring_in(page, picture)
    page.get_by_role("button", name="How colors are chosen").click()
    page.get_by_role("radio", name="the best of a list").check()
    page.keyboard.press("Escape")
    expect(page.get_by_text("The list holds too few colors yet")).to_be_visible()
    page.get_by_role("button", name="The list: a list that is still empty").click()
    page.get_by_role("button", name=re.compile("Display 5")).click()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="The list: these 5 of “Display”")).to_be_visible()
    page.get_by_role("spinbutton", name="Number of colors").fill("3")
    page.keyboard.press("Escape")
    expect(page.get_by_role("option")).to_have_count(3)
    assert set(hexes(page)) < {"#000000", "#ffffff", "#c06030", "#203040", "#8090a0"}


def test_a_proof_sheet_is_laid_out_saved_and_taken_from(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.get_by_role("button", name="Proof sheet").click()
    expect(page.get_by_text("Choose counts, choosers, dithers and grains, up to 12 combinations.")).to_be_visible()
    page.get_by_role("button", name="8", exact=True).click()
    page.get_by_role("button", name="4", exact=True).click()
    page.get_by_role("button", name="Lay out 6 proofs").click()
    sheet = page.get_by_role("list", name="Proofs")
    expect(sheet.get_by_role("listitem")).to_have_count(6)
    expect(sheet.get_by_text(re.compile(r"ΔE \d+\.\d, 95 % \d+\.\d, from afar \d+\.\d · .*B"))).to_have_count(6)
    scan(page)
    page.reload()
    page.get_by_role("button", name="Proof sheet").click()
    expect(sheet.get_by_role("listitem")).to_have_count(6)
    page.get_by_role("button", name="Take 4 colors off the sheet").click()
    expect(sheet.get_by_role("listitem")).to_have_count(5)
    page.get_by_role("button", name="Use 16 colors, Floyd–Steinberg, fine grain").click()
    expect(page.get_by_role("option")).to_have_count(16)
    expect(page.get_by_role("button", name="Dither: Floyd–Steinberg")).to_be_visible()


def test_recipes_are_kept_and_used_on_another_picture(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.get_by_role("spinbutton", name="Number of colors").fill("6")
    page.keyboard.press("Escape")
    expect(page.get_by_role("option")).to_have_count(6)
    page.get_by_role("button", name="Recipes").click()
    expect(page.get_by_text("No recipe is kept yet.")).to_be_visible()
    page.get_by_label("Name of the recipe").fill("Plates, short")
    page.keyboard.press("Enter")
    expect(page.get_by_role("list", name="Kept recipes").get_by_role("listitem")).to_have_count(1)
    bring_in(page, picture, "Another.png")
    expect(page.get_by_role("option")).to_have_count(24)
    page.get_by_role("button", name="Recipes").click()
    page.get_by_role("button", name="Plates, short 6 colors").click()
    expect(page.get_by_role("option")).to_have_count(6)


def test_unused_swatches_are_marked_and_dropped(page: Page) -> None:
    flat = opaque(np.full((40, 60, 3), (200, 60, 20), np.uint8))
    bring_in(page, png(flat))
    page.keyboard.press("a")
    page.get_by_label("Type or paste colors").fill("#00ff00 #0000ff")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="paints nothing")).to_have_count(2)
    page.keyboard.press("Escape")
    page.keyboard.press("2")
    page.get_by_role("button", name="Drop 2 unused").click()
    expect(page.get_by_role("option")).to_have_count(1)
