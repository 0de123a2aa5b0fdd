"""Sight, told as a table: what each role may see and do in each state of a trial."""

import re
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import get_args

import pytest

from fieldtally.server.answers import Declined
from fieldtally.server.people.models import Membership, Trial
from fieldtally.server.people.permissions import GRANTS, Permission
from fieldtally.server.people.sight import Sight
from ops.permissions import written

NOW = datetime(2026, 3, 1, tzinfo=UTC)
ROOT = Path(__file__).parents[2]
QUESTIONS = ("edit_plan", "see_treatments", "see_key", "see_readings", "score", "prepare", "see_verdict", "save_plan")
# A letter where the answer is yes, a dot where it is no; one column a question, in the order above.
TABLE = {
    ("lead", "draft"): "et.rsp.l",
    ("lead", "sealed"): ".tkrsp.l",
    ("lead", "running"): ".tkrsp.l",
    ("lead", "opened"): ".tkrspvl",
    ("blind lead", "draft"): "et.rsp.l",
    ("blind lead", "sealed"): ".t.rsp.l",
    ("blind lead", "running"): ".t.rsp.l",
    ("blind lead", "opened"): ".tkrspvl",
    ("preparer", "draft"): ".....p..",
    ("preparer", "sealed"): ".tk..p..",
    ("preparer", "running"): ".tk..p..",
    ("preparer", "opened"): ".tkr.pv.",
    ("scorer", "draft"): "...rs...",
    ("scorer", "sealed"): "...rs...",
    ("scorer", "running"): "...rs...",
    ("scorer", "opened"): ".tkrs.v.",
    ("viewer", "draft"): "........",
    ("viewer", "sealed"): "........",
    ("viewer", "running"): "........",
    ("viewer", "opened"): ".tkr..v.",
}


@dataclass
class Moments:
    """The moments that make up each state."""

    state: str

    def trial(self) -> Trial:
        reached = ("draft", "sealed", "running", "opened").index(self.state)
        return Trial(
            title="x",
            sealed_at=NOW if reached >= 1 else None,
            started_at=NOW if reached >= 2 else None,
            opened_at=NOW if reached >= 3 else None,
        )


@pytest.mark.parametrize(
    ("who", "expected"), TABLE.items(), ids=lambda part: " ".join(part) if isinstance(part, tuple) else part
)
def test_each_role_in_each_state(who, expected):
    role, state = who
    trial = Moments(state).trial()
    assert trial.state == state
    seen = Sight(trial, Membership(role=role.split()[-1], blind=role.startswith("blind")))
    answers = "".join(letter if seen.may(q) else "." for q, letter in zip(QUESTIONS, "etkrspvl", strict=True))
    assert answers == expected


def test_what_is_not_allowed_is_declined_with_its_sentence():
    seen = Sight(Moments("running").trial(), Membership(role="scorer"))
    seen.need("score")
    with pytest.raises(Declined, match="Only the lead") as declined:
        seen.need("withdraw_outcome")
    assert declined.value.status == 403


def test_a_role_is_told_apart_from_the_time():
    seen = Sight(Moments("opened").trial(), Membership(role="lead"))
    seen.need_role("amend_plan")
    assert not seen.may("amend_plan")


def test_no_permission_is_given_that_nothing_asks_for_and_none_is_asked_for_that_is_not_given():
    asked = set()
    for path in (ROOT / "fieldtally" / "server").rglob("*.py"):
        asked |= set(re.findall(r'\.(?:may|need|need_role)\(\s*"(\w+)"', path.read_text()))
        asked |= {
            name for pair in re.findall(r'\.need\(\s*"(\w+)" if .+ else "(\w+)"', path.read_text()) for name in pair
        }
    assert asked == set(GRANTS) == set(get_args(Permission))


def test_doors_look_at_no_role_and_no_state_themselves():
    """Whoever decides something by role and state does it in the table of permissions."""
    own = re.compile(
        r"\b(?:seen|trial|m|membership|kept\.trial)\.(?:role|state|is_open)\b|Role\.[A-Z]+|membership\.blind"
    )
    found = {}
    server = ROOT / "fieldtally" / "server"
    for path in (*server.glob("*/api/**/*.py"), *server.glob("*/api.py")):
        lines = [line.strip() for line in path.read_text().splitlines() if own.search(line)]
        if lines:
            found[str(path.relative_to(ROOT))] = lines
    # Who is in a trial as what is shown to those who are in it, too; nothing is decided by it.
    (shown,) = found.pop("fieldtally/server/people/api.py")
    assert shown.startswith("MemberOut(")
    assert found == {}


def test_the_table_in_the_papers_is_the_one_that_is_asked():
    assert (ROOT / "docs" / "permissions.md").read_text() == written()
