"""Typing colors as fast as hands go: no letter is lost, lines go in in their order, and a bad one stays whole to be mended."""

import contextlib
import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.test_care import scan
from tests.waiting import until

FIELD = "Type or paste colors"
OPERATIONS = "**/api/palettes/*/operations"
PAINTS = ["Gold size #c9a24b", "Ivory black #231f20", "Bone white #e8e0d0", "Umber #6b4a2f", "Rose madder #c0395a"]


def empty_palette(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="New palette").click()
    expect(page.get_by_label(FIELD)).to_be_focused()


def swatches(page: Page) -> list[str]:
    """The names of the strip, in order."""
    labels = [option.get_attribute("aria-label") or "" for option in page.get_by_role("option").all()]
    return [label.split(" ", 1)[1].split(", #")[0] for label in labels]


@contextlib.contextmanager
def held(page: Page, address: str) -> Iterator[list[Route]]:
    """Requests to an address wait until the end of this, and then go on."""
    waiting: list[Route] = []

    def wait(route: Route) -> None:
        waiting.append(route)

    page.route(address, wait)
    yield waiting
    for route in waiting:
        route.continue_()
    page.unroute(address)


def _typed_at(page: Page, delay: float) -> None:
    for paint in PAINTS:
        page.keyboard.type(paint, delay=delay)
        page.keyboard.press("Enter")


def _all_there(page: Page) -> None:
    expect(page.get_by_role("option")).to_have_count(len(PAINTS))
    assert swatches(page) == [paint.split(" #")[0] for paint in PAINTS]
    expect(page.get_by_label(FIELD)).to_have_value("")
    expect(page.get_by_role("list", name="Being added")).to_have_count(0)


def test_lines_typed_without_a_pause_all_go_in_with_their_names(page: Page) -> None:
    empty_palette(page)
    _typed_at(page, 0)
    _all_there(page)


def test_lines_typed_by_hand_over_a_slow_line_lose_no_letter(page: Page) -> None:
    empty_palette(page)
    with held(page, OPERATIONS):
        page.keyboard.type(PAINTS[0])
        page.keyboard.press("Enter")
        expect(page.get_by_label(FIELD)).to_have_value("")
        expect(page.get_by_role("list", name="Being added").get_by_text("Gold size")).to_be_visible()
        page.keyboard.type("Ivory bl")
    expect(page.get_by_role("option")).to_have_count(1)
    expect(page.get_by_label(FIELD)).to_have_value("Ivory bl")
    page.keyboard.type("ack #231f20")
    page.keyboard.press("Enter")
    for paint in PAINTS[2:]:
        page.keyboard.type(paint, delay=40)
        page.keyboard.press("Enter")
    _all_there(page)


def test_enter_twice_adds_once(page: Page) -> None:
    empty_palette(page)
    page.keyboard.type(PAINTS[0])
    page.keyboard.press("Enter")
    page.keyboard.press("Enter")
    expect(page.get_by_text("1 swatch · saved")).to_be_visible()
    expect(page.get_by_role("list", name="Being added")).to_have_count(0)
    assert len(swatches(page)) == 1


def test_a_line_with_a_code_is_one_color_with_its_name(page: Page) -> None:
    empty_palette(page)
    page.keyboard.type("Ivory black #231f20")
    page.keyboard.press("Enter")
    page.keyboard.type("tomato")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="Ivory black, #231f20")).to_be_visible()
    expect(page.get_by_role("option", name="#ff6347")).to_be_visible()
    assert len(swatches(page)) == 2


def test_a_bad_line_stays_whole_and_is_mended_where_it_stands(page: Page) -> None:
    empty_palette(page)
    page.keyboard.type("Cadmium orange #ed872g")
    # While it is half typed, other parts of it are marked.
    marks = page.get_by_role("list", name="Not understood").get_by_role("mark")
    expect(marks.filter(has_text=re.compile("^#ed872g$"))).to_be_visible()
    expect(marks).to_have_count(1)
    page.keyboard.press("Enter")
    # The next line is being typed while the bad one comes back.
    page.keyboard.type("Lamp core #ffcc66")
    expect(page.get_by_role("heading", name="One line to mend")).to_be_visible()
    expect(page.get_by_label(FIELD)).to_have_value("Lamp core #ffcc66")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="Lamp core")).to_be_visible()
    scan(page)
    bad = page.get_by_role("textbox", name="Line to mend: Cadmium orange #ed872g")
    expect(bad).to_have_value("Cadmium orange #ed872g")
    assert len(swatches(page)) == 1
    bad.fill("Cadmium orange #ed8720")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="Cadmium orange")).to_be_visible()
    expect(page.get_by_role("heading", name="One line to mend")).to_have_count(0)


