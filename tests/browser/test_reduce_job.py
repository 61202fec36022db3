"""The main job in the browser: drop, reduce, rename, reorder, undo after a reload, download; by pointer and by keyboard."""

import base64
import io
import re

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.conftest import bring_in
from tests.pictures import opaque, painted, png
from tests.waiting import until

DROP = """([data, name]) => {
  const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
  const transfer = new DataTransfer();
  transfer.items.add(new File([bytes], name, { type: "image/png" }));
  const target = document.querySelector("main");
  for (const kind of ["dragover", "drop"])
    target.dispatchEvent(new DragEvent(kind, { dataTransfer: transfer, bubbles: true, cancelable: true }));
}"""


def hexes(page: Page) -> list[str]:
    labels = page.get_by_role("option").evaluate_all("list => list.map((o) => o.getAttribute('aria-label'))")
    return [found.group(0) for label in labels if (found := re.search(r"#[0-9a-f]{6}", label))]


def names(page: Page) -> list[str]:
    labels = page.get_by_role("option").evaluate_all("list => list.map((o) => o.getAttribute('aria-label'))")
    return [re.sub(r"^\d+ |, #.*$", "", label) for label in labels]


def download(page: Page, format_label: str) -> bytes:
    page.get_by_role("radio", name=re.compile(re.escape(format_label))).check()
    with page.expect_download() as waiting:
        page.get_by_role("button", name="Download").click()
    return waiting.value.path().read_bytes()


def test_drop_reduce_rename_reorder_undo_download(page: Page, picture: bytes) -> None:
    page.goto("/")
    expect(page.get_by_text("Begin with a picture")).to_be_visible()
    page.evaluate(DROP, [base64.b64encode(picture).decode(), "Dropped.png"])
    expect(page.get_by_role("tab", name="Reduce")).to_have_attribute("aria-selected", "true")
    expect(page.get_by_role("option")).to_have_count(24)

    # Reduce: type a number, see the preview in the strip, keep it.
    page.get_by_role("spinbutton", name="Number of colors").fill("257")
    expect(page.get_by_role("alert")).to_have_text("257 is more than 256, the most there can be here.")
    page.get_by_role("spinbutton", name="Number of colors").fill("9")
    expect(page.get_by_role("option")).to_have_count(9)
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("9 swatches · saved")).to_be_visible()
    expect(page.get_by_text("used 9 of 9")).to_be_visible()

    # Rename in place; Enter goes on to the next name.
    page.get_by_role("option").nth(2).click()
    page.get_by_label("Name of swatch 2").fill("Glow edge")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Name of swatch 3")).to_be_focused()
    expect(page.get_by_role("option", name="2 Glow edge")).to_be_visible()

    # Drag it to the front.
    order = hexes(page)
    start, end = page.get_by_role("option").nth(2).bounding_box(), page.get_by_role("option").nth(0).bounding_box()
    assert start
    assert end
    page.mouse.move(start["x"] + start["width"] / 2, start["y"] + 20)
    page.mouse.down()
    page.mouse.move(end["x"] + 40, end["y"] + 22, steps=4)
    page.mouse.move(end["x"] + 3, end["y"] + 22, steps=4)
    page.mouse.up()
    expect(page.get_by_role("option").nth(0)).to_have_attribute("aria-label", re.compile("^0 Glow edge"))
    moved = [order[2], *order[:2], *order[3:]]
    assert hexes(page) == moved

    # Undo after a reload, and redo. The move is seen before it is saved.
    expect(page.get_by_text("9 swatches · saved")).to_be_visible()
    page.reload()
    expect(page.get_by_role("option").nth(0)).to_have_attribute("aria-label", re.compile("^0 Glow edge"))
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("option").nth(2)).to_have_attribute("aria-label", re.compile("^2 Glow edge"))
    assert hexes(page) == order
    page.get_by_role("button", name="Redo").click()
    expect(page.get_by_role("option").nth(0)).to_have_attribute("aria-label", re.compile("^0 Glow edge"))

    # Download and read the bytes.
    page.get_by_role("tab", name="Deliver").click()
    assert download(page, ".hex code list").decode().split() == [code[1:] for code in moved]
    text = download(page, ".gpl text palette").decode()
    assert text.splitlines()[4].endswith("\tGlow edge")
    image = Image.open(io.BytesIO(download(page, ".png indexed picture")))
    raw = image.getpalette() or []
    assert [f"#{r:02x}{g:02x}{b:02x}" for r, g, b in zip(raw[0::3], raw[1::3], raw[2::3], strict=True)][:9] == moved
    assert image.size == (256, 192)
    difference = np.abs(np.asarray(image.convert("RGB")).astype(int) - painted(192, 256)[..., :3]).mean()
    assert difference < 15


def tab_to(page: Page, role: str, name: str, most: int = 60) -> None:
    """Reach a control with the Tab key alone."""
    wanted = page.get_by_role(role, name=name, exact=True).first  # type: ignore[arg-type]
    for _ in range(most):
        if wanted.evaluate("element => element === document.activeElement"):
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"{most} presses of Tab do not reach {role} {name!r}.")


