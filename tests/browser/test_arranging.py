"""Ramp, arrange, import and deliver in the browser, and ramps against Chromium's own gradients."""

import base64
import io
import re
from collections.abc import Iterator

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, expect

from huvren.core.formats import FORMATS, Document
from huvren.core.formats.readings import read_palette
from huvren.core.ramp.css import write_css
from huvren.core.ramp.plan import plain_only
from huvren.core.ramp.recipe import RampRecipe, RampStop
from huvren.demo.library import typed_palettes
from tests.browser.conftest import bring_in
from tests.browser.test_care import scan
from tests.browser.test_reduce_job import download, hexes, names
from tests.pictures import opaque, png

PRESS = next(palette for palette in typed_palettes() if palette.name.startswith("Press"))
WIDTH = 256

GRADIENTS = [
    ("oklab", "shorter", ("#262b5c", "#ffd478"), None),
    ("oklab", "shorter", ("#0b58c4", "#ffa22e", "#35594a"), (0.0, 0.3, 1.0)),
    ("oklch", "shorter", ("#8c5a4a", "#7a6a9a"), None),
    ("oklch", "longer", ("#8c7a6a", "#6a7a8c"), None),
    ("oklch", "shorter", ("#808080", "#8c5a4a"), None),
    ("oklch", "shorter", ("#8c5a4a", "#999", "#5a7a6a"), None),
    ("srgb-linear", "shorter", ("#0b58c4", "#ffa22e"), None),
    ("srgb", "shorter", ("#0b58c4", "#ffa22e80"), None),
    ("oklab", "shorter", ("#e8542100", "#1e5c8c"), None),
    ("oklch", "shorter", ("oklch(0.55 0.08 none)", "#5a7a6a"), None),
    ("oklch", "shorter", ("oklch(0.55 none 40)", "oklch(0.7 0.06 200)"), None),
    ("oklch", "increasing", ("oklch(none 0.05 40)", "oklch(0.7 0.06 200)"), (0.05, 0.9)),
    ("oklab", "shorter", ("oklab(0.5 none 0.05)", "oklab(none -0.05 none)"), None),
    ("oklch", "shorter", ("oklch(0.6 none none)", "oklch(0.8 none none)"), None),
    *(
        (space, "shorter", ("#8c5a4a", "#5a7a6a80", "#9a8a5a"), (0, 0.3, 1))
        for space in ("lab", "srgb-linear", "display-p3", "oklab", "srgb")
    ),
    *(
        (space, route, ("#8c5a4a", "#5a7a6a", "#7a6a8c"), None)
        for space in ("lch", "hsl", "oklch")
        for route in ("shorter", "longer", "increasing", "decreasing")
    ),
    ("lch", "shorter", ("lch(50 none 40)", "lch(70 20 200)"), None),
    ("lch", "shorter", ("#808080", "#8c5a4a"), None),
    ("lab", "shorter", ("lab(none 10 20)", "lab(60 none -10)"), None),
    ("hsl", "shorter", ("#808080", "#8c5a4a"), None),
]


@pytest.fixture(scope="module")
def empty_page(browser: Browser) -> Iterator[Page]:
    """A page with nothing of ours, to draw into."""
    page = browser.new_page(viewport={"width": WIDTH, "height": 8})
    yield page
    page.close()


@pytest.mark.parametrize(("space", "route", "codes", "positions"), GRADIENTS)
def test_samples_are_those_of_chromiums_gradients(
    empty_page: Page, space: str, route: str, codes: tuple[str, ...], positions: tuple[float, ...] | None
) -> None:
    """The CSS that is handed out, painted by Chromium: inside the gamut within 1/255, over white where it is clear."""
    texts = zip(codes, positions or (None,) * len(codes), strict=True)
    recipe = RampRecipe(stops=[RampStop(text=code, position=at) for code, at in texts], space=space, hue=route)
    ramp = recipe.plan().ramp(plain_only)
    gradient = re.findall(r"background: (.*);", write_css(ramp))[-1]
    empty_page.evaluate(
        "style => { const box = document.createElement('div'); box.style.cssText = style; document.body.replaceChildren(box); }",
        f"position: fixed; inset: 0 auto auto 0; width: {WIDTH}px; height: 4px; background: {gradient}, white",
    )
    shot = Image.open(io.BytesIO(empty_page.screenshot(clip={"x": 0, "y": 0, "width": WIDTH, "height": 4})))
    theirs = np.asarray(shot.convert("RGB"))[1].astype(float)
    srgb, alpha, inside = ramp.shown((np.arange(WIDTH) + 0.5) / WIDTH)
    ours = np.floor((srgb * alpha[:, None] + (1 - alpha[:, None])) * 255 + 0.5)
    assert inside.mean() > 0.9
    assert np.abs(ours - theirs)[inside].max() <= 1


