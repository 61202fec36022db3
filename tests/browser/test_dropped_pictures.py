"""A picture that comes to a bench: what it is for is asked, and the view does what was asked and no more."""

import re

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import bring_in, settled
from tests.browser.test_care import scan
from tests.browser.test_gathering import typed
from tests.pictures import painted, png
from tests.waiting import until

DROP = """(files) => {
    const carried = new DataTransfer();
    for (const [name, bytes] of files) carried.items.add(new File([new Uint8Array(bytes)], name, { type: 'image/png' }));
    const on = document.querySelector('#stage') ?? document.querySelector('main');
    for (const kind of ['dragover', 'drop'])
        on.dispatchEvent(new DragEvent(kind, { dataTransfer: carried, bubbles: true, cancelable: true }));
}"""


def drop(page: Page, **pictures: bytes) -> None:
    """Let go of pictures over the page, named without their ending."""
    page.evaluate(DROP, [[f"{name}.png", list(data)] for name, data in pictures.items()])


def plate(seed: int) -> bytes:
    return png(painted(48, 64, seed))


@pytest.fixture
def bench(page: Page) -> Page:
    """A bench with three typed swatches."""
    typed(page, "#1b1a1d #e85421 #f3ead6", 3)
    expect(page.get_by_role("option")).to_have_count(3)
    settled(page)
    return page


def hexes(page: Page) -> list[str]:
    labels = page.get_by_role("option").evaluate_all("all => all.map((one) => one.getAttribute('aria-label'))")
    return [re.search(r"#\w{6}", label)[0] for label in labels]


def test_a_dropped_picture_is_painted_with_the_palette(bench: Page) -> None:
    before = hexes(bench)
    drop(bench, Heath=plate(5))
    asked = bench.get_by_role("dialog", name="What is this picture for?")
    expect(asked).to_be_visible()
    expect(asked.get_by_role("button", name=re.compile("^Paint it"))).to_be_focused()
    scan(bench)
    bench.keyboard.press("Enter")
    expect(bench.get_by_role("button", name="Picture: Heath.png")).to_be_visible()
    expect(bench.get_by_role("tab", name="Reduce")).to_have_attribute("aria-selected", "true")
    assert hexes(bench) == before


def test_it_is_reduced_on_a_bench_of_its_own(bench: Page) -> None:
    here = bench.url
    drop(bench, Heath=plate(5))
    bench.get_by_role("button", name=re.compile("on a bench of its own")).click()
    expect(bench.get_by_role("option")).to_have_count(24)
    assert bench.url.split("?")[0] != here.split("?")[0]
    bench.goto(here)
    expect(bench.get_by_role("option")).to_have_count(3)


def test_it_is_picked_from(bench: Page) -> None:
    drop(bench, Heath=plate(5), Fen=plate(6))
    bench.get_by_role("button", name=re.compile("^Pick from them")).click()
    expect(bench.get_by_role("button", name="Picture: Heath.png")).to_be_visible()
    expect(bench.get_by_role("application", name=re.compile("Pick a color here"))).to_be_visible()
    expect(bench.get_by_role("option")).to_have_count(3)
    expect(bench.get_by_text("On the shelf: Heath.png, Fen.png.")).to_be_visible()
    # What is picked from stays chosen when the view is left and come back to.
    bench.keyboard.press("3")
    settled(bench)
    bench.keyboard.press("p")
    expect(bench.get_by_role("button", name="Picture: Heath.png")).to_be_visible()


def test_escape_leaves_everything_as_it_is(bench: Page) -> None:
    drop(bench, Heath=plate(5))
    expect(bench.get_by_role("dialog", name="What is this picture for?")).to_be_visible()
    bench.keyboard.press("Escape")
    expect(bench.get_by_role("dialog")).to_have_count(0)
    expect(bench.get_by_role("option")).to_have_count(3)
    bench.goto("/")
    expect(bench.get_by_text("Heath.png")).to_have_count(0)


def test_several_say_what_was_made_and_the_view_stays(bench: Page) -> None:
    bench.keyboard.press("3")
    settled(bench)
    here = bench.url
    drop(bench, Heath=plate(5), Fen=plate(6), Moor=plate(7), Reed=plate(8))
    bench.get_by_role("button", name=re.compile("^Reduce each on a bench")).click()
    expect(bench.get_by_text("4 pictures are reduced: Heath.png, Fen.png, Moor.png and 1 more.")).to_be_visible()
    assert bench.url == here
    bench.get_by_role("button", name="Go to the shelf").click()
    expect(bench.get_by_role("button", name=re.compile("24 swatches"))).to_have_count(4)
    drop(bench, Dusk=plate(9), Dawn=plate(10))
    expect(bench.get_by_text("2 pictures are reduced: Dusk.png, Dawn.png.")).to_be_visible()
    expect(bench.get_by_role("button", name=re.compile("24 swatches"))).to_have_count(6)


@pytest.mark.provokes("status of 422")
def test_a_broken_one_among_several_is_named_and_the_others_come(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    drop(page, Heath=plate(5), Broken=b"no picture at all", Fen=plate(6))
    page.get_by_role("button", name=re.compile("^Paint them")).click()
    expect(page.get_by_text("Painted with this palette: Heath.png, Fen.png.")).to_be_visible()
    expect(page.get_by_text(re.compile("“Broken.png” is not a picture"))).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("Picture: Fen.png 3 of 3"))).to_be_visible()


def test_a_picture_that_comes_before_it_is_known_what_a_picture_is_opens_a_bench(page: Page) -> None:
    held: list[Route] = []
    page.route("**/api/menus", lambda route: held.append(route))
    page.goto("/")
    expect(page.get_by_text("Begin with a picture")).to_be_visible()
    drop(page, Heath=plate(5))
    until(lambda: page.title() and held)
    expect(page.get_by_role("region", name="Import")).to_have_count(0)
    page.unroute("**/api/menus")
    page.get_by_role("slider", name="Divider between original and result").wait_for()
    expect(page.get_by_role("option")).to_have_count(24)
