"""The built interface in headless Chromium, served by this process on the tests' PostgreSQL."""

import json
import os
import signal
import subprocess
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from django.contrib.staticfiles import handlers
from django.contrib.staticfiles.handlers import StaticFilesHandler
from django.core.signals import request_finished, request_started
from django.http import HttpRequest, HttpResponse
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright
from pytest_django.live_server_helper import LiveServer

from huvren.studio.services.load import jobs
from tests.pictures import painted, png
from tests.waiting import ended, until
from tests.workers import forget_queue, start_worker

ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    # All pages of the tests in one process, which is warm: a new one for each compiles every script anew.
    "--process-per-site",
]
# The very first run compiles the kernels that a page waits for.
PATIENCE_MS = 30_000
CHANGED, ASKED = os.environ.get("HUVREN_CHANGED"), os.environ.get("HUVREN_ASKED")
if CHANGED or ASKED:
    # A mutation round: most of what a change breaks never comes, and everything is compiled.
    PATIENCE_MS = 8_000
expect.set_options(timeout=PATIENCE_MS)
EXPECTED_PROBLEMS = ("status of 409", "status of 413", "status of 404", "net::ERR_FAILED")
"""Answers that the tests provoke; the browser notes each as an error of its own. What is expected to be refused is not asked for, so
that a test in which something is refused says so by `provokes`."""


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        yield chromium
        chromium.close()


ANSWER = """(() => {
  const said = new Set();
  globalThis.__changed = (number) => {
    if (!said.has(number)) globalThis.__asked?.(number);
    said.add(number);
    return number === %s;
  };
})()"""


@pytest.fixture(scope="session")
def woven_changes(windows: BrowserContext) -> set[int]:
    """Which changes of a build that has them woven in (`tools/woven.py`) were asked for since this was last emptied."""
    numbers: set[int] = set()
    if CHANGED or ASKED:
        windows.expose_binding("__asked", lambda _source, number: numbers.add(number))
        windows.add_init_script(ANSWER % (CHANGED or -1))
    return numbers


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: pytest.Item, call: pytest.CallInfo[None]) -> Any:
    report = yield
    if call.when == "call":
        item.stash[PASSED] = report.passed
        item.stash[SECONDS] = report.duration
    return report


PASSED, SECONDS = pytest.StashKey[bool](), pytest.StashKey[float]()


class InFlight:
    """Requests that the tests' server is at work on: Django says when each begins and ends.

    It does not say so of one whose window is closed before its body is read: then its thread ends with the connection.
    """

    def __init__(self) -> None:
        self._threads: set[threading.Thread] = set()
        self._lock = threading.Lock()
        request_started.connect(self._begins)
        request_finished.connect(self._ends)

    @property
    def count(self) -> int:
        with self._lock:
            return sum(thread.is_alive() for thread in self._threads)

    def _begins(self, **_: Any) -> None:
        with self._lock:
            self._threads.add(threading.current_thread())

    def _ends(self, **_: Any) -> None:
        with self._lock:
            self._threads.discard(threading.current_thread())


@pytest.fixture(scope="session")
def in_flight() -> InFlight:
    return InFlight()


class KeptFiles(StaticFilesHandler):
    """Files of the interface as ours are served: named by their content, and so never asked for twice."""

    def serve(self, request: HttpRequest) -> HttpResponse:
        response: HttpResponse = super().serve(request)
        response["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


@pytest.fixture(scope="session")
def live_server() -> Iterator[LiveServer]:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(handlers, "StaticFilesHandler", KeptFiles)
        server = LiveServer("localhost")
    yield server
    server.stop()


@pytest.fixture(scope="session")
def windows(browser: Browser, in_flight: InFlight, live_server: LiveServer) -> Iterator[BrowserContext]:
    """Where all tests open their pages: a profile of its own for each costs the browser more than most tests do, and compiles
    every script anew. What a page leaves behind is cleared away before the next one (`page`)."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=live_server.url, accept_downloads=True)
    # It stays open, and the process with it.
    context.new_page().goto("/api/health")
    yield context
    context.close()


def cleared(windows: BrowserContext, url: str) -> Page:
    """A new page in a profile that knows nothing of the tests before."""
    windows.clear_cookies()
    windows.clear_permissions()
    page = windows.new_page()
    session = windows.new_cdp_session(page)
    session.send("Storage.clearDataForOrigin", {"origin": url, "storageTypes": "all"})
    session.detach()
    return page


@pytest.fixture
def page(
    request: pytest.FixtureRequest,
    windows: BrowserContext,
    in_flight: InFlight,
    live_server: LiveServer,
    settings: Any,
    transactional_db: None,
    woven_changes: set[int],
) -> Iterator[Page]:
    """A signed-in artist's page. Fails on console errors and on requests to any other origin.

    A test marked `provokes` names an answer that it alone provokes.
    """
    marker = request.node.get_closest_marker("provokes")
    expected = (*EXPECTED_PROBLEMS, *(marker.args if marker else ()))
    settings.DEMO = True
    get_user_model().objects.create_user("demo")
    page = cleared(windows, live_server.url)
    page.set_default_timeout(PATIENCE_MS)
    woven_changes.clear()
    wrong: list[str] = []
    page.on("pageerror", lambda error: wrong.append(f"error: {error}"))
    page.on(
        "console",
        lambda said: (
            wrong.append(f"console: {said.text} {said.location['url']}")
            if said.type == "error" and not any(known in said.text for known in expected)
            else None
        ),
    )
    page.on(
        "request",
        lambda request: (
            None if request.url.startswith((live_server.url, "blob:", "data:")) else wrong.append(f"request elsewhere: {request.url}")
        ),
    )
    yield page
    # What is broken off by closing the window is no fault of the page.
    found = [*wrong]
    for window in windows.pages[1:]:
        window.close()
    # The database is emptied next: not under a request that still writes to it.
    until(lambda: in_flight.count == 0)
    if ASKED and request.node.stash.get(PASSED, False) and not found:
        row = {"test": request.node.nodeid, "asked": sorted(woven_changes), "seconds": request.node.stash[SECONDS]}
        with Path(ASKED).open("a", encoding="utf-8") as told:
            told.write(json.dumps(row) + "\n")
    assert found == []


@pytest.fixture
def worker(page: Page, monkeypatch: pytest.MonkeyPatch) -> Iterator[subprocess.Popen[bytes]]:
    """A worker process; every picture is large enough to be reduced by it."""
    monkeypatch.setattr(jobs, "JOB_PIXELS", 1000)
    process = start_worker()
    yield process
    process.send_signal(signal.SIGCONT)
    process.terminate()
    ended(process)
    forget_queue()


@pytest.fixture
def picture() -> bytes:
    """A PNG file of a painted picture, 256 × 192."""
    return png(painted(192, 256))


def settled(page: Page) -> None:
    """Wait until the stage is there and nothing loads or moves any more."""
    page.wait_for_function(
        """() => document.querySelector('#stage')?.childElementCount > 0
            && !document.querySelector('[aria-busy=true]')
            && document.getAnimations().every((moving) => moving.playState !== 'running')"""
    )


def bring_in(page: Page, data: bytes, name: str = "Evening plate.png") -> None:
    """Choose a file on the shelf and wait for its bench."""
    page.goto("/")
    page.locator("input[type=file]").first.set_input_files({"name": name, "mimeType": "image/png", "buffer": data})
    page.get_by_role("slider", name="Divider between original and result").wait_for()
