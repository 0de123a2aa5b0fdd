"""How fast scoring is in a real browser: from a key press to the device's store, and scrolling a long round.

Run by ./bench, on a throw-away database, with a server of its own.
"""

from __future__ import annotations

import shutil
import statistics
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace

from playwright.sync_api import Page, sync_playwright

from tests.browser.conftest import CHROMIUM, DESK, PHONE, SESSIONS, Server, Visitor, served
from tests.browser.demos import DEMO, made
from tests.browser.led import begun, running
from tests.browser.test_offline import ASPECTS, ROWS

PACE = 110
KEPT = """() => {
  window.pressed = []; window.kept = []; window.flushed = [];
  window.addEventListener("keydown", () => window.pressed.push(performance.now()), true);
  const make = IDBDatabase.prototype.transaction;
  IDBDatabase.prototype.transaction = function (stores, mode, options) {
    const made = make.call(this, stores, mode, options);
    if (stores === "flushes" || (stores === "waiting" && options))
      made.addEventListener("complete", () => window[stores === "waiting" ? "kept" : "flushed"].push(performance.now()));
    return made;
  };
}"""
SCROLL = """() => new Promise((done) => {
  const frames = []; let last = performance.now(); const end = last + 4000;
  const tick = (now) => {
    frames.push(now - last); last = now;
    window.scrollBy(0, 60);
    if (now < end) requestAnimationFrame(tick); else done(frames.slice(2));
  };
  requestAnimationFrame(tick);
})"""


@contextmanager
def sheet(server: Server, samples: int) -> Iterator[Page]:
    """A sheet of so many samples, open in a browser."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=list(CHROMIUM))
        lead = Visitor(browser, server, **DESK)
        lead.sign_in("lead@tarnlane.example")
        treatments = tuple(replace(one, samples=samples // 2) for one in ROWS.treatments)
        trial = begun(lead, replace(ROWS, title=f"{samples} pegs", treatments=treatments))
        running(lead, trial)
        lead.page.goto(f"/trials/{trial}/rounds/now")
        lead.page.locator("input[data-at='0,0']").wait_for()
        lead.page.wait_for_timeout(1_000)
        yield lead.page
        browser.close()


WEAK = {"offline": False, "latency": 150, "downloadThroughput": 200_000, "uploadThroughput": 90_000}
"""1.6 Mbit/s down, 150 ms away."""
SLOWER = 4
LOADS = (("Today", "/today", "main h1", 2.0), ("a round", "", ".tag.huge .code", 2.5))


def first_loads(server: Server) -> None:
    """Print how long a phone on a weak link waits for a page that it has never seen."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=list(CHROMIUM))
        known = Visitor(browser, server, **PHONE)
        known.sign_in("scorer@tarnlane.example")
        trial = known.trial("Cut dahlias in the vase")
        state = known.context.storage_state()
        for name, path, shows, aim in LOADS:
            taken = []
            for _ in range(3):
                context = browser.new_context(
                    base_url=server.address, storage_state=state, service_workers="block", **PHONE
                )
                page = context.new_page()
                session = context.new_cdp_session(page)
                session.send("Network.enable")
                session.send("Network.emulateNetworkConditions", WEAK)
                session.send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
                begun = time.perf_counter()
                page.goto(path or f"/trials/{trial}/rounds/day6", wait_until="commit")
                page.locator(shows).first.wait_for()
                taken.append(time.perf_counter() - begun)
                context.close()
            print(
                f"first load of {name} on a phone, 1.6 Mbit/s, 150 ms, processor ÷ {SLOWER}: {min(taken):.1f} s (aim: {aim:g})"
            )
        browser.close()


def main() -> None:
    """Print all of it."""
    SESSIONS.update(made())
    with served(DEMO) as server:
        with sheet(server, 60) as page:
            page.evaluate(KEPT)
            for n in range(180):
                page.keyboard.press(str(n % 2))
                page.wait_for_timeout(PACE)
            page.wait_for_timeout(500)
            pressed, kept, flushed = page.evaluate("[window.pressed, window.kept, window.flushed]")
            waits = sorted(b - a for a, b in zip(pressed, kept, strict=True))
            print(
                f"key press to stored on the device, {len(waits)} scores, about eight a second: median {statistics.median(waits):.1f} ms, "
                f"95 in 100 within {waits[int(0.95 * len(waits))]:.1f} ms (aim: median 50 ms)"
            )
            on_disk = sorted(min(b for b in flushed if b >= a) - a for a in kept)
            print(f"from there to the disk: median {statistics.median(on_disk):.1f} ms")
        first_loads(server)
        with sheet(server, 2_000) as page:
            frames = page.evaluate(SCROLL)
            late = sum(frame > 34 for frame in frames)
            print(
                f"scrolling a round of 2,000 samples × {len(ASPECTS)}: {len(frames)} frames in 4 s, "
                f"median {statistics.median(frames):.1f} ms, {late} dropped (no graphics card, drawn by the processor)"
            )


if __name__ == "__main__":
    main()
