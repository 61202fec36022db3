"""The shelf in the browser: searching, sorting, favorites, copies, several at once, the archive."""

import re

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import bring_in
from tests.browser.test_care import scan
from tests.browser.test_gathering import typed
from tests.waiting import until


def shown(page: Page) -> list[str]:
    """Names of the palettes on the shelf, in order."""
    expect(page.get_by_role("main")).to_have_attribute("aria-busy", "false")
    cards = page.get_by_role("region", name="Palettes").get_by_role("listitem")
    return [text.split("\n")[0] for text in cards.evaluate_all("all => all.map(card => card.innerText.trim())")]


def full(page: Page) -> None:
    typed(page, "#c48a3a #604020 #201008", 3, "Browns")
    typed(page, "#102040 #4060a0", 2, "Blues")
    page.get_by_role("option").first.click()
    page.goto("/")
    expect(page.get_by_role("button", name=re.compile("^Blues"))).to_be_visible()


def test_searching_by_name_color_and_count_and_sorting(page: Page) -> None:
    full(page)
    assert shown(page) == ["Blues", "Browns"]
    search = page.get_by_label("Search by name")
    search.fill("near #c48a3a")
    expect(page.get_by_text("nearest ΔE 0.0")).to_be_visible()
    assert shown(page) == ["Browns"], "what is nothing like it is left out"
    search.fill("near #c48a3a within 100")
    expect(page.get_by_role("button", name=re.compile("^Blues"))).to_be_visible()
    assert shown(page) == ["Browns", "Blues"]
    search.fill(">2")
    expect(page.get_by_role("button", name=re.compile("^Blues"))).to_have_count(0)
    search.fill("brow")
    expect(page.get_by_role("button", name=re.compile("^Browns"))).to_be_visible()
    search.fill("nothing such")
    expect(page.get_by_text("Nothing on the shelf is like “nothing such”.")).to_be_visible()
    search.fill("")
    page.get_by_label("Sort the shelf").select_option("count")
    assert shown(page) == ["Browns", "Blues"]
    page.get_by_role("button", name="Favorite: Blues").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="No longer a favorite: Blues")).to_be_visible()
    assert shown(page) == ["Blues", "Browns"], "favorites come first"
    page.get_by_role("button", name="Duplicate Browns").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name=re.compile("^Browns copy"))).to_be_visible()
    scan(page)


def test_several_are_trashed_and_put_back_together(page: Page) -> None:
    full(page)
    page.get_by_role("button", name="Select", exact=True).click()
    page.get_by_role("button", name="All", exact=True).click()
    expect(page.get_by_text("2 palettes selected")).to_be_visible()
    page.get_by_role("region", name="Selection").get_by_role("button", name="Trash").click()
    expect(page.get_by_text("2 palettes in the trash.")).to_be_visible()
    page.get_by_role("button", name="Put them back").click()
    expect(page.get_by_role("button", name=re.compile("^Blues"))).to_be_visible()


@pytest.mark.provokes("status of 422")
def test_the_archive_goes_out_and_comes_in_without_doubles(page: Page) -> None:
    full(page)
    page.get_by_role("button", name="Archive …").click()
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Fetch the archive").click()
    archive = waiting.value.path().read_bytes()
    page.get_by_label("Archive file").set_input_files({"name": "l.zip", "mimeType": "application/zip", "buffer": archive})
    expect(page.get_by_text("Nothing new in it; 2 were here already.")).to_be_visible()
    page.get_by_role("button", name="Archive …").click()
    page.get_by_label("Archive file").set_input_files({"name": "l.zip", "mimeType": "application/zip", "buffer": b"words"})
    expect(page.get_by_role("alert")).to_contain_text("That is no library archive.")
    scan(page)


def test_where_a_picture_is_used_stands_on_its_card(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.goto("/")
    where = page.get_by_role("region", name="Pictures").get_by_role("button", name=re.compile("^Uses of Evening plate"))
    where.focus()
    page.keyboard.press("Enter")
    uses = page.get_by_role("list", name="Palettes that use it").get_by_role("button")
    expect(uses).to_have_count(1)
    expect(uses.first).to_be_enabled()
    scan(page)
    uses.first.click()
    expect(page.get_by_role("slider", name="Divider between original and result")).to_be_visible()
    page.goto("/")
    page.get_by_role("region", name="Palettes").get_by_role("button", name=re.compile("^Trash ")).click()
    expect(page.get_by_text("is in the trash")).to_be_visible()
    where.focus()
    page.keyboard.press("Enter")
    expect(uses.first).to_be_disabled()
    expect(uses.first).to_contain_text("in the trash")


def test_a_palette_that_nothing_uses_says_so(page: Page) -> None:
    full(page)
    page.get_by_role("button", name="Uses of Browns").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("No palette uses “Browns”, now or in its history.")).to_be_visible()


