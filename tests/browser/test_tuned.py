"""Tuned colors in the browser: the word that says so, pictures of choices, the distance, the map, proofs, a longer search."""

import math
import re

import pytest
from playwright.sync_api import Locator, Page, Request, expect

from huvren.studio.models import Job
from huvren.studio.services.bench.reductions import LOOKED_QUICKLY
from huvren.studio.services.load import lane
from tests.browser.conftest import bring_in
from tests.browser.test_care import scan
from tests.browser.test_reduce_job import hexes
from tests.waiting import until

AFAR = re.compile(r"seen from .* \d+\.\d")


@pytest.fixture
def asked(page: Page) -> list[Request]:
    """Requests for previews, in order."""
    seen: list[Request] = []
    page.on("request", lambda request: seen.append(request) if request.url.endswith("/previews") else None)
    return seen


def dither(page: Page, label: str) -> None:
    page.get_by_role("button", name="Dither: ").click()
    page.get_by_role("radio", name=label).check()
    page.keyboard.press("Escape")


def few(page: Page, count: int) -> None:
    page.get_by_role("spinbutton", name="Number of colors").fill(str(count))
    page.keyboard.press("Escape")
    expect(page.get_by_role("option")).to_have_count(count)


def afar(page: Page) -> float:
    text = page.get_by_text(AFAR).first.inner_text()
    return float(re.findall(r"\d+\.\d", text)[-1])


def drawn(canvases: Locator) -> int:
    """How many canvases show something."""
    script = """nodes => nodes.filter(node => node.getContext("2d").getImageData(0, 0, node.width, node.height)
                 .data.some(byte => byte > 0)).length"""
    return int(canvases.evaluate_all(script))


def test_the_sentence_says_what_colors_are_chosen_for_and_both_are_shown_in_turn(
    page: Page, picture: bytes, asked: list[Request]
) -> None:
    bring_in(page, picture)
    expect(page.get_by_role("button", name="What the colors are chosen for: ")).to_have_count(0)
    few(page, 6)
    dither(page, "Floyd–Steinberg")
    word = page.get_by_role("button", name="What the colors are chosen for: ")
    expect(word).to_have_text(re.compile("tuned to it"))
    expect(page.get_by_role("progressbar", name="Reducing")).to_have_count(0)
    recipes = [request.post_data_json["recipe"] for request in asked if request.post_data_json["recipe"]["dither"] != "none"]
    assert [recipe["tune"] for recipe in recipes] == [False, True]
    tuned, figure = hexes(page), afar(page)
    word.click()
    panel = page.get_by_role("dialog", name="What the colors are chosen for")
    until(lambda: drawn(panel.locator("canvas")) == 2)
    scan(page)
    page.get_by_role("radio", name="as chosen").check()
    page.keyboard.press("Escape")
    expect(word).to_have_text(re.compile("as chosen"))
    expect(page.get_by_role("progressbar", name="Reducing")).to_have_count(0)
    assert hexes(page) != tuned
    assert afar(page) > figure
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("6 swatches · saved")).to_be_visible()
    page.get_by_role("button", name="How colors are chosen: ").click()
    page.get_by_role("radio", name="most used").check()
    expect(word).to_have_count(0)


