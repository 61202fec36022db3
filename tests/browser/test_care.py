"""What must not go wrong in the browser: two windows, bad files, the server away, access for all."""

import json
import re
from contextlib import closing
from typing import Any

import psycopg
import pytest
from django.db import connection
from playwright.sync_api import Browser, Page, expect
from psycopg import sql

from tests.browser.conftest import bring_in, settled
from tests.pictures import png_claiming
from tools.steps import ROOT

AXE = (ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()


SCAN = """async (of) => {
  const page = document.documentElement;
  const before = page.dataset.surround;
  const made = [];
  // What is wrong in one surround is wrong in all of them, but for what hangs on colors.
  for (const surround of ['light', 'mid', 'dark']) {
    page.dataset.surround = surround;
    const runOnly = surround === 'light' ? undefined : ['color-contrast', 'link-in-text-block'];
    for (const part of of ? document.querySelectorAll(of) : [document]) {
      const { violations } = await axe.run(part, {
        resultTypes: ['violations'], ...(runOnly && { runOnly }), ...(of && { rules: { region: { enabled: false } } }),
      });
      for (const { id, impact, nodes } of violations)
        if (impact === 'serious' || impact === 'critical') made.push([surround, id, nodes[0].html.slice(0, 200)]);
    }
  }
  page.dataset.surround = before;
  return made;
}"""


def scanned(page: Page, of: str | None = None) -> list[Any]:
    """Serious and critical findings of the accessibility scan in the three surrounds, of the page or of parts of it."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE)
    return list(page.evaluate(SCAN, of))


def scan(page: Page) -> None:
    """No serious or critical finding of the accessibility scan."""
    found = scanned(page)
    assert found == [], json.dumps(found, indent=1)


def test_the_scan_finds_what_is_wrong_in_one_surround_alone(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_text("Begin with a picture")).to_be_visible()
    page.evaluate("document.querySelector('h1').style.color = '#777'")
    page.evaluate("document.querySelector('h1').style.background = 'var(--ground)'")
    assert ["mid", "color-contrast"] in [row[:2] for row in scanned(page, "header")]
    page.evaluate("document.querySelector('header button:not([aria-label])').innerHTML = ''")
    assert any(row[1] == "button-name" for row in scanned(page, "header"))


def test_every_view_is_accessible(page: Page, picture: bytes) -> None:
    page.goto("/")
    expect(page.get_by_text("Begin with a picture")).to_be_visible()
    scan(page)
    bring_in(page, picture)
    scan(page)
    for key in "13456":
        page.keyboard.press(key)
        settled(page)
        scan(page)
    page.keyboard.press("2")
    page.get_by_role("button", name="History").click()
    expect(page.get_by_role("dialog")).to_be_visible()
    settled(page)
    scan(page)
    page.goto("/")
    expect(page.get_by_role("button", name=re.compile("^Evening plate 24 swatches"))).to_be_visible()
    scan(page)


def test_two_tabs_see_each_others_steps(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.get_by_role("option")).to_have_count(24)
    shelf = page.context.new_page()
    shelf.goto("/")
    expect(shelf.get_by_role("button", name=re.compile("^Evening plate 24"))).to_be_visible()
    page.get_by_label("Palette name").fill("Renamed here")
    page.keyboard.press("Enter")
    expect(other.get_by_label("Palette name")).to_have_value("Renamed here")
    expect(shelf.get_by_role("button", name=re.compile("^Renamed here"))).to_be_visible()
    # What is made there is a step on the newest state, and comes back here.
    other.get_by_label("Name of swatch 0").fill("Named there")
    other.keyboard.press("Enter")
    expect(page.get_by_role("option", name="0 Named there")).to_be_visible()
    expect(other.get_by_text("changed elsewhere")).to_have_count(0)


def test_two_windows_never_overwrite_each_other(page: Page, browser: Browser, picture: bytes) -> None:
    bring_in(page, picture)
    # Another browser, which hears nothing of this one.
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    with closing(context):
        _never_overwrite(page, context.new_page())


def _never_overwrite(page: Page, other: Page) -> None:
    other.goto(page.url)
    expect(other.get_by_role("option")).to_have_count(24)
    first = page.get_by_role("option").first.get_attribute("aria-label") or ""
    code = re.search(r"#[0-9a-f]{6}", first)
    assert code
    page.get_by_label("Palette name").fill("Renamed here")
    page.keyboard.press("Enter")
    expect(page.get_by_text("24 swatches · saved")).to_be_visible()

    other.get_by_label("Name of swatch 0").fill("Named there")
    other.keyboard.press("Enter")
    expect(other.get_by_text("This palette was changed elsewhere in the meantime.")).to_be_visible()
    expect(other.get_by_label("Palette name")).to_have_value("Renamed here")
    other.get_by_role("button", name="Make my step again").click()
    expect(other.get_by_role("option", name="0 Named there")).to_be_visible()
    expect(other.get_by_label("Palette name")).to_have_value("Renamed here")


@pytest.mark.provokes("status of 422")
@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        (
            "notes.png",
            b"only words",
            "“notes.png” is not a picture that can be read. PNG, JPEG, WebP, GIF, BMP, "
            "TIFF, AVIF, JPEG 2000, ICO, PCX, PPM and TGA files work.",
        ),
        ("huge.png", png_claiming(11_000, 10_000), "claims 11,000 × 10,000 = 110 million pixels"),
        ("empty.png", b"", "“empty.png” is empty"),
    ],
)
def test_bad_files_are_answered_in_words(page: Page, name: str, data: bytes, words: str) -> None:
    page.goto("/")
    expect(page.get_by_text("Begin with a picture")).to_be_visible()
    page.locator("input[type=file]").first.set_input_files({"name": name, "mimeType": "image/png", "buffer": data})
    expect(page.get_by_role("alert")).to_contain_text(words)
    page.get_by_role("button", name="Dismiss").click()
    expect(page.get_by_text("Begin with a picture")).to_be_visible()


def test_a_step_waits_while_the_server_is_away(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.route("**/operations", lambda route: route.abort())
    page.get_by_label("Palette name").fill("Named while away")
    page.keyboard.press("Enter")
    expect(page.get_by_text("waiting for the server")).to_be_visible()
    page.unroute("**/operations")
    expect(page.get_by_text("24 swatches · saved")).to_be_visible()
    page.reload()
    expect(page.get_by_label("Palette name")).to_have_value("Named while away")


@pytest.mark.provokes("status of 503")
def test_a_step_waits_while_the_database_is_away(page: Page, picture: bytes) -> None:
    """The real one: it takes no connection for a while, and ends those that there are."""
    bring_in(page, picture)
    known = connection.connection.info
    name = known.dbname
    answers: list[int] = []
    page.on("response", lambda response: answers.append(response.status) if response.url.endswith("/operations") else None)
    with psycopg.connect(host=known.host, port=known.port, user=known.user, password=known.password, dbname="postgres") as other:
        other.autocommit = True
        other.execute(sql.SQL("ALTER DATABASE {} ALLOW_CONNECTIONS false").format(sql.Identifier(name)))
        try:
            other.execute("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = %s", [name])
            page.get_by_role("option").first.click()
            page.keyboard.press("l")
            expect(page.get_by_text("waiting for the server")).to_be_visible()
        finally:
            other.execute(sql.SQL("ALTER DATABASE {} ALLOW_CONNECTIONS true").format(sql.Identifier(name)))
    connection.close()
    expect(page.get_by_text("24 swatches · saved")).to_be_visible()
    expect(page.get_by_role("option", name=re.compile("locked")).first).to_be_visible()
    assert answers[0] == 503
    assert answers[-1] == 200


def test_unknown_addresses_and_palettes(page: Page) -> None:
    page.goto("/nowhere")
    expect(page.get_by_text("There is nothing at this address")).to_be_visible()
    page.goto("/palettes/00000000-0000-4000-8000-000000000000")
    expect(page.get_by_role("alert")).to_contain_text("There is no such palette on your shelf")
    page.get_by_role("button", name="Go to the shelf").click()
    expect(page.get_by_text("Begin with a picture")).to_be_visible()


def test_an_empty_palette_fills_by_typing(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="New palette").click()
    expect(page.get_by_text("No swatches yet.")).to_be_visible()
    page.get_by_label("Type or paste colors").fill("#e85421")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="#e85421")).to_be_visible()
    expect(page.get_by_label("Type or paste colors")).to_be_focused()


def test_trash_and_back(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.goto("/")
    page.get_by_role("button", name="Trash Evening plate", exact=True).focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("“Evening plate” is in the trash.")).to_be_visible()
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_role("button", name=re.compile("^Evening plate 24"))).to_be_visible()