def test_the_same_job_by_keyboard_alone(page: Page, picture: bytes) -> None:
    # Listened for from the start: asked for just before the key, the dialog's interception can reach the page after the key does.
    page.on("filechooser", lambda chooser: chooser.set_files({"name": "Keys.png", "mimeType": "image/png", "buffer": picture}))
    page.goto("/")
    expect(page.get_by_text("Begin with a picture")).to_be_visible()
    page.wait_for_function("performance.getEntriesByType('paint').length > 0")
    tab_to(page, "button", "Choose a picture")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option")).to_have_count(24)

    tab_to(page, "spinbutton", "Number of colors")
    page.keyboard.type("8")
    expect(page.get_by_role("option")).to_have_count(8)
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("option")).to_have_count(7)
    page.keyboard.press("Escape")
    tab_to(page, "button", "Keep")
    page.keyboard.press("Enter")
    expect(page.get_by_text("7 swatches · saved")).to_be_visible()

    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("Tab")
    for _ in range(60):
        if page.evaluate("document.activeElement.getAttribute('role')") == "option":
            break
        page.keyboard.press("Tab")
    order = hexes(page)
    page.keyboard.press("Home")
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("option").nth(1)).to_be_focused()
    page.keyboard.press("Control+ArrowRight")
    expect(page.get_by_role("option").nth(2)).to_have_attribute("aria-label", re.compile(order[1]))
    assert hexes(page) == [order[0], order[2], order[1], *order[3:]]
    expect(page.get_by_role("option").nth(2)).to_be_focused()

    page.keyboard.press("Enter")
    expect(page.get_by_label("Name of swatch 2")).to_be_focused()
    page.keyboard.type("By hand")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option").nth(2)).to_have_attribute("aria-label", re.compile("^2 By hand"))
    page.keyboard.press("Escape")

    page.reload()
    expect(page.get_by_role("option")).to_have_count(7)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("option", name="By hand")).to_have_count(0)
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_role("option", name="2 By hand")).to_have_count(1)

    page.keyboard.press("6")
    expect(page.get_by_role("tab", name="Deliver")).to_have_attribute("aria-selected", "true")
    tab_to(page, "radio", ".gpl text palette")
    for _ in range(7):
        page.keyboard.press("ArrowDown")
    expect(page.get_by_role("radio", name=".hex code list")).to_be_checked()
    expect(page.get_by_role("button", name="Download .hex")).to_be_enabled()
    for _ in range(60):
        if "Download" in (page.evaluate("document.activeElement.textContent") or ""):
            break
        page.keyboard.press("Tab")
    with page.expect_download() as waiting:
        page.keyboard.press("Enter")
    assert waiting.value.path().read_bytes().decode().split() == [code[1:] for code in [order[0], order[2], order[1], *order[3:]]]


def test_locked_swatches_stay_and_typed_colors_are_added(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.keyboard.press("a")
    page.get_by_label("Type or paste colors").fill("#12")
    expect(page.get_by_text("“#12” is no color: a hex code has 3, 4, 6 or 8 digits.")).to_be_visible()
    page.get_by_label("Type or paste colors").fill("#ff00ff, oklch(0.9 0.1 150), tomato")
    expect(page.get_by_text("Add 3 colors")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("option")).to_have_count(27)
    page.get_by_role("option", name="#ff00ff").click()
    page.keyboard.press("l")
    expect(page.get_by_role("option", name="#ff00ff, locked")).to_be_visible()
    page.keyboard.press("2")
    page.get_by_role("spinbutton", name="Number of colors").fill("5")
    page.keyboard.press("Escape")
    expect(page.get_by_role("option")).to_have_count(5)
    expect(page.get_by_role("option", name="#ff00ff, locked")).to_be_visible()
    expect(page.get_by_role("button", name="Locked swatches: 1 locked")).to_be_visible()
    page.get_by_role("button", name="Put back").click()
    expect(page.get_by_role("option")).to_have_count(27)


def picture_pixel(page: Page, share: float = 0.9) -> list[int]:
    """The canvas pixel at a share of the area's width, in the middle of its height."""
    return page.get_by_test_id("picture").evaluate(
        """(canvas, share) => [...canvas.getContext('2d')
             .getImageData(Math.round(canvas.width * share), Math.round(canvas.height / 2), 1, 1).data]""",
        share,
    )


def test_the_linked_picture_recolors_at_once(page: Page) -> None:
    flat = opaque(np.full((90, 120, 3), (200, 60, 20), np.uint8))
    flat[:, :60] = (10, 20, 30, 255)
    bring_in(page, png(flat))
    expect(page.get_by_role("option")).to_have_count(2)
    page.wait_for_function("document.querySelector('canvas').width > 100")
    until(lambda: picture_pixel(page, 0.7)[:3] == [200, 60, 20])
    page.get_by_role("option", name="#c83c14").click()
    page.get_by_label("Hex or any color notation").fill("rgb(20 90 200)")
    page.keyboard.press("Enter")
    expect(page.get_by_role("option", name="#145ac8")).to_be_visible()
    assert picture_pixel(page, 0.7)[:3] == [20, 90, 200]
    thumb = page.get_by_role("slider", name="Hue", exact=True)
    thumb.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Home")
    expect(page.get_by_role("option", name="#145ac8")).to_have_count(0)
    assert picture_pixel(page, 0.7)[:3] != [20, 90, 200]


def test_dither_choice_and_hovered_swatch(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    page.get_by_role("button", name="Dither: not at all").click()
    page.get_by_role("radio", name="ordered 8×8").check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("spinbutton", name="Dither strength in percent")).to_be_visible()
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    expect(page.get_by_text(re.compile(r"file \d+"))).to_be_visible()
    before = picture_pixel(page, 0.6)
    index = page.get_by_role("option").first
    index.hover()
    until(lambda: picture_pixel(page, 0.6) != before)
    page.keyboard.press("k")
    expect(page.get_by_text("24 swatches · saved")).to_be_visible()
    page.get_by_role("button", name="History").click()
    expect(page.get_by_role("button", name=re.compile("2 Reduce to 24 colors .* dithered ordered 8×8"))).to_be_visible()
