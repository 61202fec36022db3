"""Gather in the browser: picking from a picture, companions, ladders, mixtures, another palette; and the editor."""

import io
import re

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.conftest import bring_in
from tests.browser.test_care import scan
from tests.browser.test_reduce_job import hexes, picture_pixel
from tests.pictures import opaque, png
from tests.waiting import until


def typed(page: Page, text: str, count: int, name: str = "") -> None:
    """A new palette of typed colors."""
    page.goto("/")
    page.get_by_role("button", name="New palette").click()
    page.get_by_label("Type or paste colors").fill(text)
    page.keyboard.press("Enter")
    expect(page.get_by_role("option")).to_have_count(count)
    page.keyboard.press("Escape")
    if name:
        page.get_by_label("Palette name").fill(name)
        page.keyboard.press("Enter")
    expect(page.get_by_text(f"{count} swatches · saved")).to_be_visible()


def halves() -> bytes:
    rgba = opaque(np.full((120, 160, 3), (200, 60, 20), np.uint8))
    rgba[:, :80] = (10, 20, 30, 255)
    return png(rgba)


def test_colors_are_picked_with_a_disc_along_a_line_and_by_keys(page: Page) -> None:
    bring_in(page, halves())
    page.keyboard.press("1")
    page.get_by_role("tab", name="From a picture").click()
    surface = page.get_by_role("application", name="Pick a color here")
    box = surface.bounding_box()
    assert box
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.move(middle[0] + 80, middle[1])
    expect(page.get_by_text("#c83c14 · 97 pixels")).to_be_visible()
    page.mouse.click(middle[0] + 80, middle[1])
    picked = page.get_by_role("list", name="Picked colors").get_by_role("button")
    expect(picked).to_have_count(1)
    page.mouse.move(middle[0], middle[1])
    expect(page.get_by_text("Two colors in one disc")).to_be_visible()
    scan(page)
    page.mouse.move(middle[0] - 90, middle[1])
    page.mouse.down()
    page.mouse.move(middle[0] + 90, middle[1], steps=5)
    page.mouse.up()
    expect(picked).to_have_count(6)
    surface.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(picked).to_have_count(7)
    for _ in range(4):
        picked.last.click()
    expect(picked).to_have_count(3)
    before = hexes(page)
    page.get_by_role("button", name="Add 3").click()
    expect(page.get_by_text(f"{len(before) + 3} swatches · saved")).to_be_visible()
    assert hexes(page)[-3:] == ["#c83c14", "#0a141e", "#0a141e"]
    expect(page.get_by_role("option", selected=True)).to_have_count(3)


def test_companions_and_colors_drawn_anew(page: Page) -> None:
    typed(page, "#7d5ba6 #f0e0c0", 2)
    page.get_by_role("option").first.click()
    page.get_by_role("tab", name="From a base color").click()
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    expect(page.get_by_role("option")).to_have_count(4)
    page.get_by_role("button", name="Scheme: split complement").click()
    page.get_by_role("radio", name="triad").check()
    page.keyboard.press("Escape")
    scan(page)
    page.get_by_role("button", name="Add 2").click()
    expect(page.get_by_text("4 swatches · saved")).to_be_visible()
    hues = [round(float(value)) for value in page.evaluate("""async () => {
        const id = location.pathname.split('/').pop();
        const palette = await (await fetch(`/api/palettes/${id}`)).json();
        return palette.swatches.map(swatch => swatch.oklch[2]);
    }""")]  # fmt: skip
    assert (hues[2] - hues[0]) % 360 in range(117, 124)
    assert (hues[3] - hues[0]) % 360 in range(236, 245)
    page.get_by_role("button", name="Scheme: triad").click()
    page.get_by_role("radio", name="drawn by chance").check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("option")).to_have_count(9)
    first = hexes(page)
    page.get_by_role("button", name="Draw others").click()
    expect(page.get_by_role("spinbutton", name="Seed")).to_have_value("2")
    expect(page.get_by_role("option").nth(5)).not_to_have_attribute("aria-label", re.compile(first[5]))
    assert hexes(page)[:4] == first[:4]
    page.get_by_role("button", name="Put back").click()
    expect(page.get_by_role("option")).to_have_count(4)


