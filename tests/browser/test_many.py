"""Very many swatches and very large pictures: what is drawn for them, counted in parts and not in time."""

import io
import re
import subprocess

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.conftest import settled
from tests.waiting import until

COUNT = 3000


def test_the_map_shows_and_selects_every_one_of_thousands(page: Page) -> None:
    page.goto("/")
    # Blues and browns, and one that lies apart from all of them: vivid and green.
    rng = np.random.default_rng(7)
    codes = [f"{r:02x}{r // 2 + 40:02x}{b:02x}" for r, b in rng.integers(0, 120, (COUNT - 1, 2))]
    many = "\n".join([*codes, "00ff3c"])
    page.locator("input[type=file]").first.set_input_files({"name": "Many.hex", "mimeType": "text/plain", "buffer": many.encode()})
    page.get_by_role("button", name="Make the palette").click()
    expect(page.get_by_text(re.compile("3,000 swatches"))).to_be_visible()
    page.keyboard.press("3")
    page.get_by_role("tab", name="Map", exact=True).click()
    settled(page)
    assert page.locator("#stage [role=application] *").count() < 60, "dots are no elements"
    disc = page.locator("[data-panel=disc]").bounding_box()
    assert disc
    # Where green lies on the disc, at the rim: found as a person would, by looking for its color in what is drawn.
    at = page.evaluate("""() => {
      const canvas = document.querySelectorAll('[data-panel=disc] canvas')[1];
      const { width, height } = canvas;
      const { data } = canvas.getContext('2d').getImageData(0, 0, width, height);
      let x = 0, y = 0, count = 0;
      for (let place = 0; place < width * height; place++)
        if (data[place * 4] === 0 && data[place * 4 + 1] === 255 && data[place * 4 + 2] === 60) {
          x += place % width; y += Math.floor(place / width); count++;
        }
      const box = canvas.getBoundingClientRect();
      return { x: box.left + x / count / width * box.width, y: box.top + y / count / height * box.height };
    }""")
    page.mouse.click(at["x"], at["y"])
    expect(page.get_by_text("1 of 3000 selected")).to_be_visible()
    expect(page.locator("#strip-list [role=option][aria-selected=true]")).to_have_attribute("aria-label", re.compile("#00ff3c"))
    page.mouse.click(at["x"], at["y"], button="right")
    expect(page.get_by_role("menuitem", name="Copy Ctrl C")).to_be_visible()
    page.keyboard.press("Escape")
    page.mouse.move(disc["x"] - 8, disc["y"] - 2)
    page.mouse.down()
    page.mouse.move(disc["x"] + disc["width"] + 8, disc["y"] + disc["height"] + 8, steps=4)
    page.mouse.up()
    expect(page.get_by_text("3000 of 3000 selected")).to_be_visible()


@pytest.mark.usefixtures("worker")
def test_a_large_picture_is_painted_small_at_once_and_whole_when_hands_rest(page: Page, worker: "subprocess.Popen[bytes]") -> None:
    """A red pixel among three and a half million of blue: seen as soon as the whole is painted, at its own size."""
    page.goto("/")
    rgb = np.full((1750, 2000, 3), (20, 40, 200), np.uint8)
    rgb[:, 1000:] = (240, 230, 200)
    rgb[876, 983] = (230, 20, 20)
    file = io.BytesIO()
    Image.fromarray(rgb).save(file, "PNG")
    page.locator("input[type=file]").first.set_input_files({"name": "Large.png", "mimeType": "image/png", "buffer": file.getvalue()})
    page.get_by_role("slider", name="Divider between original and result").wait_for()
    page.keyboard.press("3")
    page.get_by_role("tab", name="Picture", exact=True).click()
    settled(page)
    expect(page.get_by_role("option")).to_have_count(3)
    page.get_by_role("button", name="1 : 1, actual size").click()
    red = """() => [...document.querySelectorAll('#stage canvas')].some((canvas) => {
      const { data } = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height);
      for (let place = 0; place < data.length; place += 4)
        if (data[place] > 200 && data[place + 1] < 60 && data[place + 2] < 60 && data[place + 3] === 255) return true;
      return false;
    })"""
    until(lambda: page.evaluate(red), "the pixel was lost")
