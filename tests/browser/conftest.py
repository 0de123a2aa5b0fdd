"""A real server on a database of its own, with the demo in it, and a real browser before it."""

from __future__ import annotations

import json
import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, TypeVar

import pytest
from playwright.sync_api import Browser, BrowserContext, Locator, Page, expect, sync_playwright
from playwright.sync_api import Error as PlaywrightError

from fieldtally.server.grants import APPLICATION
from tests.browser.demos import DEMO, cluster_of, connected, drop, environment_of, made

ROOT = Path(__file__).parents[2]
# Each worker has a database cluster of its own, which it may restart without disturbing the others.
WORKER = os.environ.get("PYTEST_XDIST_WORKER", "")
os.environ |= cluster_of(WORKER)
DATABASE = "fieldtally_browser"
CHROMIUM = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--no-first-run",
)
PASSWORD = "tarn-lane-demo"
SESSIONS: dict[str, list[str]] = {}
"""Kept sign-ins of the demo's people, by address: signing in by the form is walked where it is meant."""
PHONE: dict[str, Any] = {"viewport": {"width": 390, "height": 844}, "is_mobile": True, "has_touch": True}
DESK: dict[str, Any] = {"viewport": {"width": 1280, "height": 800}}
LONGEST = 90_000
expect.set_options(timeout=LONGEST)
"""A machine that does other work as well may take long; what is right takes no longer for it."""
WORKED_OUT = 300_000
"""What a worker does behind the page, such as measuring twenty photos, takes a minute on two quiet cores."""
KEPT = ROOT / ".ground/unsteady"
"""What is kept of a walk that failed: its page, its picture and its trace."""
UNSTEADY = 2
"""So many walks may fail once and pass when they are run again; with more the run has failed."""


T = TypeVar("T")


def free_port() -> int:
    with socket.socket() as listening:
        listening.bind(("127.0.0.1", 0))
        return listening.getsockname()[1]


def ask_device(port: int, line: str) -> str:
    """Say a line to a stand-in itself; what it answers."""
    with socket.create_connection(("127.0.0.1", port), timeout=3) as connection:
        connection.sendall(line.encode() + b"\n")
        return connection.makefile().readline().strip()


@dataclass
class Server:
    """Where it is, and how it was started."""

    address: str
    environment: dict[str, str]
    process: subprocess.Popen[bytes] | None = None
    worker: subprocess.Popen[bytes] | None = None
    instruments: subprocess.Popen[bytes] | None = None
    ports: dict[str, int] = field(default_factory=dict)
    handed: Counter[str] = field(default_factory=Counter)
    """How many of each person's kept sessions are in use."""

    def start_instruments(self) -> None:
        """A scale and a meter to read from; which they are goes into the server's environment."""
        self.ports = {"scale": free_port(), "meter": free_port()}
        command = [
            sys.executable,
            "-m",
            "fieldtally.server.devices.standins.serve",
            f"scale:json:{self.ports['scale']}",
            f"meter:text:{self.ports['meter']}",
        ]
        told = subprocess.run([*command, "--settings"], cwd=ROOT, env=self.environment, check=True, capture_output=True)
        self.environment["FT_DEVICES"] = told.stdout.decode()
        self.instruments = subprocess.Popen(command, cwd=ROOT, env=self.environment)

    def start(self) -> None:
        port = self.address.rsplit(":", 1)[1]
        command = [
            "-m",
            "gunicorn",
            "fieldtally.server.wsgi",
            "--bind",
            f"127.0.0.1:{port}",
            "--workers",
            "2",
            "--threads",
            "4",
            # Read once, and not by each of them.
            "--preload",
        ]
        self.process = subprocess.Popen(
            [sys.executable, *command, "--log-level", "critical", "--no-control-socket"],
            cwd=ROOT,
            env=self.environment,
            start_new_session=True,
        )
        # It listens once it has read every door, which takes a machine that does other work as well its time.
        end = time.monotonic() + 120
        while time.monotonic() < end:
            try:
                urllib.request.urlopen(f"{self.address}/api/doorstep", timeout=2)
                return
            except OSError:
                time.sleep(0.1)
        raise RuntimeError("The server did not come up.")

    def start_worker(self) -> None:
        """The background worker, which plays dry runs; begun again when it ends, as it does with a restart of the database."""
        command = f"{sys.executable} -m django db_worker --interval 0.2 --no-startup-delay"
        self.worker = subprocess.Popen(
            ["bash", "-c", f"while :; do {command}; sleep 0.5; done"],
            cwd=ROOT,
            env={**self.environment, "DJANGO_SETTINGS_MODULE": "fieldtally.server.settings"},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )

    def kill(self) -> None:
        """The server dies at once, all its processes with it, as in a power cut."""
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait(20)

    def stop(self) -> None:
        if self.worker:
            os.killpg(self.worker.pid, signal.SIGKILL)
            self.worker.wait(20)
        for one in (self.process, self.instruments):
            if one:
                one.terminate()
        for one in (self.process, self.instruments):
            if not one:
                continue
            try:
                # A server gives what it is asked half a minute to come to its end.
                one.wait(45)
            except subprocess.TimeoutExpired:
                one.kill()
                one.wait(45)


