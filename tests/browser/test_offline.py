"""Nothing scored is lost or doubled: without a network, with the tab closed, the server killed and the database restarted."""

import re
import shutil
import subprocess
import time
from contextlib import suppress
from dataclasses import replace

from playwright.sync_api import Page, expect

from fieldtally.core.design.plan import Checkpoint, Outcome, Plan, Treatment
from fieldtally.core.scales import PassFailScale
from tests.browser.conftest import CHROMIUM, PHONE, Visitor, restart_database, until
from tests.browser.led import begun, call, joined, running

DAHLIAS = "Cut dahlias in the vase"
MANY = 250
ASPECTS = ("Upright", "Green", "Dry", "Whole")
LOOK = Checkpoint("now", "Now", 60, 60, 24 * 60)
ROWS = Plan(
    title="A long row of pegs",
    question="Which pegs hold?",
    zone="Europe/London",
    sample_word="peg",
    treatments=(Treatment("a", "Birch", "standard", MANY // 2), Treatment("b", "Larch", samples=MANY // 2)),
    outcomes=tuple(
        Outcome(name.lower(), name, PassFailScale("yes", "no"), primary=name == ASPECTS[0]) for name in ASPECTS
    ),
    checkpoints=(LOOK,),
)


def kept_by_the_worker(page: Page) -> None:
    """Wait until the page is the service worker's, so that it opens without a network."""
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    until(page, "navigator.serviceWorker.controller !== null")


def test_a_round_opened_once_goes_on_without_a_network_and_over_a_closed_tab(visitor):
    scorer = visitor(PHONE)
    page = scorer.sign_in("scorer@tarnlane.example")
    trial = scorer.trial(DAHLIAS)
    page.goto(f"/trials/{trial}/rounds/day6")
    expect(page.locator(".tag.huge .code")).to_be_visible()
    kept_by_the_worker(page)
    # Once more, so that what the page needs has passed through the worker.
    page.reload()
    expect(page.locator(".tag.huge .code")).to_be_visible()
    before = len(readings(scorer, trial))
    scorer.context.set_offline(True)
    page.reload()
    expect(page.get_by_text("No connection. Go on")).to_be_visible()
    code = page.locator(".tag.huge .code").inner_text()
    page.get_by_role("button", name=re.compile("^3 ")).click()
    expect(page.get_by_role("group", name="Petal drop")).to_be_visible()
    page.get_by_role("button", name="Not yet").click()
    page.close()

    page = scorer.page = scorer.context.new_page()
    page.goto(f"/trials/{trial}/rounds/day6")
    expect(page.locator(".tag.huge .code")).to_have_text(code)
    expect(page.get_by_role("textbox", name="Water drunk")).to_be_visible()
    page.get_by_role("textbox", name="Water drunk").fill("91")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("img", name=re.compile("1 of them on this device only"))).to_be_visible()
    assert len(call_offline(scorer)) == 3
    scorer.context.set_offline(False)
    expect(page.get_by_role("img", name=re.compile("on this device only"))).to_have_count(0, timeout=20_000)
    stored = [one for one in readings(scorer, trial) if one["code"] == code]
    assert sorted(one["outcome"] for one in stored) == ["Freshness", "Petal drop", "Water drunk"]
    assert len(readings(scorer, trial)) == before + 3
    page.get_by_role("button", name="Undo").click()


def readings(who, trial):
    round_ = call(who, "POST", f"/api/trials/{trial}/rounds", {"checkpoint": "day6"})
    codes = {sample["id"]: sample["code"] for sample in round_["samples"]}
    names = {outcome["key"]: outcome["name"] for outcome in round_["outcomes"]}
    return [{"code": codes.get(r["sample"]), "outcome": names[r["outcome"]]} for r in round_["readings"]]


def call_offline(who):
    """What waits on the device."""
    return who.page.evaluate(
        """() => new Promise((done) => {
          const opening = indexedDB.open("field-tally");
          opening.onsuccess = () => {
            const all = opening.result.transaction("waiting").objectStore("waiting").getAll();
            all.onsuccess = () => done(all.result.map((one) => one.id));
          };
        })"""
    )


def sheet(who, trial: str) -> Page:
    who.page.goto(f"/trials/{trial}/rounds/now")
    expect(who.page.locator("input[data-at='0,0']")).to_be_focused()
    kept_by_the_worker(who.page)
    return who.page


def test_two_thousand_readings_survive_every_fault_once_each(visitor, server, capsys):
    """Two people score all of 250 pegs on four aspects by keyboard, while networks drop, the server is killed and PostgreSQL
    restarts; every reading is stored exactly once, with the value that was typed."""
    lead, scorer = visitor(), visitor()
    lead.sign_in("lead@tarnlane.example")
    scorer.sign_in("scorer@tarnlane.example")
    trial = begun(lead, ROWS)
    joined(lead, trial, scorer, "scorer@tarnlane.example", "scorer")
    running(lead, trial)
    people = (lead, scorer)
    pages = [sheet(who, trial) for who in people]
    faults = {"network": 0, "server": 0, "database": 0, "tab": 0}
    typed = [0, 0]
    began = time.monotonic()
    chunk, total = 50, MANY * len(ASPECTS)
    for turn in range(total // chunk):
        for i, page in enumerate(pages):
            for n in range(chunk):
                page.keyboard.press(str((typed[i] + n + i) % 2))
            typed[i] += chunk
        match turn % 10:
            case 1 | 6:
                people[turn % 2].context.set_offline(True)
                faults["network"] += 1
            case 3:
                server.kill()
                faults["server"] += 1
            case 4:
                server.start()
            case 5:
                restart_database()
                faults["database"] += 1
            case 8:
                for who in people:
                    who.context.set_offline(False)
            case 9:
                # The tab is closed in the middle and the sheet opened again where it was left.
                i = turn // 10 % 2
                pages[i].close()
                people[i].page = people[i].context.new_page()
                people[i].page.goto(f"/trials/{trial}/rounds/now")
                row, column = divmod(typed[i], len(ASPECTS))
                if typed[i] < total:
                    expect(people[i].page.locator(f"input[data-at='{row},{column}']")).to_be_focused()
                pages[i] = people[i].page
                faults["tab"] += 1
    for who in people:
        who.context.set_offline(False)
    for page in pages:
        expect(page.get_by_role("img", name=f"{MANY} scored, 0 to go")).to_be_visible(timeout=90_000)
    took = time.monotonic() - began
    assert typed == [total, total]
    stored = 0
    for i, who in enumerate(people):
        round_ = call(who, "POST", f"/api/trials/{trial}/rounds", {"checkpoint": "now"})
        found = {(r["sample"], r["outcome"]): r["value"] for r in round_["readings"]}
        cells = [(s["id"], o["key"]) for s in round_["samples"] for o in round_["outcomes"]]
        assert len(round_["readings"]) == len(found) == total
        assert [found[cell] for cell in cells] == [float((n + i) % 2) for n in range(total)]
        stored += len(found)
        assert call_offline(who) == []
    log = call(lead, "GET", f"/api/trials/{trial}/log")
    assert log["readings"] == stored == 2 * total
    told = ", ".join(f"{times} × {what}" for what, times in faults.items())
    with capsys.disabled():
        print(f"\n{stored} readings by two people in {took:.0f} s through {told}: each stored exactly once")


def test_a_battery_that_runs_out_loses_nothing(browser, server, tmp_path):
    """The browser is killed with three scores on the device and no network; opened again, it sends them."""
    profile = tmp_path / "profile"

    def opened():
        return browser.browser_type.launch_persistent_context(
            profile, executable_path=shutil.which("chromium"), args=list(CHROMIUM), base_url=server.address, **PHONE
        )

    phone = Visitor(browser, server, context=opened())
    page = phone.sign_in("lead@tarnlane.example")
    trial = begun(
        phone, replace(ROWS, title="A few pegs", treatments=tuple(replace(t, samples=2) for t in ROWS.treatments))
    )
    running(phone, trial)
    page.goto(f"/trials/{trial}/rounds/now")
    kept_by_the_worker(page)
    page.reload()
    expect(page.locator(".tag.huge .code")).to_be_visible()
    phone.context.set_offline(True)
    for aspect in ASPECTS[:3]:
        page.get_by_role("group", name=aspect).get_by_role("button", name="yes").click()
    expect(page.get_by_role("group", name=ASPECTS[3])).to_be_visible()
    subprocess.run(["pkill", "-9", "-f", str(profile)], check=True)
    with suppress(Exception):
        phone.context.close()

    (profile / "SingletonLock").unlink(missing_ok=True)
    # Signing in may have been forgotten with the rest of what the browser had not written down; the scores have not.
    phone = Visitor(browser, server, context=opened())
    phone.sign_in("lead@tarnlane.example")
    phone.page.goto(f"/trials/{trial}/rounds/now")
    expect(phone.page.get_by_role("group", name=ASPECTS[3])).to_be_visible()
    for _ in range(40):
        round_ = call(phone, "POST", f"/api/trials/{trial}/rounds", {"checkpoint": "now"})
        if len(round_["readings"]) >= 3:
            break
        phone.page.wait_for_timeout(250)
    assert sorted(r["outcome"] for r in round_["readings"]) == sorted(one.lower() for one in ASPECTS[:3])
    phone.context.close()


def test_signing_in_drops_the_pages_that_were_kept_for_whoever_was_here_before(visitor):
    """A lead's pages name treatments; where their sign-in ran out, the next person on the device must not find them."""
    device = visitor()
    page = device.sign_in("lead@tarnlane.example")
    trial = device.trial(DAHLIAS)
    kept_by_the_worker(page)
    kept = (
        "caches.open('seen').then((store) => store.keys()).then((all) => all.map((one) => new URL(one.url).pathname))"
    )
    page.goto(f"/trials/{trial}")
    page.get_by_role("heading", name=DAHLIAS).wait_for()
    until(page, f"{kept}.then((all) => all.includes('/api/trials/{trial}/course'))")
    device.context.clear_cookies()
    device.sign_in("scorer@tarnlane.example")
    assert f"/api/trials/{trial}/course" not in page.evaluate(kept)