def test_choices_of_dither_and_chooser_are_shown_on_a_piece_of_the_picture(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    few(page, 5)
    page.get_by_role("button", name="Dither: ").click()
    panel = page.get_by_role("dialog", name="Dither")
    until(lambda: drawn(panel.locator("canvas")) == panel.get_by_role("radio").count())
    page.keyboard.press("Escape")
    page.get_by_role("button", name="How colors are chosen: ").click()
    panel = page.get_by_role("dialog", name="How colors are chosen")
    expect(panel.get_by_text("It needs a list first.").first).to_be_visible()
    until(lambda: drawn(panel.locator("canvas")) >= 6)


def test_the_distance_changes_the_figure_and_the_map_shows_it(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    few(page, 6)
    dither(page, "ordered 8×8")
    page.get_by_role("button", name="Grain: fine").click()
    page.get_by_role("radio", name="free").check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Grain: free")).to_be_visible()
    expect(page.get_by_role("progressbar", name="Reducing")).to_have_count(0)
    before = afar(page)
    page.get_by_role("button", name="Seen from: arm's length").click()
    page.get_by_role("radio", name="across the room").check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Seen from: across the room")).to_be_visible()
    expect(page.get_by_role("progressbar", name="Reducing")).to_have_count(0)
    assert afar(page) < before
    page.get_by_role("button", name="From afar", exact=True).click()
    expect(page.get_by_text("error from afar, white from ΔE 5")).to_be_visible()
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("6 swatches · saved")).to_be_visible()
    page.get_by_role("button", name="History").click()
    expect(
        page.get_by_role("button", name=re.compile("colors tuned to it with free grain, seen from across the room"))
    ).to_be_visible()


def test_the_grain_is_a_word_of_the_recipe_with_a_picture_of_each(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    few(page, 6)
    dither(page, "Floyd–Steinberg")
    expect(page.get_by_role("progressbar", name="Reducing")).to_have_count(0)

    def figures() -> tuple[float, float]:
        expect(page.get_by_role("progressbar", name="Reducing")).to_have_count(0)
        close = page.get_by_text(re.compile(r"ΔE close up \d")).first.inner_text()
        return float(re.findall(r"\d+\.\d", close)[-1]), afar(page)

    fine = figures()
    page.get_by_role("button", name="Grain: fine").click()
    panel = page.get_by_role("dialog", name="Grain")
    until(lambda: drawn(panel.locator("canvas")) == 3)
    scan(page)
    panel.get_by_role("radio", name="free").check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Grain: free")).to_be_focused()
    free = figures()
    assert free[0] > fine[0], "grainier close up"
    assert free[1] <= fine[1], "and nearer from afar"
    page.get_by_role("button", name="Grain: free").click()
    panel.get_by_role("slider", name="Grain, 0 free to 100 finest").focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    expect(panel.get_by_text("3 of 100")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("6 swatches · saved")).to_be_visible()
    page.get_by_role("button", name="History").click()
    expect(page.get_by_role("button", name=re.compile("colors tuned to it with grain of 3"))).to_be_visible()


def test_tuned_and_untuned_stand_side_by_side_on_the_proof_sheet(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.get_by_role("button", name="Proof sheet").click()
    for name in ("8", "32", "not at all"):
        page.get_by_role("button", name=name, exact=True).click()
    page.get_by_role("button", name="tuned, fine grain", exact=True).click()
    page.get_by_role("button", name="untuned", exact=True).click()
    page.get_by_role("button", name="Lay out 2 proofs").click()
    sheet = page.get_by_role("list", name="Proofs")
    figures = sheet.get_by_text(re.compile(r"from afar \d+\.\d"))
    expect(figures).to_have_count(2)
    tuned, untuned = (float(re.findall(r"from afar (\d+\.\d)", text)[0]) for text in figures.all_inner_texts())
    assert tuned < untuned
    page.get_by_role("button", name="Use 16 colors, Floyd–Steinberg, untuned").click()
    expect(page.get_by_role("button", name="What the colors are chosen for: as chosen")).to_be_visible()


@pytest.mark.usefixtures("worker")
def test_a_longer_search_shows_its_progress_and_ends_as_a_step(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    few(page, 5)
    dither(page, "Stucki")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("5 swatches · saved")).to_be_visible()
    before = afar(page)
    page.get_by_role("button", name="Search longer").click()
    expect(page.get_by_role("progressbar", name="Reducing at full size")).to_be_visible()
    expect(page.get_by_role("progressbar", name="Reducing at full size")).to_have_count(0)
    assert afar(page) <= before
    # Where the worker is tried, every picture counts as large: the newest job is the search.
    newest = Job.objects.order_by("-created").first()
    assert newest is not None
    assert (newest.state, "searched longer" in newest.label) == ("done", True)
    page.get_by_role("button", name="History").click()
    expect(page.get_by_role("button", name=re.compile("dithered Stucki, colors tuned to it, searched longer"))).to_be_visible()
    page.keyboard.press("Escape")
    few(page, 4)
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("4 swatches · saved")).to_be_visible()
    assert not Job.objects.order_by("-created").first().label.endswith("searched longer.")  # type: ignore[union-attr]


def test_a_preview_that_was_made_quickly_for_others_says_so(page: Page, picture: bytes, monkeypatch: pytest.MonkeyPatch) -> None:
    bring_in(page, picture)
    monkeypatch.setattr(lane.LANE, "_waited", {-7: math.inf})
    few(page, 5)
    dither(page, "Floyd–Steinberg")
    expect(page.get_by_text("rough preview")).to_be_visible()
    expect(page.get_by_text(LOOKED_QUICKLY)).to_be_visible()
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_text("5 swatches · saved")).to_be_visible()
    expect(page.get_by_text(LOOKED_QUICKLY)).to_have_count(0)
    expect(page.get_by_text("rough preview")).to_have_count(0)