def until(page: Page, expression: str, seconds: float = 60.0) -> None:
    """Ask the page until ``expression``, which may be a promise, is true.

    Playwright's own wait evaluates its expression inside the page, where the page's security policy forbids that
    from the second time on; an evaluation asked for from here is not the page's own.
    """
    end = time.monotonic() + seconds
    while not page.evaluate(expression):
        assert time.monotonic() < end, f"not true within {seconds:g} s: {expression}"
        page.wait_for_timeout(50)


def eventually(page: Page, ask: Callable[[], T], good: Callable[[T], bool] = bool, seconds: float = 60.0) -> T:
    """What ``ask`` answers once that is ``good``; its last answer where that does not come about."""
    end = time.monotonic() + seconds
    while not good(found := ask()) and time.monotonic() < end:
        page.wait_for_timeout(100)
    return found


def kept_by_the_worker(page: Page) -> None:
    """Wait until the page is the service worker's, so that it opens without a network."""
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    until(page, "navigator.serviceWorker.controller !== null")


def put_column(page: Page, column: str, place: str) -> None:
    """Put a column of a table that is brought in to its place in the drawing, unless it lies there."""
    home = page.get_by_role("region", name=place, exact=True)
    chip = page.get_by_role("button", name=re.compile(rf"^{re.escape(column)}\b"), pressed=False)
    expect(chip).to_be_visible()
    if home.get_by_role("button", name=re.compile(rf"^{re.escape(column)}\b")).count():
        return
    chip.click()
    page.get_by_role("button", name=f"Put {column} here: {place}", exact=True).click()
    expect(home.get_by_role("button", name=re.compile(rf"^{re.escape(column)}\b"))).to_be_visible()


def log_lines(page: Page) -> Locator:
    """The lines of the log that are shown."""
    return page.get_by_role("region", name="Log", exact=True).get_by_role("listitem")


def restart_database() -> None:
    """Restart PostgreSQL, whoever is connected to it and whatever they are about."""
    command = [os.environ["FT_PG_CTL"], "-D", os.environ["FT_CLUSTER"], "-m", "fast", "-w", "-s", "restart"]
    as_owner = ["runuser", "-u", "postgres", "--", *command] if os.geteuid() == 0 else command
    subprocess.run(as_owner, cwd="/", check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


@pytest.fixture(scope="session")
def demo() -> Iterator[str]:
    """A database that holds the demo, to be copied, with its long work done: no copy needs to do it again."""
    kept = Path(os.environ.get("FT_TEST_DEMO", ""))
    SESSIONS.update(json.loads(kept.read_text()) if WORKER and kept.is_file() else made())
    yield DEMO
    drop(DEMO)


def renew(template: str) -> None:
    """A fresh copy of the database ``template``, whatever the one before held; whoever was connected to that connects anew."""
    drop(DATABASE)
    with connected("postgres") as connection:
        connection.execute(f"CREATE DATABASE {DATABASE} TEMPLATE {template}")


@contextmanager
def served(template: str) -> Iterator[Server]:
    """A server on a copy of the database ``template``, which is gone afterwards."""
    assert (ROOT / "web/dist/index.html").exists(), "the front end is not built"
    port = free_port()
    renew(template)
    # What serves is signed in as the application's own role, as ./start does.
    environment = {**environment_of(DATABASE), "FT_PORT": str(port)}
    environment |= {"FT_DB_USER": APPLICATION, "FT_DB_PASSWORD": os.environ["FT_DB_APP_PASSWORD"]}
    running = Server(f"http://127.0.0.1:{port}", environment)
    running.start_instruments()
    running.start()
    running.start_worker()
    try:
        yield running
    finally:
        running.stop()
        drop(DATABASE)


@pytest.fixture(scope="session")
def running(demo) -> Iterator[Server]:
    """One server for all files, which takes longest to come up."""
    with served(demo) as server:
        yield server


@pytest.fixture(scope="module")
def server(demo, running) -> Server:
    """It, on a copy of the demo of the file's own, so that none depends on another."""
    renew(demo)
    running.handed = Counter()
    return running


@pytest.fixture(autouse=True)
def begun_anew(request) -> None:
    """A walk that failed is run again on a database that knows nothing of its first try."""
    if getattr(request.node, "execution_count", 1) > 1 and "server" in request.fixturenames:
        renew(request.getfixturevalue("demo"))
        request.getfixturevalue("server").handed = Counter()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        started = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=list(CHROMIUM))
        yield started
        started.close()


@pytest.fixture
def passwords(server) -> Iterator[None]:
    """A walk that changes passwords leaves them to those after it as they were."""
    with connected(DATABASE) as connection:
        kept = connection.execute("SELECT password, id FROM people_user").fetchall()
        yield
        connection.cursor().executemany("UPDATE people_user SET password = %s WHERE id = %s", kept)


