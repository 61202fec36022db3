"""The check stage in Chromium: a mend made and undone, live verdicts, lenses, limits, and all of it by keys."""

import re

import numpy as np
from playwright.sync_api import Page, expect

from huvren.core.lenses import LENSES
from tests.browser.conftest import bring_in, settled
from tests.browser.test_arranging import hexes
from tests.browser.test_care import scan
from tests.browser.test_gathering import typed
from tests.pictures import opaque, png
from tests.waiting import until

MUDDY = ("#8a8f6a", "#a39a78", "#7d8a92", "#b0a58c")


def begin(page: Page, *codes: str) -> None:
    """A new palette of typed colors, at the check stage."""
    page.goto("/")
    page.get_by_role("button", name="New palette").click()
    page.get_by_label("Type or paste colors").fill(" ".join(codes))
    page.keyboard.press("Enter")
    expect(page.get_by_role("option")).to_have_count(len(codes))
    page.keyboard.press("Escape")
    page.keyboard.press("5")
    expect(page.get_by_role("tablist", name="Questions")).to_be_visible()


def question(page: Page, words: str) -> None:
    page.get_by_role("tab", name=words).click()
    expect(page.get_by_role("heading", name=words)).to_be_visible()


def seen(lens: str, code: str) -> str:
    """What the strip shows of a color through a lens, as the browser writes it."""
    rgb = np.array([[int(code[at : at + 2], 16) for at in (1, 3, 5)]], np.uint8)
    return "rgb({}, {}, {})".format(*LENSES[lens].through_bytes(rgb)[0].tolist())


def background(page: Page, place: int) -> str:
    return str(page.get_by_role("option").nth(place).locator("div").first.evaluate("node => getComputedStyle(node).backgroundColor"))


def test_text_that_cannot_be_read_is_mended_and_the_mend_undone(page: Page) -> None:
    begin(page, *MUDDY)
    question(page, "Can text be read on it?")
    status = page.get_by_role("status").filter(has_text="No pair carries text")
    expect(status).to_be_visible()
    expect(page.get_by_role("tab", name="Can text be read on it?").get_by_label("fails")).to_be_visible()
    scan(page)
    part = status.get_by_role("button").first
    part.hover()
    expect(page.locator("[data-marked]")).to_have_count(2)
    part.click()
    expect(page.get_by_role("option", selected=True)).to_have_count(2)
    page.get_by_role("button", name="Make ").first.click()
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    expect(page.get_by_role("tab", name="Can text be read on it?").get_by_label("holds")).to_be_visible()
    page.get_by_role("button", name="Put back").click()
    expect(page.get_by_role("tab", name="Can text be read on it?").get_by_label("fails")).to_be_visible()
    assert hexes(page) == list(MUDDY)
    page.get_by_role("button", name="Make ").first.click()
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("4 swatches · saved")).to_be_visible()
    expect(page.get_by_role("tab", name="Can text be read on it?").get_by_label("holds")).to_be_visible()
    assert sum(now != was for now, was in zip(hexes(page), MUDDY, strict=True)) == 1
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("tab", name="Can text be read on it?").get_by_label("fails")).to_be_visible()
    assert hexes(page) == list(MUDDY)


def test_a_check_and_its_mend_by_keys_alone(page: Page) -> None:
    begin(page, *MUDDY)
    page.get_by_role("tab", name="Is it balanced?").focus()
    for _ in range(3):
        page.keyboard.press("ArrowDown")
    expect(page.get_by_role("tab", selected=True).filter(has_text="Can text be read on it?")).to_be_focused()
    expect(page.get_by_role("button", name="Make ").first).to_be_visible()
    for _ in range(60):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.textContent").startswith("Make "):
            break
    page.keyboard.press("Enter")
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    page.keyboard.press("k")
    expect(page.get_by_text("4 swatches · saved")).to_be_visible()
    expect(page.get_by_role("tab", name="Can text be read on it?").get_by_label("holds")).to_be_visible()