def test_merge_near_twins_with_preview_and_undo(page: Page) -> None:
    tones = np.array([(64, 32, 24), (66, 33, 25), (68, 34, 26), (0, 60, 200)], np.uint8)
    bring_in(page, png(opaque(tones[np.arange(120 * 160).reshape(120, 160) % 4])))
    expect(page.get_by_role("option")).to_have_count(4)
    before = hexes(page)
    page.keyboard.press("3")
    page.get_by_role("tab", name="Near twins").click()
    expect(page.get_by_role("list", name="Stacks").get_by_role("listitem")).to_have_count(1)
    expect(page.get_by_text("left 2 of 4")).to_be_visible()
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    page.get_by_role("spinbutton", name="Tolerance").fill("0.5")
    expect(page.get_by_text("No two swatches are that close.")).to_be_visible()
    expect(page.get_by_role("option")).to_have_count(4)
    page.get_by_role("spinbutton", name="Tolerance").fill("2.5")
    page.keyboard.press("Escape")
    expect(page.get_by_text("left 2 of 4")).to_be_visible()
    page.get_by_role("button", name="Put back").click()
    expect(page.get_by_role("option")).to_have_count(4)
    page.get_by_role("spinbutton", name="Tolerance").fill("3")
    page.keyboard.press("Escape")
    expect(page.get_by_role("slider", name="Divider between before and result")).to_be_visible()
    scan(page)
    page.get_by_role("button", name="Merge to 2").click()
    expect(page.get_by_text("2 swatches · saved")).to_be_visible()
    page.get_by_role("button", name="Undo", exact=True).click()
    # The view proposes the merge anew for the palette as it is again.
    expect(page.get_by_text("left 2 of 4")).to_be_visible()
    page.get_by_role("button", name="Put back").click()
    expect(page.get_by_role("option")).to_have_count(4)
    assert hexes(page) == before


def test_select_group_sort_and_merge_by_hand(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="New palette").click()
    page.get_by_label("Type or paste colors").fill("#ffffff #000000 #888888 #ff0000")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option")).to_have_count(4)
    page.keyboard.press("Escape")
    page.get_by_role("option").nth(0).click()
    page.get_by_role("option").nth(2).click(modifiers=["Shift"])
    page.keyboard.press("g")
    page.get_by_label("Name of the group").fill("Grays")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Name of the group Grays")).to_be_visible()
    page.get_by_role("tab", name="Sort").click()
    page.get_by_role("button", name="What is sorted").click()
    page.get_by_role("radio", name="all swatches").check()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Sort key 1: hue").click()
    page.get_by_role("radio", name="lightness").check()
    page.keyboard.press("Escape")
    expect(page.get_by_text("swatches that move 3 of 4")).to_be_visible()
    page.get_by_role("button", name="Sort", exact=True).click()
    expect(page.get_by_text("4 swatches · saved")).to_be_visible()
    assert hexes(page) == ["#000000", "#888888", "#ffffff", "#ff0000"]
    page.get_by_role("tab", name="List").click()
    page.get_by_role("button", name="Dissolve the group Grays").click()
    expect(page.get_by_label("Name of the group Grays")).to_have_count(0)
    page.get_by_role("option").nth(0).click()
    page.get_by_role("option").nth(2).click(modifiers=["Control"])
    page.keyboard.press("m")
    page.get_by_role("radio", name="the first").check()
    expect(page.get_by_role("option")).to_have_count(3)
    page.get_by_role("button", name="Merge", exact=True).click()
    expect(page.get_by_text("3 swatches · saved")).to_be_visible()
    assert hexes(page) == ["#000000", "#888888", "#ff0000"]