def test_what_is_typed_outlasts_another_stage_and_a_reload(page: Page) -> None:
    empty_palette(page)
    page.keyboard.type("Gold size")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="One line to mend")).to_be_visible()
    page.keyboard.type("Ivory bl")
    page.keyboard.press("Escape")
    page.keyboard.press("3")
    page.keyboard.press("1")
    expect(page.get_by_label(FIELD)).to_have_value("Ivory bl")
    page.reload()
    expect(page.get_by_label(FIELD)).to_have_value("Ivory bl")
    expect(page.get_by_role("textbox", name="Line to mend: Gold size")).to_have_value("Gold size")


def test_lines_that_wait_outlast_a_reload(page: Page) -> None:
    empty_palette(page)
    with held(page, OPERATIONS):
        for paint in PAINTS[:3]:
            page.keyboard.type(paint)
            page.keyboard.press("Enter")
        expect(page.get_by_role("list", name="Being added").get_by_role("listitem")).to_have_count(3)
    page.reload()
    expect(page.get_by_role("option")).to_have_count(3)
    assert swatches(page) == ["Gold size", "Ivory black", "Bone white"]


def _answer_is_lost(page: Page, paint: str) -> list[Route]:
    """The server adds a paint the first time it is asked to, and nobody hears of it; the request whose answer is held back."""
    lost: list[Route] = []

    def lose(route: Route) -> None:
        if lost or paint not in (route.request.post_data or ""):
            route.continue_()
            return
        route.fetch()
        lost.append(route)

    page.route(OPERATIONS, lose)
    return lost


@pytest.mark.parametrize("done", [1, 2, 3])
def test_a_line_whose_answer_a_reload_loses_goes_in_once_and_in_its_place(page: Page, done: int) -> None:
    empty_palette(page)
    lost = _answer_is_lost(page, PAINTS[done - 1])
    for entered in PAINTS[:4]:
        page.keyboard.type(entered)
        page.keyboard.press("Enter")
    expect(page.get_by_role("option")).to_have_count(done - 1)
    expect(page.get_by_role("list", name="Being added").get_by_role("listitem")).to_have_count(5 - done)
    until(lambda: page.title() and lost)
    page.reload()
    expect(page.get_by_role("list", name="Being added")).to_have_count(0)
    expect(page.get_by_text("4 swatches · saved")).to_be_visible()
    assert swatches(page) == [paint.split(" #")[0] for paint in PAINTS[:4]]
    expect(page.get_by_text("to mend")).to_have_count(0)


@pytest.mark.provokes("net::ERR_CONNECTION_RESET")
def test_a_step_whose_answer_is_lost_on_the_way_is_made_once(page: Page) -> None:
    empty_palette(page)
    lost = _answer_is_lost(page, PAINTS[0])
    page.keyboard.type(PAINTS[0])
    page.keyboard.press("Enter")
    until(lambda: page.title() and lost)
    lost[0].abort("connectionreset")
    expect(page.get_by_text("1 swatch · saved")).to_be_visible()
    assert swatches(page) == ["Gold size"]
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("option")).to_have_count(0)


def test_a_pasted_list_goes_in_and_its_bad_lines_stay(page: Page) -> None:
    empty_palette(page)
    page.get_by_label(FIELD).fill("Gold size #c9a24b\nCadmium #ed872g\n#111 #222\nred #111 #222")
    page.keyboard.press("Enter")
    expect(page.get_by_text("3 swatches · saved")).to_be_visible()
    expect(page.get_by_role("heading", name="2 lines to mend")).to_be_visible()
    expect(page.get_by_label(FIELD)).to_have_value("")
    page.get_by_role("button", name="Remove the line Cadmium #ed872g").click()
    expect(page.get_by_role("heading", name="One line to mend")).to_be_visible()


def test_very_many_bad_lines_are_shown_in_part_and_none_is_lost(page: Page) -> None:
    empty_palette(page)
    page.get_by_label(FIELD).fill("\n".join(f"bad line {place}" for place in range(300)))
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="300 lines to mend")).to_be_visible()
    expect(page.get_by_role("textbox", name="Line to mend")).to_have_count(24)
    expect(page.get_by_text("and 276 more")).to_be_visible()
    page.get_by_role("textbox", name="Line to mend").first.fill("Lamp #ffcc66")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="Lamp")).to_be_visible()
    expect(page.get_by_role("heading", name="299 lines to mend")).to_be_visible()