def test_a_verdict_follows_the_slider_before_it_is_let_go(page: Page) -> None:
    begin(page, *MUDDY)
    question(page, "Can text be read on it?")
    page.get_by_role("option").first.click()
    thumb = page.get_by_role("slider", name="Lightness", exact=True)
    box = thumb.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + 2, box["y"] + box["height"] / 2, steps=12)
    expect(page.get_by_role("tab", name="Can text be read on it?").get_by_label("holds")).to_be_visible()
    kept = page.evaluate("""async () => {
        const id = location.pathname.split('/').pop();
        return (await (await fetch(`/api/palettes/${id}`)).json()).swatches[0].hex;
    }""")
    assert kept == MUDDY[0], "it is not kept yet"
    page.mouse.up()
    expect(page.get_by_text("4 swatches · saved")).to_be_visible()
    assert hexes(page)[0] != MUDDY[0]


def test_a_lens_is_over_strip_picture_and_ramp_and_in_no_file(page: Page) -> None:
    rgb = np.zeros((120, 160, 3), np.uint8)
    rgb[:] = (200, 60, 20)
    rgb[:, 80:] = (43, 181, 160)
    bring_in(page, png(opaque(rgb)))
    before = hexes(page)
    page.get_by_role("button", name="Lens", exact=True).click()
    page.get_by_role("radio", name="lightness only").check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Lens: lightness only")).to_be_visible()
    for place, code in enumerate(before):
        expect(page.get_by_role("option").nth(place).locator("div").first).to_have_css("background-color", seen("lightness", code))
    assert hexes(page) == before, "codes stay what they are"

    def grays(selector: str) -> bool:
        return bool(page.evaluate("""(selector) => {
            const canvases = [...document.querySelectorAll(selector)].filter((canvas) => canvas.width > 1);
            return canvases.length > 0 && canvases.every((canvas) => {
                const data = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height).data;
                for (let place = 0; place < data.length; place += 4)
                    if (data[place + 3] > 0 && (data[place] !== data[place + 1] || data[place] !== data[place + 2])) return false;
                return true;
            });
        }""", selector))  # fmt: skip

    until(lambda: grays("main canvas"), "both sides of the divider")
    page.keyboard.press("4")
    expect(page.get_by_role("slider", name=re.compile("^Position of ")).first).to_be_visible()
    until(lambda: grays("main canvas"), "and every lane")
    code = page.evaluate("""async () => {
        const id = location.pathname.split('/').pop();
        return await (await fetch(`/api/palettes/${id}/files/hex`)).text();
    }""")
    assert {line.strip().lower() for line in code.split()} == {code[1:] for code in before}
    page.get_by_role("button", name="Lens: lightness only").click()
    scan(page)
    page.get_by_role("button", name="Take the lens off").click()
    page.keyboard.press("Escape")
    red = "rgb({}, {}, {})".format(*(int(before[0][at : at + 2], 16) for at in (1, 3, 5)))
    expect(page.get_by_role("option").first.locator("div").first).to_have_css("background-color", red)


