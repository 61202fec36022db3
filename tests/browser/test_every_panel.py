"""Whatever opens: every panel and menu of the six stages and of the shelf, by the accessibility scan, in three surrounds."""

import json
from typing import Any

from playwright.sync_api import Page

from tests.browser.conftest import bring_in, settled
from tests.browser.test_care import scanned

OPENERS = """() => [...document.querySelectorAll('[aria-haspopup]')].map((opener, place) => [opener, place])
  .filter(([opener]) => opener.checkVisibility({ visibilityProperty: true }) && !opener.disabled)
  .map(([opener, place]) => ({ place, name: (opener.getAttribute('aria-label') || opener.textContent).trim() }))"""
OPEN = "[role=dialog], [role=menu], [data-radix-popper-content-wrapper] > *"


def look_into_every_panel(page: Page, where: str, known: set[str], wrong: list[Any]) -> int:
    """Open what opens here and nowhere before, and scan it; how many there were."""
    opened = 0
    for opener in page.evaluate(OPENERS):
        if opener["name"] in known:
            continue
        known.add(opener["name"])
        page.locator("[aria-haspopup]").nth(opener["place"]).click()
        page.locator(OPEN).first.wait_for()
        wrong += [[where, opener["name"], *found] for found in scanned(page, OPEN)]
        opened += 1
        page.keyboard.press("Escape")
        page.locator(OPEN).first.wait_for(state="detached")
    return opened


def test_whatever_opens_is_accessible_in_three_surrounds(page: Page, picture: bytes) -> None:
    known: set[str] = set()
    wrong: list[Any] = []
    bring_in(page, picture)
    settled(page)
    opened = 0
    for key in "123456":
        page.keyboard.press(key)
        settled(page)
        tabs = page.locator("#stage [role=tablist]").first.get_by_role("tab")
        names = tabs.all_inner_texts() or [""]
        for place, name in enumerate(names):
            if name:
                tabs.nth(place).click()
                settled(page)
            page.get_by_role("option").first.click()
            opened += look_into_every_panel(page, f"{key} {name}", known, wrong)
    page.goto("/")
    page.get_by_role("button", name="New palette").wait_for()
    opened += look_into_every_panel(page, "shelf", known, wrong)
    assert wrong == [], json.dumps(wrong, indent=1)
    assert opened >= 20, sorted(known)
