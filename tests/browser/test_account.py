"""Who is signed in, and where: another password, other places, and the way out."""

import re
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from django.test import Client
from playwright.sync_api import Page, expect

from tests.browser.test_care import scan
from tests.browser.test_typing import held

OLD, NEW = "a long enough word", "another word that is long"


@pytest.fixture
def ada(page: Page, settings: Any) -> Page:
    """The shelf of somebody who came in by the door."""
    settings.DEMO = False
    get_user_model().objects.create_user("ada", password=OLD)
    come_in(page, OLD)
    return page


def come_in(page: Page, password: str) -> None:
    page.goto("/sign-in")
    page.get_by_label("Name").fill("ada")
    page.get_by_label("Password").fill(password)
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Account of ada").wait_for()


def elsewhere(address: str) -> Client:
    client = Client(REMOTE_ADDR=address)
    assert client.post("/sign-in", {"username": "ada", "password": OLD}).status_code == 302
    return client


def test_places_are_seen_and_ended_and_one_goes_out_by_the_same_door(ada: Page) -> None:
    first, second = elsewhere("192.0.2.1"), elsewhere("192.0.2.2")
    ada.get_by_role("button", name="Account of ada").click()
    places = ada.get_by_role("list", name="Where you are signed in").get_by_role("listitem")
    expect(places).to_have_text([
        re.compile(r"this browser, since \d+ \w+, .*, from 127.0.0.1"), re.compile("another browser, since .*, from 192.0.2.2"),
        re.compile("another browser, since .*, from 192.0.2.1"),
    ])  # fmt: skip
    scan(ada)
    ada.get_by_role("button", name=re.compile("Sign out in .* 192.0.2.1")).click()
    expect(places).to_have_count(2)
    assert first.get("/api/session").status_code == 401
    third = elsewhere("192.0.2.3")
    ada.keyboard.press("Escape")
    ada.get_by_role("button", name="Account of ada").click()
    expect(places).to_have_count(3)
    ada.get_by_role("button", name="Sign out everywhere else").click()
    expect(places).to_have_count(1)
    assert {client.get("/api/session").status_code for client in (second, third)} == {401}
    ada.get_by_role("button", name="Sign out", exact=True).click()
    ada.get_by_label("Password").wait_for()
    ada.goto("/")
    ada.get_by_label("Password").wait_for()


@pytest.mark.provokes("422")
def test_a_password_is_changed_and_what_was_typed_wrong_is_said_where_it_stands(ada: Page) -> None:
    there = elsewhere("192.0.2.1")
    ada.get_by_role("button", name="Account of ada").click()
    ada.get_by_role("button", name="Change the password").click()
    scan(ada)
    # As fast as keys go.
    ada.keyboard.type("not the word")
    ada.keyboard.press("Tab")
    ada.keyboard.type(NEW)
    ada.keyboard.press("Enter")
    expect(ada.get_by_role("alert")).to_have_text("That is not the present password. Nothing was changed.")
    expect(ada.get_by_label("Present password")).to_be_focused()
    expect(ada.get_by_label("New password, of ten letters or more")).to_have_value(NEW)
    ada.get_by_label("Present password").fill(OLD)
    with held(ada, "**/api/account/password"):
        ada.keyboard.press("Enter")
        ada.keyboard.press("Enter")
        expect(ada.get_by_role("button", name="Changing …")).to_be_disabled()
    expect(ada.get_by_text("The password is changed, and you are signed out everywhere else.")).to_be_visible()
    expect(ada.get_by_role("list", name="Where you are signed in").get_by_role("listitem")).to_have_count(1)
    assert there.get("/api/session").status_code == 401
    ada.reload()
    ada.get_by_role("button", name="Account of ada").click()
    ada.get_by_role("button", name="Sign out", exact=True).click()
    come_in(ada, NEW)


def test_the_demo_says_that_it_has_no_password(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="Account of demo").click()
    expect(page.get_by_text("whoever sits at this computer is signed in as “demo”, without a password")).to_be_visible()
    expect(page.get_by_role("button", name="Sign out", exact=True)).to_have_count(0)
