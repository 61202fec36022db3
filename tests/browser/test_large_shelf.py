"""A shelf of thousands: pages come as they are looked at, searches are the server's, and selections go beyond what has come."""

import re
from uuid import uuid4

import pytest
from django.contrib.auth import get_user_model
from playwright.sync_api import Page, Route, expect

from huvren.core.color.value import Color
from huvren.core.names import folded
from huvren.core.palette.values import Palette as PaletteValue
from huvren.core.palette.values import Swatch
from huvren.studio.models import Palette
from huvren.studio.services.shelf import palettes
from tests.browser.test_care import scan
from tests.browser.test_gathering import typed

MANY = 3000


@pytest.fixture
def thousands(page: Page) -> int:
    """Cards of one palette under many names: `Card 0000` and so on, the last one newest."""
    artist = get_user_model().objects.get(username="demo")
    swatches = tuple(Swatch(Color.from_bytes(200, place * 3, 90), "Reed", f"s{place}") for place in range(64))
    row = palettes.create(artist, PaletteValue("Card", swatches, tags=("press",)), "Begin").row
    fields = {field.attname: getattr(row, field.attname) for field in Palette._meta.concrete_fields}
    made = []
    for number in range(MANY):
        name = f"Card {number:04}"
        made.append(Palette(**fields | {"id": uuid4(), "name": name, "searched": folded(f"{name}\npress")}))
    Palette.objects.bulk_create(made, batch_size=500)
    row.delete()
    return MANY


@pytest.fixture
def asked(page: Page) -> list[str]:
    """The addresses of the shelf that the page asks for."""
    seen: list[str] = []
    page.on("request", lambda request: seen.append(request.url) if "/api/shelf/palettes" in request.url else None)
    return seen


def heading(page: Page) -> str:
    return page.get_by_role("heading", name=re.compile("^Palettes")).inner_text()


def test_pages_come_as_far_as_is_looked(page: Page, thousands: int, asked: list[str]) -> None:
    page.goto("/")
    page.get_by_text("Card 2999", exact=True).wait_for()
    assert heading(page) == "Palettes 3,000"
    assert len(asked) <= 2, "the first page, and at most the one after it"
    area = page.get_by_role("main")
    room = area.evaluate("area => area.scrollHeight")
    assert room > thousands / 4 * 122, "there is room for all from the beginning"
    area.evaluate("area => area.scrollTo(0, area.scrollHeight / 2)")
    page.get_by_text(re.compile("Card 1[45]")).first.wait_for()
    area.evaluate("area => area.scrollTo(0, area.scrollHeight)")
    page.get_by_text("Card 0000", exact=True).wait_for()
    assert abs(area.evaluate("area => area.scrollHeight") - room) < 200, "and it does not grow under the hand"
    assert len(set(asked)) <= 2 + thousands // 200 + 1
    assert len(asked) == len(set(asked)), "no page is asked for twice"