def test_limits_are_kept_and_taken_to_another_palette(page: Page) -> None:
    begin(page, "#777777", "#ffffff")
    question(page, "Can text be read on it?")
    expect(page.get_by_role("tab", name="Can text be read on it?").get_by_label("look again")).to_be_visible()
    least = page.get_by_label("at least").first
    least.fill("4")
    page.keyboard.press("Enter")
    expect(page.get_by_role("tab", name="Can text be read on it?").get_by_label("holds")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Keep limits").click()
    expect(page.get_by_role("button", name="Keep limits")).to_have_count(0)
    page.get_by_role("button", name="Sets of limits …").click()
    page.get_by_label("Name for these limits").fill("Gallery wall")
    page.keyboard.press("Enter")
    expect(page.get_by_text("on the shelf as “Gallery wall”")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("tab", name="Can text be read on it?").get_by_label("look again")).to_be_visible()
    begin(page, "#787878", "#ffffff")
    question(page, "Can text be read on it?")
    page.get_by_role("button", name="Sets of limits …").click()
    page.get_by_role("button", name="Gallery wall", exact=True).click()
    expect(page.get_by_role("tab", name="Can text be read on it?").get_by_label("holds")).to_be_visible()
    expect(page.get_by_label("at least").first).to_have_value("4.0")


def test_the_header_counts_in_every_stage_and_leads_to_the_questions(page: Page) -> None:
    begin(page, *MUDDY)
    page.keyboard.press("3")
    count = page.get_by_role("button", name=re.compile(r"^\d+ to look at$"))
    expect(count).to_be_visible()
    count.click()
    questions = page.get_by_role("tablist", name="Questions")
    expect(questions).to_be_visible()
    page.get_by_label("worst first").check()
    marks = [tab.locator("svg").get_attribute("aria-label") for tab in questions.get_by_role("tab").all()]
    order = ["fails", "look again", "holds", "nothing to say"]
    assert [order.index(mark or "") for mark in marks] == sorted(order.index(mark or "") for mark in marks)
    page.get_by_role("button", name="Why this matters").click()
    expect(page.get_by_text("What to look for.")).to_be_visible()
    expect(page.get_by_text("An example:")).to_be_visible()


def test_the_lamp_is_turned_by_pointer_and_keys(page: Page) -> None:
    begin(page, "#2a1610", "#8a3c14", "#c8641e", "#ffd478")
    question(page, "Does it shade?")
    lamp = page.get_by_role("slider", name="Where the lamp stands, in degrees")
    expect(lamp).to_have_attribute("aria-valuenow", "130")
    painted = "document.querySelector('[data-drawing] canvas').toDataURL()"
    before = page.evaluate(painted)
    lamp.focus()
    page.keyboard.press("ArrowRight")
    expect(lamp).to_have_attribute("aria-valuenow", "125")
    box = lamp.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + 60, box["y"] + 24, steps=6)
    page.mouse.up()
    expect(lamp).not_to_have_attribute("aria-valuenow", "125")
    page.wait_for_function(f"(before) => {painted} !== before", arg=before)


def test_an_empty_palette_says_so(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="New palette").click()
    page.get_by_role("tab", name="5 Check").click()
    expect(page.get_by_text("The palette is empty.").first).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("to look at"))).to_have_count(0)
    scan(page)


def test_a_mend_says_what_else_it_changes_and_mends_are_chained(page: Page) -> None:
    # Two that melt in gray, beside colors that a chart tells apart.
    typed(page, "#b04a3a #4a7a3a #8a5a9a #c8b070 #20242c", 5)
    page.keyboard.press("5")
    page.get_by_role("tab", name=re.compile("gray", re.I)).first.click()
    settled(page)
    mend = page.get_by_role("button", name=re.compile("^Make "))
    expect(mend.first).to_be_visible()
    mend.first.click()
    said = page.get_by_text(re.compile("^Tried out"))
    expect(said).to_be_visible()
    expect(page.get_by_text("looking at every check")).to_have_count(0)
    # What it says is what the checks say: of the palette as it is kept, and with the mend.
    marks = {
        name: page.locator(f"#question-{name} svg").get_attribute("aria-label")
        for name in page.locator("[id^=question-]").evaluate_all("all => all.map((one) => one.id.slice(9))")
    }
    moved = said.text_content() or ""
    page.keyboard.press("Escape")
    expect(said).to_have_count(0)
    settled(page)
    expect(mend.first).to_be_enabled()
    kept = {name: page.locator(f"#question-{name} svg").get_attribute("aria-label") for name in marks}
    changed = {name for name in marks if marks[name] != kept[name]}
    assert moved.count("→") == len(changed), (moved, marks, kept)
    for name in changed:
        assert f"{kept[name]} → {marks[name]}" in moved
    # Chained: a second one on top of the first, kept as one step.
    mend.first.click()
    expect(said).to_be_visible()
    expect(page.get_by_text("looking at every check")).to_have_count(0)
    page.get_by_role("tab", name=re.compile("screen", re.I)).first.click()
    settled(page)
    if mend.count():
        mend.first.click()
        expect(page.get_by_text(re.compile("^2 mends tried out"))).to_be_visible()
        page.get_by_role("button", name="One less").click()
        expect(page.get_by_text(re.compile("^Tried out"))).to_be_visible()
    page.keyboard.press("k")
    expect(page.get_by_text("5 swatches · saved")).to_be_visible()
    page.get_by_role("button", name="Undo").first.click()
    expect(page.get_by_role("option", name=re.compile("#b04a3a"))).to_be_visible()
