"""What scorers believe a sample to be: written down before the key opens, so that the verdict can tell whether the blinding held."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.utils import timezone

from fieldtally.core.blinding.guesses import BlindingIndex, blinding_index
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.people.models import Trial, User
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import key_of, plan_of
from fieldtally.server.rounds.models import Guess
from fieldtally.server.rounds.models.guess import Belief


def write_guesses(
    trial: Trial, user: User, beliefs: Mapping[UUID, str], *, at: datetime | None = None
) -> dict[UUID, str]:
    """Write down what ``user`` believes of samples (ids); the newest belief on each now.

    :raises Declined: 409 where the trial is not running; 422 on a belief or sample that is none.
    """
    if trial.state != "running":
        raise Declined(409, "What somebody believes is written down while the trial runs, before the key opens.")
    samples = set(Sample.objects.filter(trial=trial, pk__in=beliefs).values_list("pk", flat=True))
    if samples != set(beliefs):
        raise Declined(422, Problem("guesses", "One of these samples is not of this trial."))
    if any(belief not in Belief.values for belief in beliefs.values()):
        raise Declined(422, Problem("guesses", "A belief is treated, control or unknown."))
    before = guesses_of(trial, user)
    now = at or timezone.now()
    Guess.objects.bulk_create(
        Guess(trial=trial, sample_id=sample, scorer=user, belief=belief, at=now)
        for sample, belief in beliefs.items()
        if before.get(sample) != belief
    )
    return guesses_of(trial, user)


def guesses_of(trial: Trial, user: User) -> dict[UUID, str]:
    """The newest belief of ``user`` on each sample (id)."""
    rows = Guess.objects.filter(trial=trial, scorer=user).order_by("at", "pk")
    return dict(rows.values_list("sample_id", "belief"))


@dataclass(frozen=True)
class Held:
    """Whether the blinding of one scorer held, for samples with a treatment and for controls (None without guesses)."""

    scorer: str
    treated: BlindingIndex | None
    control: BlindingIndex | None


def blinding_of(trial: Trial) -> list[Held]:
    """How well each scorer of an opened trial could tell treated from control, from what they wrote down before."""
    kinds = {t.key: "treated" if t.kind == "treatment" else "control" for t in plan_of(trial).treatments}
    key = key_of(trial)
    rows = Guess.objects.filter(trial=trial).select_related("scorer").order_by("at", "pk")
    newest = {(row.scorer_id, row.sample_id): row for row in rows}
    found = []
    for scorer in dict.fromkeys(row.scorer_id for row in newest.values()):
        own = [row for (who, _), row in newest.items() if who == scorer]
        counts: dict[str, Counter[str]] = {"treated": Counter(), "control": Counter()}
        for row in own:
            counts[kinds[key[row.sample_id]]][row.belief] += 1
        indices = {
            truth: blinding_index(c[truth], c["control" if truth == "treated" else "treated"], c["unknown"])
            for truth, c in counts.items()
        }
        found.append(Held(own[0].scorer.called, indices["treated"], indices["control"]))
    return found


def told_apart(held: Held) -> list[str]:
    """A sentence for each group that the scorer could tell."""
    return [
        f"{held.scorer} guessed {words} right more often than chance ({one.right} right, {one.wrong} wrong of {one.n}); it may be the "
        "effect itself that showed."
        for one, words in ((held.treated, "treated samples"), (held.control, "controls"))
        if one is not None and one.held is False
    ]