def test_ladders_and_mixtures_come_in_as_steps(page: Page) -> None:
    typed(page, "#fcd200 #0a3fb0", 2)
    page.get_by_role("tab", name="Ladders").click()
    expect(page.get_by_role("option")).to_have_count(11)
    page.get_by_role("button", name="What is added").click()
    page.get_by_role("radio", name="grays by percent of black").check()
    page.keyboard.press("Escape")
    page.get_by_role("spinbutton", name="Steps").fill("5")
    page.keyboard.press("Escape")
    expect(page.get_by_role("option", name="K 25")).to_be_visible()
    page.get_by_role("button", name="Add 5").click()
    expect(page.get_by_text("7 swatches · saved")).to_be_visible()
    assert hexes(page)[2:] == ["#ffffff", "#bfbfbf", "#808080", "#404040", "#000000"]
    page.get_by_role("tab", name="Mix by parts").click()
    page.get_by_role("option").nth(0).click()
    page.get_by_role("option").nth(1).click(modifiers=["Control"])
    page.get_by_role("button", name="Take the selected 2 swatches").click()
    paint = page.get_by_role("region", name="Mixed as paint")
    expect(paint.get_by_role("button", name=re.compile("^Keep step"))).to_have_count(7)
    scan(page)
    page.get_by_role("spinbutton", name=re.compile("^Parts of")).first.fill("0")
    page.get_by_role("spinbutton", name=re.compile("^Parts of")).last.fill("0")
    expect(page.get_by_role("alert")).to_contain_text("All parts are 0")
    page.get_by_role("spinbutton", name=re.compile("^Parts of")).first.fill("3")
    page.get_by_role("spinbutton", name=re.compile("^Parts of")).last.fill("1")
    for word in ("part", "parts"):
        expect(page.get_by_text(word, exact=True)).to_have_count(1)
    paint.get_by_role("button", name=re.compile("^Keep step 4")).click()
    expect(page.get_by_text("8 swatches · saved")).to_be_visible()
    red, green, blue = (int(hexes(page)[-1][place : place + 2], 16) for place in (1, 3, 5))
    assert green > red
    assert green > blue, "yellow and blue paint make a green"


def test_another_palette_comes_in_by_choice(page: Page) -> None:
    typed(page, "Soot #111111\nChalk #ffffff", 2, "Card")
    typed(page, "#c04030 #121212", 2, "Mine")
    page.get_by_role("tab", name="From a palette or file").click()
    page.get_by_role("button", name=re.compile("^Card 2 swatches")).click()
    expect(page.get_by_text("Soot").first).to_be_visible()
    scan(page)
    page.get_by_role("button", name="How they come in").click()
    page.get_by_role("radio", name="unite them").check()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Bring them in").click()
    expect(page.get_by_text("3 swatches · saved")).to_be_visible()
    assert hexes(page) == ["#c04030", "#121212", "#ffffff"]


def test_the_editor_in_other_spaces_holds_lightness_and_sets_alpha(page: Page) -> None:
    bring_in(page, halves())
    page.get_by_role("option", name="#c83c14").click()
    page.get_by_role("radio", name="RGB sliders").click()
    field = page.get_by_label("Green, number")
    expect(field).to_have_value("60")
    field.fill("90")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="#c85a14")).to_be_visible()
    until(lambda: picture_pixel(page, 0.6)[:3] == [200, 90, 20], "the picture follows")
    page.get_by_role("radio", name="HSV sliders").click()
    page.get_by_label("Hold lightness").check()
    figures = page.get_by_role("radio", name="OKLCh sliders")
    before = figures.inner_text().split()
    saturation = page.get_by_label("Saturation, number")
    expect(saturation).to_have_value("90")
    saturation.fill("40")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="#c85a14")).to_have_count(0)
    expect(figures).not_to_contain_text(before[2])
    after = figures.inner_text().split()
    assert after[1] == before[1], "lightness stays"
    assert float(after[2]) < float(before[2])
    page.get_by_role("slider", name="chroma × lightness").focus()
    page.keyboard.press("Shift+ArrowRight")
    page.get_by_role("button", name="was: back to it").click()
    expect(page.get_by_role("option", name="#c83c14")).to_be_visible()
    page.get_by_label("Alpha in percent").fill("50")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name=re.compile("#[0-9a-f]{6}80"))).to_have_count(1)
    page.get_by_label("Tags").fill("rim, warm")
    page.keyboard.press("Enter")
    page.get_by_label("Note").fill("for the press")
    page.get_by_label("Hex or any color notation").fill("K25")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="#bfbfbf")).to_be_visible()
    page.reload()
    page.get_by_role("option", name="#bfbfbf").click()
    expect(page.get_by_label("Tags")).to_have_value("rim, warm")
    expect(page.get_by_label("Note")).to_have_value("for the press")
    scan(page)


def test_planes_come_from_the_server_for_every_kind(page: Page) -> None:
    typed(page, "#c04030 #204080", 2)
    page.get_by_role("option").first.click()
    kinds = {"hue × chroma": "hue-chroma", "hue × lightness": "hue-lightness", "saturation × value": "saturation-value"}
    for label, kind in kinds.items():
        current = page.get_by_role("button", name=re.compile("×")).last
        with page.expect_response(lambda answer, kind=kind: f"kind={kind}" in answer.url) as waiting:
            current.click()
            page.get_by_role("radio", name=label).click()
        image = Image.open(io.BytesIO(waiting.value.body()))
        assert image.width > 200
        plane = page.get_by_role("slider", name=label)
        box = plane.bounding_box()
        assert box
        before = page.get_by_role("option").first.get_attribute("aria-label")
        page.mouse.click(box["x"] + box["width"] * 0.3, box["y"] + box["height"] * 0.5)
        expect(page.get_by_role("option").first).not_to_have_attribute("aria-label", before or "")
