"""What an artist sees of the limits: how full the shelf is before it is full, refusals in words, and large archives at work."""

import io
import subprocess
import zipfile
from dataclasses import replace
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from playwright.sync_api import Page, Route, expect

from bench.adversary import flat_png
from huvren.studio import bounds
from huvren.studio.models import Picture
from huvren.studio.services.bench import pictures
from huvren.studio.services.files import archives
from tests.browser.test_typing import held
from tests.pictures import painted, png


def demo() -> Any:
    return get_user_model().objects.get(username="demo")


def quota(monkeypatch: pytest.MonkeyPatch, **numbers: int) -> None:
    monkeypatch.setattr(bounds, "QUOTA", replace(bounds.QUOTA, **numbers))


def test_the_shelf_says_how_full_it_is_before_it_is(page: Page, monkeypatch: pytest.MonkeyPatch) -> None:
    for number in range(4):
        pictures.take_in(demo(), f"plate {number}.png", png(painted(40 + number, 30)))
    page.goto("/")
    expect(page.get_by_text("4 of 5,000 pictures")).to_be_visible()
    expect(page.get_by_text("of 4,096 MB")).to_be_visible()
    expect(page.get_by_text("nearly full")).to_have_count(0)
    quota(monkeypatch, pictures=5)
    page.reload()
    expect(page.get_by_text("The shelf is nearly full: 4 of 5 pictures.")).to_be_visible()


def test_a_full_shelf_refuses_in_words_and_keeps_what_is_there(page: Page, monkeypatch: pytest.MonkeyPatch) -> None:
    pictures.take_in(demo(), "plate.png", png(painted(40, 30)))
    quota(monkeypatch, pictures=1)
    page.goto("/")
    expect(page.get_by_text("The shelf is full: 1 of 1 pictures.")).to_be_visible()
    more = {"name": "more.png", "mimeType": "image/png", "buffer": png(painted(50, 30))}
    page.get_by_label("Files to bring in").first.set_input_files(more)
    expect(page.get_by_text("Your shelf holds 1 pictures").first).to_be_visible()
    assert Picture.objects.count() == 1
    page.get_by_role("button", name="Trash", exact=True).click()
    expect(page.get_by_text("The trash is empty")).to_be_visible()


def test_a_large_archive_is_brought_in_while_one_goes_on(page: Page, worker: subprocess.Popen[bytes]) -> None:
    other = get_user_model().objects.create_user("ben")
    pictures.take_in(other, "wide ground.png", flat_png(2600, 1700))
    pictures.take_in(other, "plate.png", png(painted(60, 40)))
    with archives.write_archive(other) as archive:
        data = archive.read()
    assert len(zipfile.ZipFile(io.BytesIO(data)).namelist()) == 3
    page.goto("/")
    page.get_by_role("button", name="Archive …").click()
    page.get_by_label("Archive file").set_input_files({"name": "all.zip", "mimeType": "application/zip", "buffer": data})
    expect(page.get_by_text("it is brought in while you go on")).to_be_visible()
    expect(page.get_by_role("heading", name="At work")).to_be_visible()
    expect(page.get_by_text("0 palettes and 2 pictures brought in")).to_be_visible()
    expect(page.get_by_text("wide ground.png")).to_be_visible()
    page.get_by_role("button", name="Put away An archive").click()
    expect(page.get_by_role("heading", name="At work")).to_have_count(0)


def test_somebody_who_guesses_is_told_how_long_to_wait(page: Page, settings: Any) -> None:
    settings.DEMO = False
    get_user_model().objects.create_user("dora", password="a long enough word")
    page.goto("/sign-in")
    for _ in range(6):
        page.get_by_label("Name").fill("dora")
        page.get_by_label("Password").fill("no")
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("alert").wait_for()
    expect(page.get_by_role("alert")).to_contain_text("Too many wrong passwords. Wait")
    expect(page.get_by_label("Name")).to_have_value("dora")


@pytest.mark.provokes("ERR_CONNECTION_FAILED")
def test_a_picture_whose_sending_is_broken_off_is_sent_again_by_itself(page: Page, picture: bytes) -> None:
    """With its bar and its words; and once, though the first sending came through and only its answer was lost."""
    page.goto("/")
    away = True

    def lose(route: Route) -> None:
        if away:
            route.fetch()
            route.abort("connectionfailed")
        else:
            route.continue_()

    page.route("**/api/pictures", lose)
    page.route("**/api/health", lambda route: route.abort("connectionfailed") if away else route.continue_())
    page.locator("input[type=file]").first.set_input_files({"name": "Night.png", "mimeType": "image/png", "buffer": picture})
    expect(page.get_by_text("The server cannot be reached. It is sent again by itself when that is over.")).to_be_visible()
    expect(page.get_by_role("progressbar", name="Bringing the picture in")).to_be_visible()
    away = False
    page.get_by_role("slider", name="Divider between original and result").wait_for()
    assert list(Picture.objects.values_list("name", flat=True)) == ["Night.png"]
    page.unroute("**/api/pictures")
    # And it need not be sent.
    page.goto("/")
    with held(page, "**/api/pictures"):
        page.locator("input[type=file]").first.set_input_files({"name": "Day.png", "mimeType": "image/png", "buffer": picture})
        page.get_by_role("button", name="Do not send it").click()
        expect(page.get_by_text("Day.png was not sent.")).to_be_visible()
        expect(page.get_by_role("progressbar", name="Bringing the picture in")).to_have_count(0)
    assert Picture.objects.count() == 1
