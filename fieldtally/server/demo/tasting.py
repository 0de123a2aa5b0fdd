"""The tasting evening of the demo: two dozen members judge, one of whom helped to pour."""

from __future__ import annotations

from datetime import datetime, timedelta
from uuid import uuid4

import numpy as np

from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.serving import LETTERS, is_right
from fieldtally.server.panels import hosting, judging, planning
from fieldtally.server.panels.models import Assessor, Panel
from fieldtally.server.people.models import Trial, User

_NAMES = """Ada Bram Cleo Dov Edie Finn Greta Hal Ines Joss Kit Lorna Milo Nell Otis Pia Quin Rosa Sam Thea Ugo Vera Wim Yara"""
TASTERS = tuple(_NAMES.split())
NOT_BLIND = 9
"""The seat of the one who helped to pour."""
NOTICES, LIKES_LEAF, NO_PREFERENCE = 0.5, 0.7, 0.1
KNOWS = 0.3
WORDS = {
    "A": ("softer, a bit flat", "gives way at once", ""),
    "B": ("it snaps", "crisp to the seeds", "a little bitter, but crisp", ""),
}


def panel_held(trial: Trial, lead: User, plan: PanelPlan, at: datetime, seed: str, rng: np.random.Generator) -> Panel:
    """A panel planned, judged by all tasters and closed, from ``at`` on."""
    panel = planning.begin_planning(trial, lead, plan)
    kinds = ("naive", "regular", "naive", "regular", "trained", "naive")
    planning.invite(panel, [planning.Invited(name, kinds[i % 6], i + 1 != NOT_BLIND) for i, name in enumerate(TASTERS)])
    planning.begin(panel, at=at, seed=seed)
    panel.refresh_from_db()
    for i, assessor in enumerate(panel.assessors.select_related("panel", "panel__trial")):
        seated = at + timedelta(minutes=5 + 2 * i)
        judging.consent(assessor, adult=True, at=seated)
        assessor.refresh_from_db()
        judging.write_judgements(assessor, _given(plan, assessor, seated, rng), now=seated + timedelta(minutes=5))
    planning.close(panel, at=at + timedelta(hours=1, minutes=20))
    hosting.free_booth(panel.assessors.get(number=1))
    return panel


def _given(plan: PanelPlan, assessor: Assessor, at: datetime, rng: np.random.Generator) -> list[judging.Given]:
    found = []
    for i, serving in enumerate(assessor.servings.all()):
        answer = _named(serving.order, rng) if plan.method == "naming" else _odd(plan, serving.order, rng)
        liked = None
        chips: tuple[str, ...] = ()
        words = ""
        if plan.preference:
            side = "B" if rng.random() < LIKES_LEAF else "A"
            liked = -1 if rng.random() < NO_PREFERENCE else serving.order.index(side)
            chips = (
                str(rng.choice([plan.chips[0], plan.chips[1], plan.chips[4]] if side == "B" else plan.chips[2:4])),
            )
            words = str(rng.choice(WORDS[side]))
        found.append(
            judging.Given(
                id=uuid4(),
                serving=serving.pk,
                answer=answer,
                confidence=None,
                preference=liked,
                grades=(),
                chips=chips,
                words=words,
                given_at=at + timedelta(minutes=4 * (i + 1)),
            )
        )
    return found


def _odd(plan: PanelPlan, order: str, rng: np.random.Generator) -> tuple[int, ...]:
    good = next(place for place in range(len(order)) if is_right(plan.method, order, [place]))
    return (good if rng.random() < NOTICES else int(rng.integers(len(order))),)


def _named(order: str, rng: np.random.Generator) -> tuple[int, ...]:
    """A name (number of a thing) for each cup, each once; who knows the tea knows it, and takes the two leaves for each other."""
    truth = [LETTERS.index(letter) for letter in order]
    if rng.random() < KNOWS:
        swapped = {1: 2, 2: 1} if rng.random() < 0.5 else {}
        return tuple(swapped.get(one, one) for one in truth)
    return tuple(int(one) for one in rng.permutation(len(order)))
