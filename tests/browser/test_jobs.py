"""Long work in the browser: a large picture with progress and cancel, and a batch with its zip."""

import io
import re
import signal
import subprocess
import zipfile

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from huvren.studio.models import Job, JobResult
from tests.browser.conftest import bring_in
from tests.browser.test_care import scan
from tests.pictures import painted, png
from tests.waiting import until

pytestmark = pytest.mark.usefixtures("worker")


def send(page: Page, *names: str, height: int = 96) -> None:
    """Store pictures without going to their benches."""
    for place, name in enumerate(names):
        data = png(np.roll(painted(height, height * 4 // 3), 13 * place, axis=1))
        token = next(cookie["value"] for cookie in page.context.cookies() if cookie["name"] == "csrftoken")
        answer = page.request.post(
            "/api/pictures", multipart={"file": {"name": name, "mimeType": "image/png", "buffer": data}},
            headers={"X-CSRFToken": token},
        )  # fmt: skip
        assert answer.status == 201
    page.reload()


def test_a_large_picture_is_kept_by_the_worker(page: Page, picture: bytes) -> None:
    bring_in(page, picture)
    expect(page.get_by_role("option")).to_have_count(24)
    page.get_by_role("spinbutton", name="Number of colors").fill("7")
    page.keyboard.press("Escape")
    expect(page.get_by_role("option")).to_have_count(7)
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("7 swatches · saved")).to_be_visible()
    expect(page.get_by_text("preview, not kept")).to_have_count(0)
    assert [job.state for job in Job.objects.all()] == ["done", "done"]


def test_keeping_is_cancelled_and_the_draft_stays(page: Page, picture: bytes) -> None:
    bring_in(page, png(painted(900, 1200)))
    page.get_by_role("button", name="Details: as usual").click()
    page.get_by_role("radio", name="CIEDE2000").check()
    page.keyboard.press("Escape")
    page.get_by_role("spinbutton", name="Number of colors").fill("200")
    page.keyboard.press("Escape")
    expect(page.get_by_role("option")).to_have_count(200)
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("progressbar", name="Reducing at full size")).to_be_visible()
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_role("button", name="Keep", exact=True)).to_be_visible()
    expect(page.get_by_text("preview, not kept")).to_be_visible()
    page.get_by_role("button", name="Put back").click()
    expect(page.get_by_role("option")).to_have_count(24)
    page.goto("/")
    expect(page.get_by_text("called off · Called off; nothing was changed.")).to_be_visible()
    scan(page)
    page.get_by_role("button", name="Try again").click()
    expect(page.get_by_role("region", name="At work")).to_have_count(0)
    expect(page.get_by_text("200 swatches")).to_be_visible()


def test_a_batch_is_started_cancelled_gone_on_with_and_fetched(page: Page, worker: subprocess.Popen[bytes]) -> None:
    page.goto("/")
    expect(page.get_by_text("Begin with a picture")).to_be_visible()
    send(page, "Moth one.png", "Moth two.png", "Moth three.png", "Moth four.png", height=600)
    page.get_by_role("button", name="Select", exact=True).click()
    for name in ("Moth one", "Moth two", "Moth three", "Moth four"):
        page.get_by_role("button", name=re.compile(f"^{name}")).click()
    expect(page.get_by_text("4 pictures selected")).to_be_visible()
    scan(page)
    page.get_by_role("button", name="Start").click()
    work = page.get_by_role("region", name="At work")
    # The worker is held between two pictures, so that it cannot be done before the click.
    until(JobResult.objects.exists)
    worker.send_signal(signal.SIGSTOP)
    expect(work.get_by_text(re.compile("[1-3] of 4"))).to_be_visible()
    work.get_by_role("button", name="Cancel").click()
    expect(work.get_by_role("button", name="Cancel")).to_have_count(0)
    worker.send_signal(signal.SIGCONT)
    expect(work.get_by_text("called off", exact=False)).to_be_visible()
    page.reload()
    work.get_by_role("button", name="Go on").click()
    expect(work.get_by_text("done · 4 reduced")).to_be_visible()
    with page.expect_download() as waiting:
        work.get_by_role("link", name="Fetch the zip").click()
    archive = zipfile.ZipFile(io.BytesIO(waiting.value.path().read_bytes()))
    assert len(archive.namelist()) == 9
    # Each of its pictures by itself: one is kept as a palette of its own.
    work.get_by_role("button", name="Its pictures").click()
    expect(work.get_by_text("finished", exact=True)).to_have_count(4)
    scan(page)
    work.get_by_role("button", name="Keep as a palette: Moth two.png").click()
    expect(page.get_by_text("Moth two.png is a palette on the shelf.")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Moth two 24 swatches"))).to_be_visible()
    image = Image.open(io.BytesIO(archive.read("Moth three.png")))
    assert (image.mode, image.size, len(image.getcolors() or [])) == ("P", (800, 600), 24)
    work.get_by_role("button", name=re.compile("^Put away")).click()
    expect(work).to_have_count(0)
