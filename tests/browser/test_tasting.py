"""Demo trial 3 run in full: a host, a pourer, and 24 assessors at their own devices; and what their devices are told meanwhile."""

import re
from dataclasses import asdict, replace

import numpy as np
from playwright.sync_api import expect

from fieldtally.core.panels.judged import Judged
from fieldtally.core.panels.result import panel_finding
from fieldtally.core.panels.serving import LETTERS
from fieldtally.server.demo.plans import GHERKINS, LEAF_OR_NONE, WHICH_JAR
from fieldtally.server.demo.tasting import NOT_BLIND, TASTERS
from tests.browser.conftest import DESK, PHONE, until
from tests.browser.led import begun, call, joined, running
from tests.browser.views import barriers

NAMES = [one.name for one in GHERKINS.treatments]
DEVICES = 6
OFFLINE = {3, 17}
"""Seats (from 0) whose devices lose the network between sitting down and answering."""


class Wire:
    """All that comes over a phone's network while somebody sits in a booth."""

    def __init__(self, page) -> None:
        self.heard: list[str] = []
        page.on("response", self._keep)

    def _keep(self, response) -> None:
        if "/api/" in response.url or response.request.resource_type == "document":
            try:
                self.heard.append(f"{response.url} {response.headers} {response.text()}")
            except Exception:  # a body that is gone again tells nothing
                self.heard.append(response.url)


def held(host, trial, plan, people):
    """A panel, its people added on the page and its cups drawn there."""
    panel = call(host, "POST", f"/api/trials/{trial}/panels", {"plan": asdict(plan)})["id"]
    page = host.page
    page.goto(f"/trials/{trial}/panels/{panel}")
    page.get_by_label("Names, with commas").fill(", ".join(people))
    page.get_by_role("button", name="Add them").click()
    expect(page.get_by_role("row").filter(has_text=people[-1])).to_be_visible()
    page.get_by_role("button", name="Draw the cups and begin").click()
    expect(page.get_by_text(f"0 of {len(people)} answers are given.")).to_be_visible()
    return panel


def poured(pourer, trial, panel):
    """What the pourer's page says: for each seat the codes and what is in the cups."""
    page = pourer.page
    page.goto(f"/trials/{trial}/panels/{panel}")
    with page.expect_response(lambda answer: answer.url.endswith("/pour")) as told:
        page.get_by_role("button", name="Show what goes into the cups").click()
    expect(page.get_by_role("region", name="Sets to pour").get_by_role("row")).to_have_count(len(TASTERS) + 1)
    return {one["assessor"]: [(cup["code"], cup["thing"]) for cup in one["cups"]] for one in told.value.json()["sets"]}


def seated(seat, link):
    booth = seat.page
    booth.goto(link)
    booth.get_by_role("button", name="I have read this and take part").click()
    expect(booth.get_by_role("button", name="Give my answer: it is locked then")).to_be_visible()
    return booth


def locked(seat, offline):
    booth = seat.page
    booth.get_by_role("button", name="Give my answer: it is locked then").click()
    expect(booth.get_by_role("heading", name="Thank you.")).to_be_visible()
    if offline:
        expect(booth.get_by_text("answer kept on this device")).to_be_visible()
        seat.context.set_offline(False)
    expect(booth.get_by_text("kept on this device")).to_have_count(0)


