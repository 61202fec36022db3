"""Every window: nothing lies outside, the picture keeps its room, and what is pressed is large enough, for fingers too."""

import json
from contextlib import closing

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import bring_in, settled
from tests.browser.test_care import scan

LEAST_PICTURE = 0.4
MEASURED = """(least) => {
    const wrong = new Set();
    const wide = document.documentElement.clientWidth;
    if (document.documentElement.scrollWidth > wide) wrong.add(`sideways: ${document.documentElement.scrollWidth}`);
    const parts = 'button, a[href], select, input, [role=tab], [role=option], [role=slider], summary';
    for (const part of document.querySelectorAll(parts)) {
        const style = getComputedStyle(part);
        if (style.visibility === 'hidden' || !part.getClientRects().length || part.matches('[type=file]')) continue;
        const name = part.getAttribute('aria-label') || part.innerText || part.title || part.tagName;
        // A choice is pressed by its word, a thumb by its track.
        const pressed = (part.matches('[type=checkbox], [type=radio]') && part.closest('label'))
            || (part.matches('[role=slider]') && part.parentElement.closest('[data-orientation]')) || part;
        const box = pressed.getBoundingClientRect();
        const rect = part.getBoundingClientRect();
        if (rect.width < 2) continue;
        if (rect.right > wide + 1 || rect.left < -1) {
            let around = part.parentElement;
            const scrolls = (box) => /(auto|scroll)/.test(getComputedStyle(box).overflowX) && box.scrollWidth > box.clientWidth + 1;
            while (around && !scrolls(around)) around = around.parentElement;
            if (!around) wrong.add(`outside: ${name.slice(0, 40)}`);
        }
        const inText = part.closest('p, [data-sentence]') !== null;
        if (!inText && (box.width < least - 0.5 || box.height < least - 0.5))
            wrong.add(`${Math.round(box.width)} × ${Math.round(box.height)}: ${name.slice(0, 40)}`);
    }
    return [...wrong];
}"""
SHARE = """() => document.querySelector('[data-testid=picture]').getBoundingClientRect().height
    / document.querySelector('#stage').getBoundingClientRect().height"""


def walk(page: Page, least: int) -> None:
    found = {}
    for key in "123456":
        page.keyboard.press(key)
        settled(page)
        if wrong := page.evaluate(MEASURED, least):
            found[f"stage {key}"] = wrong
    assert found == {}, "\n" + json.dumps(found, ensure_ascii=False)


@pytest.mark.parametrize("size", [(1024, 700), (720, 450), (1280, 800), (2560, 1440)], ids=lambda size: f"{size[0]}x{size[1]}")
def test_every_stage_fits_the_window(page: Page, picture: bytes, size: tuple[int, int]) -> None:
    page.set_viewport_size({"width": size[0], "height": size[1]})
    bring_in(page, picture)
    settled(page)
    assert page.evaluate(SHARE) >= LEAST_PICTURE
    walk(page, 24)
    page.goto("/")
    expect(page.get_by_role("heading", name="Palettes 1")).to_be_visible()
    assert page.evaluate(MEASURED, 24) == []


def test_a_tall_window_worked_with_fingers(browser: Browser, page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    context = browser.new_context(viewport={"width": 820, "height": 1180}, has_touch=True, is_mobile=True)
    with closing(context):
        touched = context.new_page()
        touched.goto(page.url)
        expect(touched.get_by_role("option")).to_have_count(24)
        settled(touched)
        assert touched.evaluate("matchMedia('(pointer: coarse)').matches")
        assert touched.evaluate(SHARE) >= LEAST_PICTURE
        walk(touched, 44)
        scan(touched)
        # The readout opens over the stage, and a finger selects in the picture.
        touched.get_by_role("tab", name="Reduce").tap()
        settled(touched)
        box = touched.get_by_test_id("picture").bounding_box()
        assert box
        touched.touchscreen.tap(box["x"] + box["width"] * 0.7, box["y"] + box["height"] * 0.5)
        expect(touched.get_by_test_id("outline")).to_be_visible()
        touched.get_by_role("button", name="Readout").tap()
        expect(touched.get_by_label("Hex or any color notation")).to_be_visible()
        assert touched.evaluate(MEASURED, 44) == []


def test_naming_opens_the_readout_where_it_is_put_away(page: Page, picture: bytes) -> None:
    page.set_viewport_size({"width": 900, "height": 700})
    bring_in(page, picture)
    page.get_by_role("option").nth(2).click()
    expect(page.get_by_label("Hex or any color notation")).to_have_count(0)
    page.keyboard.press("F2")
    expect(page.get_by_role("textbox", name="Name of swatch 2")).to_be_focused()
    page.keyboard.type("Moss")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="2 Moss")).to_be_visible()
    page.get_by_role("button", name="Readout").click()
    expect(page.get_by_label("Hex or any color notation")).to_have_count(0)
