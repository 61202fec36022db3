"""The import page in Chromium: what opens first, ways to take a file, doubtful finds, notes, and the thing itself with its finds."""

import gzip
import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_care import scan
from tests.core.formats.test_squares import PAPER, kept, row, sheet

TEXT = (
    b"The wing is #8a6a52, its eye #e85421, the ink #1b1a1d.\nA moth in tomato; we #fade.\n"
    + b"Seen at 21 08 18, sizes 4 5 6.\n" * 60
)
BAD = b"name,hex\n" + b"".join(b"n%d,nope\n" % n for n in range(9)) + b"Eye,#e85421\nInk,#1b1a1d\n"


def bring(page: Page, *files: tuple[str, bytes]) -> None:
    page.goto("/")
    expect(page.get_by_text("Begin with a picture").or_(page.get_by_role("button", name="New palette")).first).to_be_visible()
    page.locator("input[type=file]").first.set_input_files(
        [{"name": name, "mimeType": "application/octet-stream", "buffer": data} for name, data in files]
    )


def squares() -> bytes:
    return kept(sheet([(box, color) for at, (box, color) in enumerate(row(6, 40, 40, 10)) if at != 2], (340, 90)))


@pytest.mark.provokes("status of 422")
def test_the_first_file_that_can_be_decided_stands_open(page: Page) -> None:
    bring(page, ("broken.act", b"\0" * 100), ("notes.txt", TEXT))
    expect(page.get_by_role("list", name="Files").get_by_role("button", name=re.compile("notes.txt"))).to_have_attribute(
        "aria-current", "true"
    )
    expect(page.get_by_text("cannot be read")).to_be_visible()
    scan(page)


def test_doubtful_finds_are_not_ticked_and_say_why(page: Page) -> None:
    bring(page, ("notes.txt", TEXT))
    expect(page.get_by_text("Take 3 of 4 swatches")).to_be_visible()
    expect(page.get_by_text("1 may be no color: a word that may be a label.")).to_be_visible()
    page.get_by_role("button", name="Take it too").click()
    expect(page.get_by_text("Take all 4 swatches")).to_be_visible()
    page.get_by_role("button", name="Leave them out").click()
    page.get_by_role("button", name="Make the palette").click()
    expect(page.get_by_role("option")).to_have_count(3)


def test_pointing_at_a_find_shows_where_it_stands_and_back(page: Page) -> None:
    bring(page, ("notes.txt", TEXT))
    chip = page.get_by_role("list", name="Found swatches").get_by_role("button").nth(1)
    chip.hover()
    mark = page.locator("mark", has_text="#e85421")
    expect(mark).to_have_class(re.compile("outline-ink"))
    page.locator("mark", has_text="#1b1a1d").hover()
    expect(page.get_by_role("list", name="Found swatches").get_by_role("button").nth(2)).to_have_class(re.compile("outline-ink"))
    expect(page.get_by_role("region", name="The text of notes.txt, with what was found in it")).to_be_visible()


def test_two_ways_are_two_strips(page: Page) -> None:
    bring(page, ("sheet.png", squares()), ("list.hex", b"FFE85421\nFF1B1A1D\n80FFCC66\n"))
    ways = page.get_by_role("radiogroup", name="Ways to read it").get_by_role("radio")
    expect(ways.nth(0)).to_have_attribute("aria-checked", "true")
    expect(page.get_by_text("Take all 5 swatches")).to_be_visible()
    expect(page.locator("svg rect")).to_have_count(10)
    ways.nth(0).press("ArrowRight", delay=120)
    expect(page.get_by_text("Take all 6 swatches")).to_be_visible()
    code = "#{:02x}{:02x}{:02x}".format(*PAPER)
    expect(page.get_by_role("list", name="Found swatches").get_by_title(re.compile(code))).to_have_count(1)
    page.get_by_role("list", name="Files").get_by_role("button", name=re.compile("list.hex")).click()
    expect(page.get_by_role("radiogroup", name="Ways to read it").get_by_role("radio").first).to_contain_text("alpha first")


def test_a_color_of_a_drawing_is_shown_by_dimming_the_rest(page: Page) -> None:
    drawing = (
        b"<svg xmlns='http://www.w3.org/2000/svg' width='40' height='20'><rect width='20' height='20' fill='#e85421'/>"
        b"<rect x='20' width='20' height='20' fill='#1e5c8c'/></svg>"
    )
    bring(page, ("moth.svg", drawing), ("moth.svgz", gzip.compress(drawing)))
    expect(page.get_by_role("img", name="moth.svg", exact=True)).to_be_visible()
    page.get_by_role("list", name="Found swatches").get_by_role("button").nth(2).hover()
    alphas = """() => { const c = document.querySelector("canvas[aria-label='moth.svg']");
      const p = c.getContext("2d").getImageData(0, 0, c.width, c.height).data;
      const at = (x) => p[(Math.floor(c.height / 2) * c.width + Math.floor(c.width * x)) * 4 + 3];
      return [at(0.25), at(0.75)]; }"""
    page.wait_for_function(f"(({alphas})()[0] < 60) && (({alphas})()[1] === 255)")
    page.get_by_role("list", name="Files").get_by_role("button", name=re.compile("moth.svgz")).click()
    expect(page.get_by_role("img", name="moth.svgz")).to_be_visible()


def test_many_notes_are_folded(page: Page) -> None:
    bring(page, ("inks.csv", BAD))
    expect(page.get_by_text("Line 2: “nope” is no color")).to_be_visible()
    more = page.get_by_text("5 more notes")
    expect(page.get_by_text("Line 6: ")).to_be_hidden()
    more.click()
    expect(page.get_by_text("Line 6: ")).to_be_visible()
    scan(page)


TABLE = "Farbe;Bezeichnung;Menge;Rot;Grün;Blau\nSiena;Umbra gebrannt;3;180;74;52\nMoos;Moosgrün;12;90;110;60\n"


def test_a_table_comes_in_with_its_columns_chosen(page: Page) -> None:
    page.goto("/")
    page.get_by_label("Files to bring in").set_input_files(
        {"name": "Farben.csv", "mimeType": "text/csv", "buffer": TABLE.encode()},
    )
    expect(page.get_by_role("combobox", name="Meaning of column 4, Rot")).to_have_value("srgb.1")
    expect(page.get_by_role("combobox", name="Meaning of column 3, Menge")).to_have_value("")
    expect(page.get_by_role("cell", name="Moosgrün")).to_be_visible()
    found = page.get_by_title(re.compile("#b44a34"))
    expect(found.first).to_be_visible()
    # Red and blue change places: the channel that is taken is left out where it stood.
    page.get_by_role("combobox", name="Meaning of column 4, Rot").select_option("srgb.3")
    expect(page.get_by_role("combobox", name="Meaning of column 6, Blau")).to_have_value("")
    expect(page.get_by_text("No column is chosen for RGB red.")).to_be_visible()
    expect(page.get_by_role("button", name="Make the palette")).to_be_disabled()
    page.get_by_role("combobox", name="Meaning of column 6, Blau").select_option("srgb.1")
    expect(page.get_by_title(re.compile("#344ab4")).first).to_be_visible()
    page.get_by_role("combobox", name="Meaning of column 1, Farbe").select_option("")
    page.get_by_role("combobox", name="Meaning of column 2, Bezeichnung").select_option("name")
    page.get_by_role("button", name="Make the palette").click()
    expect(page.get_by_role("option", name="Umbra gebrannt, #344ab4")).to_be_visible()