def test_swatch_names_are_searched_counts_are_shown_and_trash_comes_back_together(page: Page) -> None:
    typed(page, "Gold size #c9a227\nUmber #8a3324", 2, "One")
    typed(page, "#111111 #222222", 2, "Two")
    typed(page, "#c9a226 #333333", 2, "Three")
    page.goto("/")
    heading = page.get_by_role("heading", name=re.compile("^Palettes"))
    expect(heading).to_have_text("Palettes 3")
    search = page.get_by_role("searchbox")
    search.fill("gold")
    expect(page.get_by_role("button", name=re.compile("^One"))).to_be_visible()
    expect(heading).to_have_text("Palettes 1 of 3")
    search.fill("near #c9a227 within 3")
    expect(heading).to_have_text("Palettes 2 of 3")
    search.fill("")
    page.get_by_role("button", name="Select", exact=True).click()
    page.get_by_role("button", name=re.compile("^One")).click()
    page.get_by_role("button", name=re.compile("^Two")).click()
    page.get_by_role("region", name="Selection").get_by_role("button", name="Trash").click()
    expect(heading).to_have_text("Palettes 1")
    expect(page.get_by_role("region", name="Selection")).to_have_count(0)
    page.get_by_role("button", name="Trash", exact=True).click()
    page.get_by_role("button", name="Select", exact=True).click()
    page.get_by_role("region", name="Selection").get_by_role("button", name="All").click()
    page.get_by_role("region", name="Selection").get_by_role("button", name="Put back").click()
    expect(page.get_by_text("2 palettes on the shelf again.")).to_be_visible()
    page.get_by_role("button", name="Back to the shelf").click()
    expect(heading).to_have_text("Palettes 3")


def test_nothing_that_comes_late_moves_what_can_be_pressed(page: Page) -> None:
    """A press that goes down on a button and up beside it would be lost."""
    waiting: list[Route] = []
    late = re.compile(r"/static/.*(account|library-menu|empty-trash)[^/]*\.js")
    page.route(late, lambda route: waiting.append(route))
    page.goto("/")
    hint = page.get_by_role("heading", name="Begin with a picture")
    expect(hint).to_be_visible()
    standing = ("New palette", "Bring in files", "Trash", "Select")

    def places() -> list[object]:
        buttons = [page.get_by_role("banner").get_by_role("button", name=name, exact=True) for name in standing]
        return [one.bounding_box() for one in (*buttons, page.get_by_role("searchbox"), page.get_by_label("Sort the shelf"))]

    before = places()
    assert None not in before
    assert waiting, "they have not come yet"
    for route in waiting:
        route.continue_()
    page.unroute(late)
    expect(page.get_by_role("button", name="Archive …")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Account of"))).to_be_visible()
    assert places() == before


@pytest.mark.parametrize("reached", [True, False])
@pytest.mark.provokes("status of 409")
def test_what_is_selected_goes_once_or_stays_selected(page: Page, reached: bool) -> None:
    full(page)
    page.get_by_role("button", name="Select", exact=True).click()
    bar = page.get_by_role("region", name="Selection")
    bar.get_by_role("button", name="All").click()
    expect(bar.get_by_role("status")).to_have_text("2 palettes selected")
    address, waiting = "**/api/shelf/trashed", []
    page.route(address, lambda route: waiting.append(route))
    bar.get_by_role("button", name="Trash").click()
    expect(bar.get_by_role("button", name="Trash")).to_be_disabled()
    page.keyboard.press("Enter")
    until(lambda: page.title() and waiting)
    assert len(waiting) == 1
    if reached:
        waiting[0].continue_()
    else:
        waiting[0].fulfill(status=409, json={"code": "busy", "message": "Something else is done with these."})
    page.unroute(address)
    heading = page.get_by_role("heading", name=re.compile("^Palettes"))
    if reached:
        expect(page.get_by_text("2 palettes in the trash.")).to_be_visible()
        expect(bar).to_have_count(0)
        expect(heading).to_have_count(0)
        page.get_by_role("button", name="Put them back").click()
    else:
        expect(page.get_by_role("alert")).to_be_visible()
        expect(bar.get_by_role("status")).to_have_text("2 palettes selected")
        expect(bar.get_by_role("button", name="Trash")).to_be_enabled()
    expect(heading).to_have_text("Palettes 2")