# A network that is idle for half a second may only wait for a slow processor; what is asked next is counted here.
FETCHES = """(() => {
  const ask = window.fetch;
  window.asked = { open: 0, last: 0 };
  window.fetch = (...what) => {
    window.asked.open += 1;
    const ended = () => { window.asked.open -= 1; window.asked.last = performance.now(); };
    return ask(...what).finally(ended);
  };
})()"""


class Visitor:
    """Somebody at a screen; what the browser complains about is kept."""

    def __init__(self, browser: Browser, server: Server, *, context: BrowserContext | None = None, **screen) -> None:
        self.server = server
        self.context = context or browser.new_context(base_url=server.address, accept_downloads=True, **screen)
        self.context.set_default_timeout(LONGEST)
        self.page: Page = self.context.new_page()
        self.complaints: list[str] = []
        self.page.on("pageerror", lambda error: self.complaints.append(str(error)))
        self.page.on("console", self._heard)
        self.page.add_init_script(FETCHES)
        self.context.tracing.start()

    def _heard(self, message) -> None:
        # A request that was turned down on purpose shows as a failed resource.
        if message.type == "error" and not re.search(r"Failed to load resource|ERR_", message.text):
            self.complaints.append(message.text)

    def sign_in(self, email: str, password: str = "") -> Page:
        """Signed in: with a kept session of the demo's person, or by the form with a password that is told."""
        if not password and self.server.handed[email] < len(SESSIONS.get(email, ())):
            key = SESSIONS[email][self.server.handed[email]]
            self.server.handed[email] += 1
            self.context.add_cookies([{"name": "sessionid", "value": key, "url": self.server.address}])
            self.page.goto("/")
            return self.page
        return self.sign_in_by_form(email, password or PASSWORD)

    def sign_in_by_form(self, email: str, password: str = PASSWORD) -> Page:
        """Signed in as a person does it."""
        self.page.goto("/sign-in")
        self.page.get_by_label("E-mail").fill(email)
        self.page.get_by_label("Password").fill(password)
        self.page.get_by_role("button", name="Sign in", exact=True).click()
        self.page.wait_for_url("**/")
        return self.page

    def trial(self, title: str) -> str:
        """The id of the trial of that title on this person's shelf: the oldest, which is the demo's own where there are two."""
        trials = self.context.request.get("/api/shelf").json()["trials"]
        return [t["id"] for t in trials if t["title"] == title][-1]


@pytest.fixture
def visitor(request, browser, server) -> Iterator:
    """Makes visitors: ``visitor(PHONE)``; afterwards none of their browsers has complained."""
    made: list[Visitor] = []
    request.node.visitors = made

    def make(screen=DESK) -> Visitor:
        made.append(Visitor(browser, server, **screen))
        return made[-1]

    yield make
    for one in made:
        complaints = list(one.complaints)
        one.context.close()
        assert complaints == []


def pytest_collection_modifyitems(items) -> None:
    """A walk that fails is run once more."""
    for item in items:
        if Path(__file__).parent in item.path.parents:
            item.add_marker(pytest.mark.flaky(reruns=1))


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item, call):
    """Keep what a walk that failed had before it."""
    report = yield
    if report.failed and Path(__file__).parent in item.path.parents:
        folder = KEPT / re.sub(r"\W+", "-", item.nodeid.rsplit("/", 1)[-1])
        folder.mkdir(parents=True, exist_ok=True)
        (folder / f"{report.when}.txt").write_text(report.longreprtext)
        for i, one in enumerate(getattr(item, "visitors", ())):
            with suppress(PlaywrightError):
                one.page.screenshot(path=folder / f"{i}.png", timeout=10_000)
                (folder / f"{i}.html").write_text(f"<!-- {one.page.url} -->\n{one.page.content()}")
            with suppress(PlaywrightError):
                one.context.tracing.stop(path=folder / f"{i}-trace.zip")
    return report


def _unsteady(terminal) -> dict[str, str]:
    """The walks that failed once and then passed, with what was said when they failed."""
    lost = {one.nodeid for kind in ("failed", "error") for one in terminal.stats.get(kind, ())}
    again = {one.nodeid: one.longreprtext for one in terminal.stats.get("rerun", ())}
    return {name: said for name, said in sorted(again.items()) if name not in lost}


def pytest_terminal_summary(terminalreporter) -> None:
    """Name them."""
    found = _unsteady(terminalreporter)
    if found:
        terminalreporter.section(f"unsteady: {len(found)} (more than {UNSTEADY} fail the run)")
    for name, said in found.items():
        terminalreporter.write_line(f"unsteady {name}; its trace is in {KEPT.relative_to(ROOT)}")
        terminalreporter.write_line("\n".join(line for line in said.splitlines() if line.startswith(("E ", ">"))))


def pytest_sessionfinish(session) -> None:
    """More than a few of them are a failure."""
    terminal = session.config.pluginmanager.get_plugin("terminalreporter")
    if terminal and not hasattr(session.config, "workerinput") and len(_unsteady(terminal)) > UNSTEADY:
        session.exitstatus = pytest.ExitCode.TESTS_FAILED