def test_all_are_selected_beyond_what_has_come_and_a_selection_outlives_a_search(page: Page, thousands: int) -> None:
    typed(page, "#102030 #405060", 2, "Dusk")
    page.goto("/")
    page.get_by_role("button", name="Select", exact=True).click()
    page.get_by_role("button", name=re.compile("^Dusk")).click()
    search = page.get_by_label("Search by name")
    search.fill('"card 00"')
    expect(page.get_by_role("heading", name="Palettes 100 of 3,001")).to_be_visible()
    expect(page.get_by_text("1 palette selected")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Card 0097")).click()
    expect(page.get_by_text("2 palettes selected")).to_be_visible()
    search.fill("card 2999")
    page.get_by_role("button", name="All", exact=True).click()  # before the search is answered
    expect(page.get_by_text("1 palette selected")).to_be_visible()
    search.fill('"card 00"')
    page.get_by_role("button", name="All", exact=True).click()
    expect(page.get_by_text("100 palettes selected")).to_be_visible()
    page.get_by_role("region", name="Selection").get_by_role("button", name="Trash").click()
    expect(page.get_by_text("100 palettes in the trash.")).to_be_visible()
    expect(page.get_by_text('Nothing on the shelf is like “"card 00"”.')).to_be_visible()
    page.get_by_role("button", name="Put them back").click()
    expect(page.get_by_role("heading", name="Palettes 100 of 3,001")).to_be_visible()
    search.fill("")
    expect(page.get_by_role("heading", name="Palettes 3,001")).to_be_visible()


def test_a_range_goes_over_cards_of_several_pages(page: Page, thousands: int) -> None:
    page.goto("/")
    page.get_by_role("button", name="Select", exact=True).click()
    page.get_by_role("button", name=re.compile("^Card 2999")).click()
    page.get_by_role("main").evaluate("area => area.scrollTo(0, 122 * 40)")
    card = page.get_by_role("button", name=re.compile("^Card 28")).first
    number = int(re.search(r"Card (\d+)", card.inner_text())[1])  # type: ignore[index]
    card.click(modifiers=["Shift"])
    expect(page.get_by_text(f"{thousands - number} palettes selected")).to_be_visible()


def test_what_is_typed_fast_is_answered_by_its_last_letter(page: Page, thousands: int, asked: list[str]) -> None:
    """With answers that come late and out of their order; what is not an answer to the words above it is drawn as such."""
    page.goto("/")
    page.get_by_text("Card 2999", exact=True).wait_for()
    held: list[Route] = []
    page.route("**/api/shelf/palettes?q=card*", lambda route: held.append(route))
    search, area = page.get_by_label("Search by name"), page.get_by_role("main")
    search.press_sequentially("card 12", delay=0)
    expect(area).to_have_attribute("aria-busy", "true")
    page.wait_for_function("() => document.querySelector('input[type=search]').value === 'card 12'")
    expect(page.get_by_role("heading", name="Palettes 3,000")).to_be_visible()
    while not any("q=card%2012&" in route.request.url for route in held):
        page.evaluate("() => new Promise(requestAnimationFrame)")
    assert len(held) <= 3, "not every letter is sent"
    search.press_sequentially("34", delay=0)
    while not any("q=card%201234&" in route.request.url for route in held):
        page.evaluate("() => new Promise(requestAnimationFrame)")
    for route in reversed(held):
        route.continue_()  # what the page has given up is answered by nobody
    expect(area).to_have_attribute("aria-busy", "false")
    expect(page.get_by_role("heading", name="Palettes 1 of 3,000")).to_be_visible()
    expect(page.get_by_text("Card 1234", exact=True)).to_be_visible()
    search.fill("")
    expect(page.get_by_role("heading", name="Palettes 3,000")).to_be_visible()
    assert asked


@pytest.mark.provokes("status of 422")
def test_a_color_that_is_none_is_said_until_there_is_one(page: Page, thousands: int) -> None:
    page.goto("/")
    search = page.get_by_label("Search by name")
    search.fill("near #12")
    expect(page.get_by_role("alert")).to_contain_text("is no color")
    search.fill("near #c8005a within 3")
    expect(page.get_by_role("alert")).to_have_count(0)
    expect(page.get_by_text("nearest ΔE 0.0").first).to_be_visible()
    page.get_by_role("button", name="Trash", exact=True).click()
    expect(page.get_by_text(re.compile("^Card"))).to_have_count(0)
    search.fill("")
    expect(page.get_by_text("The trash is empty")).to_be_visible()


def test_a_list_to_choose_from_looks_for_what_it_does_not_show(page: Page, thousands: int) -> None:
    typed(page, "#102030 #ffd478", 2, "Dusk")
    page.keyboard.press("3")
    page.get_by_role("tab", name="Against another").click()
    field = page.get_by_label("Search palettes")
    field.press_sequentially("0042", delay=0)
    cards = page.get_by_role("list", name="Palettes of the shelf").get_by_role("button")
    expect(cards).to_have_count(1)
    scan(page)
    field.fill("nothing such")
    expect(page.get_by_text("Nothing on the shelf is like “nothing such”.")).to_be_visible()
    field.fill("0042")
    expect(cards).to_have_count(1)
    cards.click()
    expect(page.get_by_text("Card 0042").first).to_be_visible()
    assert thousands


def test_what_is_done_in_the_middle_keeps_the_place_that_is_looked_at(page: Page, thousands: int) -> None:
    page.goto("/")
    page.get_by_text("Card 2999", exact=True).wait_for()
    area = page.get_by_role("main")
    area.evaluate("area => area.scrollTo(0, 122 * 60)")
    name = page.get_by_role("button", name=re.compile("^Card 28")).nth(6).inner_text().split("\n")[0]
    star = page.get_by_label(f"Favorite: {name}")
    star.focus()
    before = area.evaluate("area => area.scrollTop")
    page.keyboard.press("Enter")
    expect(page.get_by_label(f"No longer a favorite: {name}")).to_have_count(0)
    expect(star).to_have_count(0)
    assert area.evaluate("area => area.scrollTop") == before
    area.evaluate("area => area.scrollTo(0, 0)")
    expect(page.get_by_label(f"No longer a favorite: {name}")).to_be_visible()
    assert heading(page) == f"Palettes {thousands:,}"


@pytest.mark.provokes("status of 422")
def test_a_page_that_does_not_come_is_asked_for_again_by_hand_and_not_without_end(page: Page, thousands: int) -> None:
    refused: list[str] = []

    def refuse(route: Route) -> None:
        refused.append(route.request.url)
        route.fulfill(status=422, json={"type": "about:blank", "status": 422, "code": "bad_input", "message": "Not now."})

    page.route(re.compile("cursor=[A-Za-z0-9]"), refuse)
    page.goto("/")
    page.get_by_text("Card 2999", exact=True).wait_for()
    area = page.get_by_role("main")
    area.evaluate("area => area.scrollTo(0, 122 * 60)")
    expect(page.get_by_role("alert")).to_contain_text("Not now.")
    for _ in range(60):
        page.evaluate("() => new Promise(requestAnimationFrame)")
    assert len(refused) <= 4
    page.unroute_all()
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_role("alert")).to_have_count(0)
    page.get_by_text(re.compile("^Card 28")).first.wait_for()
    assert thousands