def test_a_ramp_becomes_swatches_and_css(page: Page) -> None:
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.goto("/")
    page.get_by_role("button", name="New palette").click()
    page.get_by_label("Type or paste colors").fill("#0b58c4")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option")).to_have_count(1)
    page.keyboard.press("Escape")
    page.keyboard.press("4")
    expect(page.get_by_text("A ramp needs two colors or more.")).to_be_visible()
    scan(page)
    page.get_by_role("button", name="Add a stop: a first color").click()
    page.get_by_role("button", name=re.compile("^0 ")).click()
    page.get_by_role("button", name="Add a stop: a second color").click()
    page.get_by_label("Add a stop, typed").fill("#ffa22e")
    page.get_by_role("button", name="Use", exact=True).click()
    expect(page.get_by_role("radio", name=re.compile("^sRGB: .*dips 0.04"))).to_have_count(1)
    expect(page.get_by_role("radio", name=re.compile("^OKLab: .*dips 0.00"))).to_be_checked()
    page.get_by_text("OKLCh, longer hue").first.click()
    expect(page.get_by_role("radio", name=re.compile("^OKLCh, longer hue"))).to_be_checked()
    page.get_by_role("spinbutton", name="Number of steps").fill("5")
    page.keyboard.press("Escape")
    stop = page.get_by_role("slider", name="Position of #ffa22e")
    stop.focus()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("Shift+ArrowLeft")
    expect(stop).to_have_attribute("aria-valuetext", "98.9 %")
    page.keyboard.press("End")
    expect(stop).to_have_attribute("aria-valuenow", "100")
    page.get_by_role("tab", name="Take along").click()
    scan(page)
    page.get_by_role("button", name="Copy", exact=True).click()
    expect(page.get_by_text("The .css text is on the clipboard")).to_be_visible()
    css = page.evaluate("navigator.clipboard.readText()")
    gradient = re.findall(r"background: (.*);", css)[-1]
    assert gradient == "linear-gradient(90deg in oklch longer hue, #0b58c4 0%, #ffa22e 100%)"
    assert page.evaluate("css => CSS.supports('background', css)", gradient)
    page.get_by_role("tab", name="Side by side").click()
    page.get_by_role("button", name="Bake 5 swatches").click()
    expect(page.get_by_text("6 swatches · saved")).to_be_visible()
    assert hexes(page)[:2] == ["#0b58c4", "#0b58c4"]
    assert hexes(page)[-1] == "#ffa22e"
    page.get_by_role("button", name="History").click()
    expect(page.get_by_role("button", name=re.compile("3 Ramp from .* to #ffa22e in 5 steps, in OKLCh, longer hue"))).to_be_visible()


DROP_FILES = """files => {
  const transfer = new DataTransfer();
  for (const [name, data] of files)
    transfer.items.add(new File([Uint8Array.from(atob(data), (c) => c.charCodeAt(0))], name));
  const target = document.querySelector("main");
  for (const kind of ["dragover", "drop"])
    target.dispatchEvent(new DragEvent(kind, { dataTransfer: transfer, bubbles: true, cancelable: true }));
}"""


