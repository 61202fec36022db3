"""What is made elsewhere is seen as it is made: in other browsers, of the same artist, on the application as it is served."""

from collections.abc import Iterator
from contextlib import ExitStack, contextmanager

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from tests.server.test_served import port, serving, signed_in

__all__ = ["port", "serving"]


def palette_path(page: Page) -> str:
    return "/palettes/" + page.url.partition("/palettes/")[2].partition("?")[0]


@contextmanager
def at(browser: Browser, port: int, name: str) -> Iterator[BrowserContext]:
    """An artist at a browser that knows nothing of any other."""
    address = f"http://127.0.0.1:{port}"
    cookies = [dict(zip(("name", "value"), pair.split("="), strict=True)) | {"url": address} for pair in signed_in(name).split("; ")]
    context = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800})
    context.add_cookies(cookies)  # type: ignore[arg-type]
    try:
        yield context
    finally:
        context.close()


@pytest.fixture
def two(browser: Browser, port: int) -> Iterator[tuple[Page, Page]]:
    """Two benches of one palette, in two browsers."""
    with ExitStack() as stack:
        first, second = (stack.enter_context(at(browser, port, "ada")).new_page() for _ in range(2))
        first.goto("/")
        first.get_by_role("button", name="New palette").click()
        first.get_by_label("Type or paste colors").fill("Night #1b1a1d\nLamp #e85421")
        first.keyboard.press("Enter")
        expect(first.get_by_text("2 swatches · saved")).to_be_visible()
        second.goto(first.url)
        expect(second.get_by_role("option")).to_have_count(2)
        yield first, second


def test_two_people_see_each_others_steps(two: tuple[Page, Page]) -> None:
    first, second = two
    first.get_by_label("Type or paste colors").fill("Paper #f3ead6")
    first.keyboard.press("Enter")
    expect(second.get_by_role("option", name="Paper")).to_be_visible()
    # What one is in the middle of typing stays.
    second.get_by_label("Type or paste colors").fill("Half a wor")
    first.keyboard.press("Escape")
    first.get_by_role("option", name="Lamp").click()
    first.keyboard.press("Delete")
    expect(second.get_by_role("option")).to_have_count(2)
    expect(second.get_by_label("Type or paste colors")).to_have_value("Half a wor")
    # Back from the other side; and steps of both, one after the other, without a refusal.
    second.keyboard.press("Escape")
    second.keyboard.press("Control+z")
    expect(first.get_by_role("option", name="Lamp")).to_be_visible()
    first.get_by_role("option", name="Night").click()
    first.keyboard.press("l")
    expect(second.get_by_role("option", name="Night")).to_have_attribute("aria-label", "0 Night, #1b1a1d, locked")
    for page in two:
        expect(page.get_by_role("button", name="Make my step again")).to_have_count(0)
        expect(page.get_by_text("3 swatches · saved")).to_be_visible()
    # One's own steps are not fetched once more because they were announced, however fast they follow each other.
    fetched: list[str] = []
    first.on("request", lambda request: fetched.append(request.url) if request.method == "GET" else None)
    first.get_by_label("Type or paste colors").fill("#102030")
    for code in ("#203040", "#304050", "#405060"):
        first.keyboard.press("Enter")
        first.keyboard.type(code)
    first.keyboard.press("Enter")
    for page in two:
        expect(page.get_by_role("option")).to_have_count(7)
    expect(first.get_by_text("7 swatches · saved")).to_be_visible()
    # On a shelf as well.
    second.get_by_role("link", name="Shelf").click()
    expect(second.get_by_text("Untitled", exact=True)).to_be_visible()
    first.get_by_label("Palette name").fill("Harbour")
    first.keyboard.press("Enter")
    expect(second.get_by_text("Harbour", exact=True)).to_be_visible()
    # By now all of the steps before were announced to the first as well.
    assert [url for url in fetched if url.endswith(f"/api{palette_path(first)}")] == []
