"""Take the pictures of docs/screenshots from a fresh demo: `./run shots`."""

import re
import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from huvren.core.formats import FORMATS, Document
from huvren.demo.library import typed_palettes

FOLDER = Path(__file__).resolve().parent.parent / "docs" / "screenshots"
CHROMIUM = "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-sync"


def _open(page: Page, base: str, palette: str) -> None:
    page.goto(base)
    page.locator("section[aria-labelledby=palettes]").get_by_role("button", name=palette).first.click()
    page.get_by_role("tablist", name="Stages").wait_for()
    page.wait_for_timeout(2500)


def shelf(page: Page, base: str) -> None:
    page.goto(base)
    page.get_by_text("Plate 4, lamplight").wait_for()
    page.wait_for_timeout(800)


def reduce_light(page: Page, base: str) -> None:
    _open(page, base, "Plate 4, lamplight")
    page.get_by_role("option", name="Eye-spot").click()
    page.mouse.move(640, 500)
    page.wait_for_timeout(1200)


def reduce_preview_dark(page: Page, base: str) -> None:
    page.get_by_label("Surround dark").check()
    _open(page, base, "Plate 9, under stars")
    page.get_by_role("spinbutton", name="Number of colors").fill("12")
    page.wait_for_timeout(2500)


def curve(page: Page, base: str) -> None:
    page.goto(base)
    page.get_by_label("Surround light").check()
    _open(page, base, "Plate 7, first light")
    page.get_by_role("button", name="How many colors?").click()
    page.wait_for_timeout(2500)


def proofs(page: Page, base: str) -> None:
    _open(page, base, "Plate 4, lamplight")
    page.get_by_role("button", name="Proof sheet").click()
    for name in ("16", "32", "not at all", "tuned, free grain", "tuned, fine grain", "tuned, finest grain", "untuned"):
        page.get_by_role("button", name=name, exact=True).click()
    page.get_by_role("button", name=re.compile("^Lay out")).click()
    page.wait_for_timeout(9000)


def gather(page: Page, base: str) -> None:
    _open(page, base, "Press inks, spring run")
    page.keyboard.press("a")
    page.get_by_label("Type or paste colors").fill("Burnt umber #8a3324\nLamp core oklch(0.84 0.15 85)\n#e85421 rgb(30 92 140)")
    page.wait_for_timeout(900)


def arrange(page: Page, base: str) -> None:
    _open(page, base, "Plate 4, lamplight")
    page.keyboard.press("3")
    page.get_by_role("option").nth(6).click()
    page.get_by_role("option").nth(8).click(modifiers=["Control"])
    page.wait_for_timeout(900)


def batch(page: Page, base: str) -> None:
    page.goto(base)
    page.get_by_label("Surround light").check()
    page.get_by_role("button", name="Select", exact=True).click()
    for name in ("Plate 7", "Plate 9", "Wing beat"):
        page.get_by_role("button", name=re.compile(f"^{name}.*png")).click()
    page.get_by_role("button", name="Start").click()
    page.get_by_text("3 reduced").wait_for()
    page.get_by_role("button", name="Select", exact=True).click()
    page.get_by_role("button", name=re.compile("^Plate 4, tail.*png")).click()
    page.wait_for_timeout(500)


def pick(page: Page, base: str) -> None:
    _open(page, base, "Plate 9, under stars")
    page.keyboard.press("1")
    page.get_by_role("tab", name="From a picture").click()
    page.wait_for_timeout(1500)
    box = page.get_by_role("application", name="Pick a color here").bounding_box()
    assert box
    for right, down in ((0.35, 0.42), (0.3, 0.55), (0.47, 0.62), (0.62, 0.42)):
        page.mouse.click(box["x"] + box["width"] * right, box["y"] + box["height"] * down)
        page.wait_for_timeout(250)
    page.wait_for_timeout(700)


def map_of(page: Page, base: str) -> None:
    _open(page, base, "Plate 4, lamplight")
    page.keyboard.press("3")
    page.get_by_role("tab", name="Map").click()
    page.get_by_role("option", name="Eye-spot").click()
    page.wait_for_timeout(900)


def adjust(page: Page, base: str) -> None:
    _open(page, base, "Plate 7, first light")
    page.keyboard.press("3")
    page.get_by_role("tab", name="Adjust").click()
    page.get_by_label("Warm – cool, number").fill("-70")
    page.get_by_label("Lightness, number").first.fill("-12")
    page.wait_for_timeout(1500)


def twins(page: Page, base: str) -> None:
    _open(page, base, "Plate 4, lamplight")
    page.keyboard.press("3")
    page.get_by_role("tab", name="Near twins").click()
    page.get_by_role("spinbutton", name="Tolerance").fill("5.5")
    page.keyboard.press("Escape")
    page.wait_for_timeout(1500)


