"""What is known over all of a person's trials: where something was compared and how it fared, and the same question taken together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from fieldtally.core.problems import Problem, Refused
from fieldtally.core.scales import unit_of
from fieldtally.core.verdict.combining import Combined, OneTrial, combined
from fieldtally.core.verdict.strength import StrengthLevel, ranked
from fieldtally.server.answers import Declined
from fieldtally.server.people.models import Trial, User
from fieldtally.server.people.queries import memberships_of
from fieldtally.server.people.sight import Sight
from fieldtally.server.plan.queries import plans_of, seals_of
from fieldtally.server.verdict.results import concluded, kept, kept_study
from fieldtally.server.verdict.study import Study

MOST_TOLD, MOST_COMBINED = 60, 40


@dataclass(frozen=True)
class Fared:
    """How a treatment fared in one outcome of one trial: its place among how many, how sure that is, its estimate with its unit, and the
    sentence of the verdict."""

    trial: UUID
    title: str
    treatment: str
    outcome: str
    place: int
    of: int
    level: StrengthLevel
    estimate: float | None
    unit: str
    sentence: str


@dataclass(frozen=True)
class Found:
    """A trial that has the words in it."""

    id: UUID
    title: str
    question: str
    state: str
    because: str


def _folded(text: str) -> str:
    return " ".join(text.split()).casefold()


def trials_about(user: User, words: str) -> list[Found]:
    """The trials of ``user`` in which all of ``words`` stand: in the title, the question, or names they may see."""
    wanted = _folded(words).split()
    memberships = memberships_of(user)
    plans = plans_of([m.trial for m in memberships])
    found = []
    for membership in memberships:
        seen, plan = Sight(membership.trial, membership), plans[membership.trial_id]
        names = plan.telling_names
        texts = {"title": seen.titled(membership.trial.title, names), "question": seen.asked(plan.question, names)}
        texts.update({f"outcome {o.name}": seen.spoken(o.name, names) for o in plan.outcomes})
        if seen.may("see_treatments"):
            texts.update({f"treatment {t.name}": f"{t.name} {t.note}" for t in plan.treatments})
        whole = _folded(" ".join(texts.values()))
        if wanted and all(word in whole for word in wanted):
            why = next((key for key, text in texts.items() if any(word in _folded(text) for word in wanted)), "title")
            found.append(
                Found(
                    membership.trial_id,
                    texts["title"],
                    texts["question"],
                    membership.trial.state,
                    seen.spoken(why, names),
                )
            )
    return found[:MOST_TOLD]


def fared(user: User, words: str) -> list[Fared]:
    """How treatments with ``words`` in their name fared in the concluded trials of ``user``, claims first."""
    wanted = _folded(words)
    found: list[tuple[bool, Fared]] = []
    opened = [m.trial for m in memberships_of(user) if m.trial.state == "opened"]
    plans = plans_of(opened)
    for trial in opened:
        if not wanted or not any(wanted in _folded(t.name) for t in plans[trial.pk].treatments):
            continue
        if kept(trial, "concluded") is None:
            # A large one that is being worked out: it is told once it is.
            continue
        study = kept_study(trial)
        for finding in concluded(trial).findings:
            if finding.checkpoint is not None:
                continue
            order = ranked(finding.comparison)
            outcome = next(o for o in study.plan.outcomes if o.key == finding.outcome)
            for place, one in enumerate(order, start=1):
                if wanted in _folded(one.treatment):
                    told = Fared(
                        trial.pk,
                        trial.title,
                        one.treatment,
                        outcome.name,
                        place,
                        len(order),
                        finding.strength.level,
                        one.estimate,
                        unit_of(finding.scale),
                        finding.sentence,
                    )
                    found.append((finding.claim, told))
    found.sort(key=lambda one: not one[0])
    return [one for _, one in found[:MOST_TOLD]]


@dataclass(frozen=True)
class Shared:
    """A pair of treatments and an outcome (names) that several concluded trials have."""

    a: str
    b: str
    outcome: str
    unit: str
    trials: tuple[UUID, ...]


def shared_questions(user: User) -> list[Shared]:
    """What could be taken together: pairs and outcomes by their names, in the same unit, in two concluded trials and more."""
    opened = [m.trial for m in memberships_of(user) if m.trial.state == "opened"]
    plans, seals = plans_of(opened), seals_of(opened)
    seen: dict[tuple[str, str, str, str], tuple[tuple[str, str, str, str], list[UUID]]] = {}
    known: set[str] = set()
    for trial in opened:
        # One that was brought in again is not another trial.
        if seals[trial.pk] in known:
            continue
        known.add(seals[trial.pk])
        plan = plans[trial.pk]
        names = [t.name for t in plan.treatments]
        for outcome in plan.outcomes:
            for i, first in enumerate(names):
                for second in names[i + 1 :]:
                    pair = sorted((first, second), key=_folded)
                    told = (pair[0], pair[1], outcome.name, unit_of(outcome.scale))
                    key = (_folded(told[0]), _folded(told[1]), _folded(told[2]), told[3])
                    seen.setdefault(key, (told, []))[1].append(trial.pk)
    return [Shared(*told, tuple(ids)) for told, ids in seen.values() if len(ids) > 1][:MOST_TOLD]


def together(user: User, trials: Sequence[UUID], a: str, b: str, outcome: str) -> Combined:
    """The difference of ``a`` less ``b`` in ``outcome`` over ``trials``.

    :raises Refused: one of them cannot be seen, is not concluded, or has no such pair.
    """
    if len(set(trials)) != len(trials) or len(trials) > MOST_COMBINED:
        raise Declined(422, Problem("trials", f"Each trial once, and up to {MOST_COMBINED}, please."))
    mine = {m.trial_id: m.trial for m in memberships_of(user) if m.trial.state == "opened"}
    if any(pk not in mine for pk in trials):
        raise Declined(422, Problem("trials", "One of these is not a concluded trial of yours."))
    seals = seals_of([mine[pk] for pk in trials])
    if len(set(seals.values())) < len(trials):
        raise Declined(422, Problem("trials", "Two of these are one trial that was brought in again; it counts once."))
    found, units = [], set()
    for pk in trials:
        study = kept_study(mine[pk])
        one, unit = _difference(mine[pk], study, a, b, outcome)
        found.append(one)
        units.add(unit)
    if len(units) > 1:
        raise Refused(f"They are told in different units: {', '.join(sorted(units))}.", "outcome")
    return combined(found, a, b, units.pop() if units else "")


def _difference(trial: Trial, study: Study, a: str, b: str, outcome: str) -> tuple[OneTrial, str]:
    wanted = {o.key for o in study.plan.outcomes if _folded(o.name) == _folded(outcome)}
    for finding in concluded(trial).findings:
        if finding.checkpoint is None and finding.outcome in wanted:
            for pair in finding.comparison.pairs:
                names = (_folded(pair.a), _folded(pair.b))
                if pair.low is None or pair.high is None or {_folded(a), _folded(b)} != set(names):
                    continue
                turn = 1.0 if names[0] == _folded(a) else -1.0
                low, high = sorted((turn * pair.low, turn * pair.high))
                level = 1 - study.plan.alpha
                return OneTrial(trial.title, turn * pair.difference, low, high, level), unit_of(finding.scale)
    raise Refused(f"“{trial.title}” has no difference of {a} and {b} in {outcome} with an interval.", "trials")
