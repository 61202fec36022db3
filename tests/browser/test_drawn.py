"""What is drawn anew when something changes, as React's own profiler tells it, in a build of the interface that says so."""

import subprocess
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Page, Route, expect

from huvren.studio import page as interface
from tests.browser.conftest import bring_in
from tests.browser.test_gathering import typed
from tests.waiting import until
from tools.node import WEB, node_environment


@pytest.fixture(scope="module")
def profiled(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The folder of a build whose React tells what it draws."""
    folder = tmp_path_factory.mktemp("profiled") / "dist"
    words = ["npx", "vite", "build", "--mode", "profiling", "--outDir", str(folder), "--logLevel", "error"]
    subprocess.run(words, cwd=WEB, env=node_environment(), check=True, capture_output=True)
    return folder


@pytest.fixture
def telling(page: Page, profiled: Path, monkeypatch: pytest.MonkeyPatch) -> Page:
    """The artist's page, with that build in place of the usual one."""
    monkeypatch.setattr(interface, "INDEX", profiled / "index.html")

    def serve(route: Route) -> None:
        path = profiled / urlsplit(route.request.url).path.removeprefix("/static/")
        if path.is_file():
            route.fulfill(path=path)
        else:
            route.continue_()

    page.route("**/static/**", serve)
    return page


def drawn(page: Page) -> set[str]:
    """What was drawn since it was last asked."""
    return set(page.evaluate("() => (window.drawn ?? []).splice(0).map((part) => part.id)"))


def at_rest(page: Page) -> None:
    """Until nothing is asked and nothing is drawn any more: two looks of which the second finds nothing."""

    def rests() -> bool:
        page.wait_for_load_state("networkidle")
        return not drawn(page)

    until(rests, "something goes on being drawn")


def seen(page: Page) -> Any:
    """What has been drawn so far, without forgetting it."""
    return page.evaluate("() => (window.drawn ?? []).map((part) => part.id)")


def test_a_slider_that_is_dragged_draws_no_list_and_a_preview_only_what_shows_it(telling: Page) -> None:
    page = telling
    typed(page, " ".join(f"#{n * 3:02x}{255 - n * 3:02x}80" for n in range(60)), 60)
    page.keyboard.press("3")
    page.get_by_role("tab", name="List", exact=True).click()
    expect(page.get_by_role("table", name="Swatches")).to_be_visible()
    thumb = page.locator("aside").get_by_role("slider").first
    thumb.wait_for()
    at_rest(page)
    box = thumb.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    at_rest(page)
    for step in range(1, 6):
        page.mouse.move(box["x"] + box["width"] / 2 - 6 * step, box["y"] + box["height"] / 2)
    until(lambda: "readout" in seen(page))
    page.wait_for_load_state("networkidle")
    during = drawn(page)
    assert "readout" in during
    assert not during & {"list", "stages", "missed"}, during
    page.mouse.up()
    expect(page.get_by_text("60 swatches · saved")).to_be_visible()

    page.get_by_role("tab", name="Adjust").click()
    page.get_by_label("Hue turned, number").fill("40")
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    at_rest(page)
    before = page.get_by_role("option").first.get_attribute("aria-label")
    page.get_by_label("Hue turned, number").fill("80")
    until(lambda: page.get_by_role("option").first.get_attribute("aria-label") != before)
    page.wait_for_load_state("networkidle")
    during = drawn(page)
    assert {"strip", "stage-arrange"} <= during
    assert not during & {"stages", "missed", "ink"}, during


def test_a_picture_that_is_reduced_anew_draws_no_list(telling: Page, picture: bytes) -> None:
    page = telling
    bring_in(page, picture)
    at_rest(page)
    page.get_by_label("Number of colors").press("ArrowUp")
    expect(page.get_by_role("option")).to_have_count(25)
    page.wait_for_load_state("networkidle")
    during = drawn(page)
    assert {"strip", "stage-reduce"} <= during
    assert not during & {"list", "stages", "missed", "ink"}, during