NOTES = """# The night garden, plates 3 to 5

The lamp is #ffcc66 at its core and rgb(255 162 46) around it; the wing #8a6a52, its eye-spot #e85421.
Dusk goes from oklch(0.35 0.09 275) to #0b58c4, and the ground is ink, 27 26 29 (RGB).

- Rim light: C 79 M 34 Y 0 K 45
- Leaves in moss, #5c7a3d, never in olive: that was plate 2, issue #31.
- Proof of 2026-11-12, sizes 210 297, screens at 15 45 75.
"""


def bring_in(page: Page, base: str) -> None:
    _open(page, base, "Plate 4, lamplight")
    page.keyboard.press("1")
    page.get_by_role("tab", name="From a palette or file").click()
    press = typed_palettes()[0]
    charts = next(palette for palette in typed_palettes() if palette.name == "Chart series")
    files = [
        {"name": f"{name}{entry.endings[0]}", "mimeType": entry.media_type, "buffer": entry.written(Document(palette))}
        for name, palette, entry in (
            ("Press inks", press, FORMATS["ase"]), ("Chart series", charts, FORMATS["css"]),
            ("Card", press, FORMATS["strip-png"]),
        )
        if entry.write
    ]  # fmt: skip
    files.insert(0, {"name": "Night notes.md", "mimeType": "text/markdown", "buffer": NOTES.encode()})
    page.get_by_label("Files to bring in").set_input_files(files)  # type: ignore[arg-type]
    page.get_by_role("list", name="Found swatches").wait_for()
    page.get_by_role("button", name="How they come in").click()
    page.get_by_role("radio", name="unite them").check()
    page.keyboard.press("Escape")
    page.get_by_role("list", name="Found swatches").get_by_role("button").nth(1).hover()
    page.wait_for_timeout(1200)


def ramp_dark(page: Page, base: str) -> None:
    page.goto(base)
    page.get_by_label("Surround dark").check()
    _open(page, base, "Dusk to lamp")
    page.keyboard.press("4")
    page.wait_for_timeout(1500)


def ramp_purpose(page: Page, base: str) -> None:
    page.goto(base)
    page.get_by_label("Surround light").check()
    _open(page, base, "Chart series")
    page.keyboard.press("4")
    page.get_by_role("tab", name="For a purpose").click()
    page.get_by_role("option").nth(1).click()
    page.get_by_role("option").nth(0).click(modifiers=["Control"])
    page.get_by_role("button", name="Purpose: ").click()
    page.get_by_role("radio", name="diverging ramp").check()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Make it").click()
    page.wait_for_timeout(1800)


def check_forms(page: Page, base: str) -> None:
    page.goto(base)
    page.get_by_label("Surround light").check()
    _open(page, base, "Plate 4, lamplight")
    page.keyboard.press("5")
    page.get_by_role("tab", name="Does it shade?").click()
    page.wait_for_timeout(2500)


def check_mixtures(page: Page, base: str) -> None:
    _open(page, base, "Press inks, spring run")
    page.keyboard.press("5")
    page.get_by_role("tab", name="What tones can I dither?").click()
    page.wait_for_timeout(2500)


def check_charts(page: Page, base: str) -> None:
    page.get_by_label("Surround dark").check()
    _open(page, base, "Chart series")
    page.keyboard.press("5")
    page.get_by_role("tab", name="Does a chart hold?").click()
    page.get_by_role("button", name="Lens", exact=True).click()
    page.get_by_role("radio", name="deutan eyes").check()
    page.keyboard.press("Escape")
    page.mouse.click(640, 790)
    page.wait_for_timeout(2500)


def deliver_mid(page: Page, base: str) -> None:
    page.get_by_label("Surround mid").check()
    _open(page, base, "Plate 7, first light")
    page.keyboard.press("6")
    page.get_by_role("radio", name=".css custom properties").check()
    page.wait_for_timeout(1500)


SHOTS: dict[str, Callable[[Page, str], None]] = {
    "shelf": shelf, "reduce": reduce_light, "reduce-preview-dark": reduce_preview_dark, "curve": curve, "proofs": proofs,
    "gather": gather, "pick": pick, "arrange": arrange, "map": map_of, "twins": twins, "adjust": adjust,
    "import": bring_in, "ramp-dark": ramp_dark, "ramp-purpose": ramp_purpose,
    "check-forms": check_forms, "check-mixtures": check_mixtures, "check-charts": check_charts,
    "deliver-mid": deliver_mid, "batch": batch,
}  # fmt: skip


def main() -> int:
    """Take every picture at 1280×800."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM.split())
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        for name, take in SHOTS.items():
            take(page, sys.argv[1])
            page.screenshot(path=FOLDER / f"{name}.png")
            print(f"  {name}.png")
        browser.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