def test_demo_trial_3_is_run_by_24_people_and_told_as_the_core_tells_it(visitor):
    host, pourer = visitor(), visitor()
    host.sign_in("lead@tarnlane.example")
    pourer.sign_in("preparer@tarnlane.example")
    plan = replace(GHERKINS, title="Gherkins on the table")
    trial = begun(host, plan)
    joined(host, trial, pourer, "preparer@tarnlane.example", "preparer")
    running(host, trial)
    odd, jars = held(host, trial, LEAF_OR_NONE, TASTERS), held(host, trial, WHICH_JAR, TASTERS)
    seats = [visitor(PHONE) for _ in range(DEVICES)]
    wires = [Wire(seat.page) for seat in seats]
    rng = np.random.default_rng(3)
    judged = {odd: [], jars: []}
    letters = {name: LETTERS[i] for i, name in enumerate(NAMES)}

    for panel in (odd, jars):
        cups = poured(pourer, trial, panel)
        links = {one["number"]: one["link"] for one in call(host, "GET", f"/api/panels/{panel}")["assessors"]}
        for number, name in enumerate(TASTERS, start=1):
            seat, own = seats[number % DEVICES], cups[number]
            booth = seated(seat, links[number])
            offline = panel == odd and number - 1 in OFFLINE
            if offline:
                seat.context.set_offline(True)
            order = "".join(letters[thing] for _, thing in own)
            liked = None
            if panel == odd:
                things = [thing for _, thing in own]
                right = next(i for i, thing in enumerate(things) if things.count(thing) == 1)
                answer = (right if number <= 15 else (right + 1) % 3,)
                liked = -1 if number % 7 == 0 else int(rng.integers(3))
                booth.get_by_role("button", name=f"Cup {own[answer[0]][0]}").click()
                group = booth.get_by_role("group", name="And which do you like best?")
                group.get_by_text("none" if liked < 0 else own[liked][0], exact=True).click()
                booth.get_by_text("snaps", exact=True).click()
                if number == 1:
                    assert barriers(booth) == []
            else:
                answer = (
                    tuple(int(one) for one in rng.permutation(4))
                    if number % 3
                    else tuple(NAMES.index(t) for _, t in own)
                )
                for (code, _), called in zip(own, answer, strict=True):
                    booth.get_by_label(f"What {code} is").select_option(NAMES[called])
                if number == 1:
                    assert barriers(booth) == []
            locked(seat, offline)
            chips = ("snaps",) if panel == odd else ()
            out = "was not blind" if panel == odd and number == NOT_BLIND else ""
            judged[panel].append(Judged(name, "naive", 0, order, answer, liked, chips, left_out=out))

    # Nothing over the wire of any phone named what was in a cup, or in which order things stood.
    for wire in wires:
        for said in wire.heard:
            assert '"order"' not in said
            assert plan.title not in said
        for said in (one for one in wire.heard if "/api/booth/" in one and '"names": []' in one.replace('":[', '": [')):
            for name in NAMES:
                assert name not in said

    page = host.page
    page.goto(f"/trials/{trial}/panels/{odd}")
    expect(page.get_by_text("All 24 answers are given.")).to_be_visible()
    page.get_by_label(f"{TASTERS[NOT_BLIND - 1]} was blind").uncheck()
    assert barriers(page) == []
    for who in (host, pourer):
        assert who.context.request.get(f"/api/panels/{odd}/result").status == 403
    page.get_by_role("button", name="Close the panel").click()
    expect(page.get_by_text("Closed; what it found is told when you open its key.")).to_be_visible()
    call(host, "POST", f"/api/panels/{jars}/close", {})
    call(host, "POST", f"/api/trials/{trial}/key/ask")
    call(host, "POST", f"/api/trials/{trial}/key/open", {"title": plan.title})

    for panel, what in ((odd, LEAF_OR_NONE), (jars, WHICH_JAR)):
        names = [NAMES[[t.key for t in GHERKINS.treatments].index(key)] for key in what.things]
        truth = panel_finding(what, judged[panel], np.random.default_rng(0), names=names)
        told = call(host, "GET", f"/api/panels/{panel}/result")["finding"]
        assert told["sentence"] == truth.sentence
        assert told["n"] == truth.n == (23 if panel == odd else 24)
        assert {one["name"]: one["right"] for one in told["people"]} == {one.name: one.right for one in truth.people}
        if panel == odd:
            assert told["found"]["correct"] == truth.found.correct == 14
            assert (told["found"]["p"], told["found"]["needed"]) == (truth.found.p, truth.found.needed)
            assert [one["right"] for one in told["places"]] == [one.right for one in truth.places]
            schools = truth.preference
            for key, rows in (("everybody", schools.everybody), ("those_right", schools.those_right)):
                assert [(r["first"], r["second"], r["none"], r["p"]) for r in told["preference"][key]] == [
                    (r.first, r.second, r.none, r.p) for r in rows
                ]
        else:
            assert told["named"]["table"] == [list(row) for row in truth.named.table]
            assert told["named"]["p"] == truth.named.p
        page.goto(f"/trials/{trial}/panels/{panel}")
        shown = truth.sentence.replace(" %", "\u00a0%")
        expect(page.get_by_role("heading", level=1)).to_have_text(
            re.compile(re.escape(shown).replace("\\\u00a0", r"\s"))
        )
        assert barriers(page) == []
        page.set_viewport_size(PHONE["viewport"])
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        until(page, "document.documentElement.scrollWidth <= document.documentElement.clientWidth")
        page.set_viewport_size(DESK["viewport"])
