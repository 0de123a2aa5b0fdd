"""Nothing scored is lost or doubled: without a network, with the tab closed, the server killed and the database restarted."""

import re
import shutil
import subprocess
import time
from contextlib import suppress
from dataclasses import asdict, replace

from playwright.sync_api import Page, expect

from fieldtally.core.design.plan import Checkpoint, Outcome, Plan, Treatment
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.scales import PassFailScale
from tests.browser.conftest import (
    CHROMIUM,
    DATABASE,
    PHONE,
    Visitor,
    connected,
    eventually,
    kept_by_the_worker,
    restart_database,
    until,
)
from tests.browser.led import begun, call, joined, running
from tests.depth import EVERYTHING

DAHLIAS = "Cut dahlias in the vase"
MANY, CHUNK = (250, 50) if EVERYTHING else (50, 20)
"""How many pegs, and how many readings each person gives before the next fault: ten faults at least."""
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
    expect(page.get_by_role("img", name=re.compile("on this device only"))).to_have_count(0)
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


def test_readings_survive_every_fault_once_each(visitor, server, capsys):
    """Two people score all pegs on four aspects by keyboard, while networks drop, the server is killed and PostgreSQL
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
    chunk, total = CHUNK, MANY * len(ASPECTS)
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


JARS = Plan(
    title="Jars in a storm",
    question="Which jar is crunchier?",
    zone="Europe/London",
    sample_word="jar",
    treatments=(Treatment("a", "Vine leaf", "standard", 2), Treatment("b", "Oak bark", samples=2)),
    outcomes=(Outcome("firm", "Firm", PassFailScale("yes", "no")),),
    checkpoints=(LOOK,),
)
SEATS, SETS = (20, 10) if EVERYTHING else (10, 4)
BEFORE = SETS * 4 // 10
"""So many sets each are judged before a fault."""


def stored_answers(panel: str) -> list[tuple[str, int]]:
    """Of each stored answer the codes of its set and the cup that was named, from the database itself."""
    with connected(DATABASE) as connection:
        rows = connection.execute(
            "SELECT serving.codes, judgement.answer FROM panels_judgement judgement "
            "JOIN panels_serving serving ON serving.id = judgement.serving_id "
            "JOIN panels_assessor assessor ON assessor.id = serving.assessor_id WHERE assessor.panel_id = %s",
            [panel],
        ).fetchall()
    return sorted(("-".join(codes), answer[0]) for codes, answer in rows)


def test_answers_in_the_booth_survive_every_fault_once_each(visitor, server, capsys):
    """People at two phones give several answers each, while networks drop, the server is killed, PostgreSQL restarts, tabs are closed,
    a set is spilt whose answer is still on the phone, and the panel is closed before the last ones arrive."""
    host = visitor()
    host.sign_in("lead@tarnlane.example")
    trial = begun(host, JARS)
    running(host, trial)
    plan = asdict(PanelPlan("Crunch", "triangle", ("a", "b"), assessors=SEATS, sets=SETS, pause=0, free_words=False))
    panel = call(host, "POST", f"/api/trials/{trial}/panels", {"plan": plan})["id"]
    people = [{"name": f"Taster {n + 1}"} for n in range(SEATS)]
    call(host, "POST", f"/api/panels/{panel}/assessors", {"assessors": people})
    call(host, "POST", f"/api/panels/{panel}/begin")
    links = [one["link"] for one in call(host, "GET", f"/api/panels/{panel}")["assessors"]]
    phones = [visitor(PHONE), visitor(PHONE)]
    for phone in phones:
        phone.page.goto("/sign-in")
        kept_by_the_worker(phone.page)
    faults = {"network": 0, "server": 0, "database": 0, "tab": 0}
    wanted: dict[str, int] = {}
    tops: dict[int, set[float]] = {}
    began = time.monotonic()

    def answered(booth: Page, many: int, cup: int) -> list[str]:
        """Give so many answers, always that cup; the codes of its sets."""
        codes = []
        for _ in range(many):
            cups = booth.get_by_role("button", name=re.compile("^Cup "))
            expect(cups.first).to_be_visible()
            named = [one.removeprefix("Cup ") for one in cups.evaluate_all("all => all.map((one) => one.ariaLabel)")]
            codes.append("-".join(named))
            wanted[codes[-1]] = cup
            tops.setdefault(seat, set()).add((cups.first.bounding_box() or {})["y"])
            cups.nth(cup).click()
            booth.get_by_role("button", name="Give my answer: it is locked then").click()
            expect(booth.get_by_role("button", name=f"Cup {named[0]}")).to_have_count(0)
        return codes

    spilt = ""
    for seat, link in enumerate(links):
        phone, cup = phones[seat % 2], seat % 3
        phone.context.set_offline(False)
        phone.page.goto(link)
        phone.page.get_by_role("button", name="I have read this and take part").click()
        expect(phone.page.get_by_text(f"1 of {SETS}")).to_be_visible()
        answered(phone.page, BEFORE, cup)
        match seat % 5:
            case 0:
                phone.context.set_offline(True)
                faults["network"] += 1
            case 1:
                server.kill()
                faults["server"] += 1
            case 2:
                restart_database()
                faults["database"] += 1
            case 3:
                # Closed in the middle, and opened again where it was left.
                phone.page.close()
                phone.page = phone.context.new_page()
                phone.page.goto(link)
                faults["tab"] += 1
            case 4 if seat == SEATS - 1:
                phone.context.set_offline(True)
        codes = answered(phone.page, SETS - BEFORE, cup)
        if seat == 5:
            # A set is spilt after it was judged, before its answer could be sent.
            spilt = codes[-1]
            sets = call(host, "POST", f"/api/panels/{panel}/pour")["sets"]
            serving = next(one["serving"] for one in sets if "-".join(c["code"] for c in one["cups"]) == spilt)
            call(host, "POST", f"/api/servings/{serving}/spilt", {"what": "the tray tipped"})
            phone.context.set_offline(False)
            expect(phone.page.get_by_text("This set was spilt")).to_be_visible(timeout=60_000)
            expect(phone.page.get_by_role("alert")).to_contain_text(spilt.replace("-", ", "))
            phone.page.reload()
            # Another one is poured; what was not taken is still on the phone until somebody decides.
            answered(phone.page, 1, cup)
            expect(phone.page.get_by_text("This set was spilt")).to_be_visible()
        if seat % 5 == 1:
            server.start()
        # What is said of answers that wait comes and goes without moving a cup under the finger; what was spilt may.
        assert seat == 5 or len(tops[seat]) == 1, tops[seat]
    # The last ones are on a phone without a network when the panel is closed: they were given before.
    call(host, "POST", f"/api/panels/{panel}/close", {"because": "it got dark"})
    for phone in phones:
        phone.context.set_offline(False)
    given = sorted((codes, cup) for codes, cup in wanted.items() if codes != spilt)
    assert len(given) == SEATS * SETS
    stored = eventually(host.page, lambda: stored_answers(panel), lambda found: len(found) >= len(given), 90)
    assert stored == given
    took = time.monotonic() - began
    told = ", ".join(f"{times} × {what}" for what, times in faults.items())
    with capsys.disabled():
        print(
            f"\n{SEATS * SETS} answers in the booth in {took:.0f} s through {told}, a spilt set: each stored exactly once"
        )


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
    round_ = eventually(
        phone.page,
        lambda: call(phone, "POST", f"/api/trials/{trial}/rounds", {"checkpoint": "now"}),
        lambda found: len(found["readings"]) >= 3,
    )
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
    device.sign_in_by_form("scorer@tarnlane.example")
    assert f"/api/trials/{trial}/course" not in page.evaluate(kept)


def test_the_next_person_signs_in_where_somebody_still_is(visitor):
    """On a shared device the sign-in page takes whoever is there; the one before is signed out, and nothing of theirs stays."""
    device = visitor()
    page = device.sign_in("lead@tarnlane.example")
    trial = device.trial(DAHLIAS)
    page.goto(f"/trials/{trial}")
    page.get_by_role("heading", name=DAHLIAS).wait_for()
    device.sign_in_by_form("scorer@tarnlane.example")
    assert call(device, "GET", "/api/me")["email"] == "scorer@tarnlane.example"
    device.sign_in_by_form("scorer@tarnlane.example")
    assert call(device, "GET", "/api/me")["email"] == "scorer@tarnlane.example"
