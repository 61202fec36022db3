"""What is drawn anew when something changes, as React's own profiler tells it: the interface as `./run dev` serves it."""

import os
import subprocess
import urllib.error
import urllib.request
from collections.abc import Iterator
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from playwright.sync_api import Browser, Page, expect

from tests.pictures import painted, png
from tests.waiting import ended, until
from tools.node import WEB, node_environment
from tools.postgres import free_port

CODES = "\n".join(f"{n * 3:02x}{255 - n * 3:02x}80" for n in range(60))


@pytest.fixture
def developed(browser: Browser, live_server: Any, settings: Any, transactional_db: None) -> Iterator[Page]:
    """A page of the interface that tells what it draws, on the tests' server."""
    port = free_port()
    address = f"http://127.0.0.1:{port}"
    settings.DEMO = True
    settings.CSRF_TRUSTED_ORIGINS = [address]
    get_user_model().objects.create_user("demo")
    env = {**os.environ, **node_environment(), "HUVREN_API": live_server.url}
    words = ["npm", "run", "dev", "--", "--host", "127.0.0.1", "--port", str(port), "--strictPort"]
    with subprocess.Popen(words, cwd=WEB, env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as process:

        def answers() -> bool:
            assert process.poll() is None, "the development server ended"
            try:
                return urllib.request.urlopen(address, timeout=5).status == 200
            except (urllib.error.URLError, OSError):
                return False

        try:
            until(answers)
            context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
            page = context.new_page()
            # Sources are transformed one by one when they are first asked for.
            page.set_default_timeout(90_000)
            yield page
            context.close()
        finally:
            process.terminate()
            ended(process)


def drawn(page: Page) -> set[str]:
    """What was drawn since it was last asked."""
    return set(page.evaluate("() => (window.drawn ?? []).splice(0).map((part) => part.id)"))


def open_shelf(page: Page) -> None:
    """The empty shelf, once all that it is made of has been transformed and it may send something."""
    page.goto("/")
    expect(page.get_by_text("Begin with a picture")).to_be_visible(timeout=90_000)
    until(lambda: any(cookie["name"] == "csrftoken" for cookie in page.context.cookies()))


def at_rest(page: Page) -> None:
    """Until nothing is asked and nothing is drawn any more: two looks of which the second finds nothing."""

    def rests() -> bool:
        page.wait_for_load_state("networkidle")
        return not drawn(page)

    until(rests, "something goes on being drawn")


def test_only_what_shows_it_is_drawn(developed: Page) -> None:
    page = developed
    open_shelf(page)
    page.locator("input[type=file]").first.set_input_files({"name": "Many.hex", "mimeType": "text/plain", "buffer": CODES.encode()})
    page.get_by_role("button", name="Make the palette").click(timeout=90_000)
    expect(page.get_by_text("60 swatches · saved")).to_be_visible(timeout=90_000)
    page.keyboard.press("3")
    page.get_by_role("tab", name="List", exact=True).click()
    expect(page.get_by_role("table", name="Swatches")).to_be_visible(timeout=90_000)
    thumb = page.locator("aside").get_by_role("slider").first
    thumb.wait_for()
    at_rest(page)

    # Dragging one slider of the editor: the strip's cell follows, no list is drawn.
    box = thumb.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    at_rest(page)
    for step in range(1, 6):
        page.mouse.move(box["x"] + box["width"] / 2 - 6 * step, box["y"] + box["height"] / 2)
    until(lambda: page.evaluate("() => (window.drawn ?? []).some((part) => part.id === 'readout')"))
    page.wait_for_load_state("networkidle")
    during = drawn(page)
    assert "readout" in during
    assert not during & {"list", "stages", "missed"}, during
    page.mouse.up()
    expect(page.get_by_text("60 swatches · saved")).to_be_visible()

    # A preview that is answered: strip and stage show it; the row of stages, ink and ground, and what was not understood do not.
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


def test_a_picture_that_is_reduced_anew_draws_no_list(developed: Page) -> None:
    page = developed
    open_shelf(page)
    page.locator("input[type=file]").first.set_input_files(
        {"name": "Evening.png", "mimeType": "image/png", "buffer": png(painted(96, 128))}
    )
    page.get_by_role("slider", name="Divider between original and result").wait_for(timeout=90_000)
    at_rest(page)
    field = page.get_by_label("Number of colors")
    field.press("ArrowUp")
    expect(page.get_by_role("option")).to_have_count(25)
    page.wait_for_load_state("networkidle")
    during = drawn(page)
    assert {"strip", "stage-reduce"} <= during
    assert not during & {"list", "stages", "missed", "ink"}, during
