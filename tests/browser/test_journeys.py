"""Journeys from end to end, as an artist makes them, and how many actions each takes: a click, a key, a drag, a typed line."""

import re

import numpy as np
import pytest
from playwright.sync_api import Download, Locator, Page, expect

from huvren.core.color.notation import parse_color
from tests.browser.conftest import bring_in, settled
from tests.pictures import opaque, painted, png

TWELVE = [
    "Ivory black #231f20", "Raw umber #5c4433", "Burnt siena #8a3324", "Cadmium orange #ed8720", "Ochre #cc7722", "Gold size #c9a227",
    "Terre verte #3a5f4a", "Viridian #40826d", "Cobalt #0047ab", "Smalt #003399", "Madder #e32636", "Chalk #f3ead6",
]  # fmt: skip
DRAWING = (
    b"<svg xmlns='http://www.w3.org/2000/svg' width='60' height='30'>"
    b"<path d='M2 2h20' stroke='#1b1a1d' fill='none'/><path d='M2 9h20' stroke='#e85421' fill='none'/>"
    b"<path d='M2 16h20' stroke='#1e5c8c' fill='none'/></svg>"
)


class Hands:
    """A page, and how often something was done on it."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.actions = 0

    def click(self, part: Locator) -> None:
        self.actions += 1
        part.click()

    def press(self, *keys: str) -> None:
        for key in keys:
            self.actions += 1
            self.page.keyboard.press(key)

    def line(self, text: str) -> None:
        """A line typed as fast as keys go, where the focus is."""
        self.actions += 1
        self.page.keyboard.type(text)

    def into(self, field: Locator, text: str) -> None:
        """Click into a field and type in place of what stands there."""
        self.actions += 2
        field.fill(text)

    def choose(self, word: str, label: str | re.Pattern[str]) -> None:
        """Open a word of a sentence and choose."""
        self.click(self.button(re.compile(f"^{word}")))
        self.click(self.page.get_by_role("radio", name=label).first)
        self.press("Escape")

    def bring(self, data: bytes, name: str) -> None:
        self.actions += 1
        field = self.page.locator("input[type=file]").first
        field.set_input_files({"name": name, "mimeType": "image/svg+xml" if name.endswith("svg") else "image/png", "buffer": data})

    def button(self, name: str | re.Pattern[str]) -> Locator:
        return self.page.get_by_role("button", name=name, exact=isinstance(name, str))

    def fetch(self, name: str | re.Pattern[str]) -> Download:
        with self.page.expect_download() as waiting:
            self.click(self.button(name))
        return waiting.value


@pytest.fixture
def hands(page: Page) -> Hands:
    return Hands(page)


def saved(page: Page, count: int) -> None:
    expect(page.get_by_text(f"{count} swatches · saved")).to_be_visible()


def typed_bench(hands: Hands, *lines: str) -> None:
    """A new palette of typed lines."""
    page = hands.page
    page.goto("/")
    hands.click(hands.button("New palette"))
    expect(page.get_by_label("Type or paste colors")).to_be_focused()
    for line in lines:
        hands.line(line)
        hands.press("Enter")
    saved(page, len(lines))


def test_from_a_photograph_to_its_files(hands: Hands) -> None:
    page = hands.page
    page.goto("/")
    hands.bring(png(painted(96, 128, 4)), "Heath.png")
    expect(page.get_by_role("option")).to_have_count(24)
    hands.into(page.get_by_role("spinbutton", name="Number of colors"), "8")
    hands.choose("How pixels are laid out|Dither", re.compile("^Floyd"))
    expect(page.get_by_role("option")).to_have_count(8)
    expect(hands.button("Keep")).to_be_enabled()
    hands.press("k")
    saved(page, 8)
    hands.press("6")
    hands.click(page.get_by_role("radio", name=re.compile(r"^\.png indexed")))
    image = hands.fetch("Download .png")
    hands.click(page.get_by_role("radio", name=re.compile(r"^\.gpl")))
    palette = hands.fetch("Download .gpl")
    assert image.suggested_filename == "Heath.png"
    assert palette.path().read_text().count("\n") >= 8
    assert hands.actions <= 16


def test_the_best_of_a_typed_list(hands: Hands, picture: bytes) -> None:
    page = hands.page
    bring_in(page, picture)
    hands.choose("How colors are chosen:", "the best of a list")
    hands.click(hands.button(re.compile("^The list:")))
    hands.into(page.get_by_label("Type or paste the colors"), "\n".join(TWELVE))
    expect(page.get_by_role("option")).to_have_count(12)
    hands.press("Escape")
    expect(hands.button("Keep")).to_be_enabled()
    hands.press("k")
    saved(page, 12)
    assert hands.actions <= 8


def test_the_strokes_of_a_drawing(hands: Hands) -> None:
    page = hands.page
    page.goto("/")
    hands.bring(DRAWING, "Moth.svg")
    expect(hands.button("Make the palette")).to_be_enabled()
    hands.click(hands.button("Make the palette"))
    saved(page, 3)
    labels = " ".join(page.get_by_role("option").evaluate_all("all => all.map((one) => one.getAttribute('aria-label'))"))
    assert all(code in labels for code in ("#1b1a1d", "#e85421", "#1e5c8c"))
    assert hands.actions <= 5


def test_twelve_codes_by_keys(hands: Hands) -> None:
    typed_bench(hands, *TWELVE)
    labels = hands.page.get_by_role("option").evaluate_all("all => all.map((one) => one.getAttribute('aria-label'))")
    assert [re.sub(r"^\d+ (.*), (#\w+).*$", r"\1 \2", label) for label in labels] == TWELVE
    assert hands.actions <= 26


def test_a_ramp_for_a_chart(hands: Hands) -> None:
    page = hands.page
    typed_bench(hands, "#0b2545", "#f4d58d")
    begun = hands.actions
    hands.press("Escape", "Control+a", "4")
    hands.click(page.get_by_role("tab", name="For a purpose"))
    hands.choose("Purpose: ", re.compile("^sequential ramp"))
    hands.click(hands.button("Make it"))
    promises = page.get_by_role("list", name="What the ramp keeps")
    expect(promises.get_by_role("listitem").first).to_be_visible()
    expect(promises.get_by_text(": fails")).to_have_count(0)
    hands.click(page.get_by_role("tab", name="Side by side"))
    steps = int(page.get_by_role("spinbutton", name="Number of steps").input_value())
    hands.click(hands.button(f"Bake {steps} swatches"))
    saved(page, 2 + steps)
    assert hands.actions - begun <= 10


def test_twins_are_merged_and_the_rest_put_in_order(hands: Hands) -> None:
    page = hands.page
    tones = np.array([(64, 32, 24), (66, 33, 25), (0, 60, 200), (230, 220, 200), (228, 219, 200), (20, 20, 24)], np.uint8)
    bring_in(page, png(opaque(tones[np.arange(120 * 160).reshape(120, 160) % 6])))
    expect(page.get_by_role("option")).to_have_count(6)
    hands.press("3")
    hands.click(page.get_by_role("tab", name="Near twins"))
    expect(hands.button("Merge to 4")).to_be_enabled()
    hands.click(hands.button("Merge to 4"))
    saved(page, 4)
    hands.click(page.get_by_role("tab", name="Sort"))
    settled(page)
    hands.choose("Sort key 1: ", "chroma")
    expect(hands.button("Sort")).to_be_enabled()
    hands.click(hands.button("Sort"))
    expect(page.get_by_text("4 swatches · saved")).to_be_visible()
    light = page.get_by_role("option").evaluate_all("all => all.map((one) => one.getAttribute('aria-label'))")
    chroma = [parse_color(re.search(r"#\w{6}", label)[0]).to("oklch")[1] for label in light]
    assert chroma == sorted(chroma)
    assert hands.actions <= 12


def test_gray_is_mended(hands: Hands) -> None:
    page = hands.page
    typed_bench(hands, "#b04a3a", "#4a7a3a", "#8a5a9a", "#c8b070", "#20242c")
    begun = hands.actions
    hands.press("Escape", "5")
    hands.click(page.get_by_role("tab", name=re.compile("gray", re.I)).first)
    mend = page.get_by_role("button", name=re.compile("^Make ")).first
    expect(mend).to_be_enabled()
    hands.click(mend)
    expect(page.get_by_text(re.compile("^(Tried out|[0-9] mends tried out):"))).to_be_visible()
    expect(hands.button("Keep")).to_be_enabled()
    hands.press("k")
    saved(page, 5)
    assert hands.actions - begun <= 8


def test_two_variants_are_delivered(hands: Hands) -> None:
    page = hands.page
    typed_bench(hands, "#f3ead6 Paper", "#1b1a1d Ink")
    page.keyboard.press("Escape")
    page.keyboard.press("3")
    page.get_by_role("tab", name="Variants").click()
    page.get_by_label("Name of the new variant").fill("Night")
    page.keyboard.press("Enter")
    expect(page.get_by_role("list", name="Variants").get_by_role("listitem")).to_have_count(2)
    saved(page, 2)
    page.keyboard.press("Escape")
    begun = hands.actions
    page.get_by_role("option").first.click()
    hands.press("6")
    hands.choose("Which variants", re.compile("^2 files, one a variant"))
    packed = hands.fetch("Download 2 files")
    assert packed.suggested_filename.endswith(".zip")
    assert hands.actions - begun <= 6
