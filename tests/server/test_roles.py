"""Sight, told as a table: what each role may see and do in each state of a trial."""

from dataclasses import dataclass
from datetime import UTC, datetime

import pytest

from fieldtally.server.answers import Declined
from fieldtally.server.people.models import Membership, Trial
from fieldtally.server.people.sight import Sight

NOW = datetime(2026, 3, 1, tzinfo=UTC)
QUESTIONS = (
    "edits_plan", "sees_treatments", "sees_key", "sees_readings", "scores", "prepares", "opens_key", "sees_verdict", "leads",
)  # fmt: skip
# A letter where the answer is yes, a dot where it is no; one column a question, in the order above.
TABLE = {
    ("lead", "draft"): "et.rspo.l",
    ("lead", "sealed"): ".tkrspo.l",
    ("lead", "running"): ".tkrspo.l",
    ("lead", "opened"): ".tkrspovl",
    ("blind lead", "draft"): "et.rspo.l",
    ("blind lead", "sealed"): ".t.rspo.l",
    ("blind lead", "running"): ".t.rspo.l",
    ("blind lead", "opened"): ".tkrspovl",
    ("preparer", "draft"): ".....p...",
    ("preparer", "sealed"): ".tk..p...",
    ("preparer", "running"): ".tk..p...",
    ("preparer", "opened"): ".tkr.p.v.",
    ("scorer", "draft"): "...rs....",
    ("scorer", "sealed"): "...rs....",
    ("scorer", "running"): "...rs....",
    ("scorer", "opened"): ".tkrs..v.",
    ("viewer", "draft"): ".........",
    ("viewer", "sealed"): ".........",
    ("viewer", "running"): ".........",
    ("viewer", "opened"): ".tkr...v.",
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
    answers = "".join(letter if getattr(seen, q) else "." for q, letter in zip(QUESTIONS, "etkrspovl", strict=True))
    assert answers == expected


def test_what_is_not_allowed_is_declined_with_its_sentence():
    seen = Sight(Moments("running").trial(), Membership(role="scorer"))
    seen.need(seen.scores, "never said")
    with pytest.raises(Declined, match="Only the lead") as declined:
        seen.need(seen.leads, "Only the lead may.")
    assert declined.value.status == 403