def test_a_mixed_drop_of_three_files(page: Page, picture: bytes) -> None:
    write = FORMATS["ase"].written
    page.goto("/")
    expect(page.get_by_text("Begin with a picture")).to_be_visible()
    files = [
        ("press.ase", write(Document(PRESS))),
        ("notes.txt", b"Lamp oil #fac43c, soot #1b1a1d, mud #6e4632"),
        ("plate.png", picture),
    ]
    page.evaluate(DROP_FILES, [[name, base64.b64encode(data).decode()] for name, data in files])
    expect(page.get_by_text("Bring in 3 files")).to_be_visible()
    expect(page.get_by_text("Take all 15 swatches")).to_be_visible()
    expect(page.get_by_role("list", name="Found swatches").get_by_role("listitem")).to_have_count(15)
    scan(page)
    page.get_by_label("Name of the new palette").fill("Press inks")
    page.get_by_role("button", name="Make the palette").click()
    expect(page.get_by_text("now the palette “Press inks”")).to_be_visible()

    # The text goes into the palette that was just made, without what was not meant.
    expect(page.get_by_text("Take all 3 swatches")).to_be_visible()
    page.get_by_role("button", name="Leave out mud").click()
    expect(page.get_by_text("Take 2 of 3 swatches")).to_be_visible()
    page.get_by_role("button", name="How they come in").click()
    page.get_by_role("radio", name="unite them").check()
    page.keyboard.press("Escape")
    expect(page.get_by_text("15 swatches, 0 of them new; 2 like one that is there already")).to_be_visible()
    page.get_by_role("button", name="How they come in").click()
    page.get_by_role("radio", name="append them").check()
    page.keyboard.press("Escape")
    expect(page.get_by_text("17 swatches, 2 of them new")).to_be_visible()
    page.get_by_role("button", name="Take mud").click()
    expect(page.get_by_text("18 swatches, 3 of them new")).to_be_visible()
    page.get_by_role("button", name="Leave out mud").click()
    expect(page.get_by_text("17 swatches, 2 of them new")).to_be_visible()
    page.get_by_role("button", name="Bring them in").click()
    expect(page.get_by_text("brought into “Press inks”")).to_be_visible()

    # The picture is offered reduced, or on a bench of its own.
    expect(page.get_by_text("Take all 16 swatches")).to_be_visible()
    page.get_by_role("spinbutton", name="Number of chosen colors").fill("5")
    expect(page.get_by_text("Take all 5 swatches")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Reduce it on a bench of its own").click()
    expect(page.get_by_role("tab", name="Reduce")).to_have_attribute("aria-selected", "true")
    expect(page.get_by_label("Palette name")).to_have_value("plate")

    page.goto("/")
    page.get_by_role("button", name=re.compile("^Press inks 17 swatches")).click()
    expect(page.get_by_role("option")).to_have_count(17)
    assert names(page)[-2:] == ["Lamp oil", "soot"]
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("option")).to_have_count(15)

    # Deliver the selection, with the report, and read the bytes.
    page.get_by_role("option").nth(3).click()
    page.get_by_role("option").nth(5).click(modifiers=["Control"])
    page.get_by_role("tab", name="Deliver").click()
    page.get_by_role("button", name="What is delivered").click()
    page.get_by_role("radio", name="the 2 selected").check()
    page.keyboard.press("Escape")
    page.get_by_role("radio", name=".act color table").check()
    expect(page.get_by_text("2 names dropped")).to_be_visible()
    expect(page.get_by_text("1 group name dropped")).to_be_visible()
    table = download(page, ".act color table")
    assert table[:6].hex() == "8c3b2a8a6a52"
    assert table[768:] == b"\0\2\xff\xff"
    delivered = read_palette(download(page, ".ase swatch exchange"))[1].palette
    assert [(s.name, s.color.hex) for s in delivered.swatches] == [("Kiln red", "#8c3b2a"), ("Wing brown", "#8a6a52")]


@pytest.mark.provokes("status of 422")
def test_a_broken_file_is_told_why_and_changes_nothing(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_text("Begin with a picture")).to_be_visible()
    page.evaluate(DROP_FILES, [["cut.ase", base64.b64encode(b"ASEF\0\1\0\0\0\0\0\1\0\1").decode()]])
    expect(page.get_by_role("alert")).to_contain_text("“cut.ase” cannot be read as .ase swatch exchange. Byte 12")
    page.keyboard.press("Escape")
    expect(page.get_by_text("Begin with a picture")).to_be_visible()


def test_pasted_text_opens_the_import(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_text("Begin with a picture")).to_be_visible()
    page.evaluate("""() => {
      const data = new DataTransfer();
      data.setData("text/plain", "dusk #0b58c4\\nlamp #ffa22e");
      window.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true }));
    }""")
    expect(page.get_by_text("Take all 2 swatches")).to_be_visible()
    page.get_by_role("button", name="Make the palette").click()
    expect(page.get_by_role("option")).to_have_count(2)
    assert names(page) == ["dusk", "lamp"]
