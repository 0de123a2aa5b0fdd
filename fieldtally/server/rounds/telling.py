"""What went wrong, in sentences for the verdict."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import datetime
from uuid import UUID
from zoneinfo import ZoneInfo

from fieldtally.core.design.plan import Outcome, Plan
from fieldtally.core.quantities.nouns import noun
from fieldtally.core.schedule.naming import called
from fieldtally.core.verdict.telling.figures import reading_told
from fieldtally.core.verdict.telling.names import listed, lowered
from fieldtally.core.verdict.telling.notes import NotesTold, Quote, notes_told
from fieldtally.server.log.models import Deviation
from fieldtally.server.log.models.deviation import Accident
from fieldtally.server.log.queries import given_up_outcomes, marked, split_outcomes
from fieldtally.server.people.models import Trial
from fieldtally.server.plan.queries import plan_of
from fieldtally.server.rounds.models import Reading
from fieldtally.server.rounds.queries import current_readings, rounds_of

MOST_NOTES, MOST_RETESTS = 20_000, 8
LOOKED_ODD = "it looked odd"
"""The reason that a reading carries which was taken again because the one before looked odd."""


def _day(at: datetime, zone: str) -> str:
    local = at.astimezone(ZoneInfo(zone))
    return f"{local.day} {local:%b}, {local:%H:%M}"


def blinding_told(trial: Trial, plan: Plan, *, looked: bool, scored: bool, reasons: bool = True) -> str:
    """Whether whoever scored could know which was which, in one sentence that is true of this trial now; ``looked``: somebody has looked
    at the key while it was sealed, ``scored``: something is scored; ``reasons``: why blindness was given up is told, which may say what
    a blind scorer should not read."""
    if trial.origin == "table":
        return "Brought in from a table: nobody recorded whether scoring was blind."
    if plan.tasting:
        return "Whoever judges sees codes alone."
    reason = next((one.reason.strip() for one in plan.fairness if one.item == "blind" and not one.kept), "")
    why = f" ({reason.rstrip('.')})" if reasons else ""
    given_up = f"Scoring blind was given up beforehand{why}." if reason else ""
    # Rounds are counted only where somebody has looked: that takes all readings.
    rounds = rounds_of(trial) if looked or trial.imported_by_id else []
    opened = sum(one.blinding == "open" for one in rounds)
    early = sum(one.blinding == "before the seal" for one in rounds)
    if early:
        many = (
            f"{early} of {len(rounds)} rounds {'was' if early == 1 else 'were'} looked at before the seal, open to see"
        )
        rest = len(rounds) - early - opened
        then = [
            *([f"{rest} blind since"] if rest else []),
            *([f"{opened} by someone who had seen the key"] if opened else []),
        ]
        return f"{'; '.join([many, *then])}. {given_up}".strip()
    if opened:
        who = listed(list(dict.fromkeys(one.scorer for one in rounds if one.blinding == "open")))
        many = (
            "All rounds were"
            if opened == len(rounds)
            else f"{opened} of {len(rounds)} rounds " + ("was" if opened == 1 else "were")
        )
        return f"{many} scored by someone who had seen the key ({who}). {given_up}".strip()
    if given_up:
        return given_up
    if not scored:
        return "Whoever scores sees codes alone."
    return "Nobody who has scored had seen the key."


def accidents_told(trial: Trial) -> tuple[str, ...]:
    """What happened to samples that were kept all the same, a sentence for each event."""
    zone = plan_of(trial).zone
    events: dict[UUID | None, list[Deviation]] = defaultdict(list)
    for one in marked(trial):
        events[one.event or one.pk].append(one)
    found = []
    for rows in events.values():
        first = rows[0]
        codes = ", ".join(row.sample.code for row in rows if row.sample) or "all samples"
        kind = Accident(first.accident).label if first.accident else "something"
        late = " (written down after the key was opened)" if first.after_key else ""
        found.append(f"{kind} on {_day(first.since or first.at, zone)}, {codes}: {first.reason.rstrip('.')}{late}.")
    return tuple(found)


def methods_told(trial: Trial) -> tuple[str, ...]:
    """Which outcomes were withdrawn or split, why, and what was lost by it, a sentence each."""
    plan = plan_of(trial)
    names = {outcome.key: outcome.name for outcome in plan.outcomes}
    found = []
    for key, row in given_up_outcomes(trial).items():
        many = Reading.objects.newest().filter(trial=trial, outcome__key=key).count()
        found.append(
            f"{names.get(key, 'An outcome')} was withdrawn on {_day(row.at, plan.zone)} ({row.reason.rstrip('.')}); nothing is said of it, "
            f"and its {many} readings stay in the log."
        )
    for key, row in split_outcomes(trial).items():
        if row.since is None:
            continue
        before = Reading.objects.newest().filter(trial=trial, outcome__key=key, taken_at__lt=row.since)
        found.append(
            f"{names.get(key, 'An outcome')} was measured in another way from {_day(row.since, plan.zone)} on "
            f"({row.reason.rstrip('.')}); the {before.count()} readings from before are not put together with those after."
        )
    return tuple(found)


def notes_of(trial: Trial, treatments: Mapping[str, str]) -> tuple[NotesTold, ...]:
    """What was written beside the samples of each treatment: notes, and why something could not be scored; ``treatments`` gives the name
    of each sample's (code)."""
    plan = plan_of(trial)
    looks = {checkpoint.key: called(checkpoint) for checkpoint in plan.checkpoints}
    rows = (
        current_readings(trial)
        .exclude(words="", reason="")
        .exclude(kind="withdrawn")
        .order_by("sample__code", "taken_at")
    )
    notes: list[tuple[str, Quote]] = []
    for row in rows.values_list("sample__code", "checkpoint__key", "kind", "words", "reason")[:MOST_NOTES]:
        if row[0] in treatments:
            notes.append(
                (treatments[row[0]], Quote(row[0], looks.get(row[1], ""), row[3] if row[2] == "value" else row[4]))
            )
    return notes_told(list(dict.fromkeys(treatments.values())), notes)


def _doubt(values: Sequence[float], outcome: Outcome) -> str:
    """How a reading that had looked odd came out when it was taken again."""
    apart = abs(values[-1] - values[0])
    alike = max(outcome.margin or 0.0, 0.02 * abs(values[0]))
    if apart <= alike:
        return " The first had looked odd; it was confirmed."
    return " The first had looked odd, and was not borne out."


def retests_told(trial: Trial) -> tuple[str, ...]:
    """Which samples were read again by the same scorer at a look, what each reading was, and what counts, a sentence each."""
    plan = plan_of(trial)
    outcomes = {outcome.key: outcome for outcome in plan.outcomes}
    looks = {checkpoint.key: called(checkpoint) for checkpoint in plan.checkpoints}
    again = current_readings(trial).filter(take__gt=1, kind="value", value__isnull=False)
    which = set(again.values_list("sample_id", "checkpoint_id", "outcome_id", "scorer_id"))
    if not which:
        return ()
    takes: dict[tuple[str, str, str, int], list[float]] = defaultdict(list)
    doubted: set[tuple[str, str, str, int]] = set()
    rows = current_readings(trial).filter(kind="value", value__isnull=False, sample_id__in={one[0] for one in which})
    own = ("sample_id", "checkpoint_id", "outcome_id", "scorer_id")
    for row in rows.order_by("take", "stored_at").values_list(
        *own, "sample__code", "checkpoint__key", "outcome__key", "value", "reason"
    ):
        if row[:4] in which:
            takes[row[4], row[5], row[6], row[3]].append(row[7])
            if row[8] == LOOKED_ODD:
                doubted.add((row[4], row[5], row[6], row[3]))
    rules = {"median": "the middle one counts", "mean": "their mean counts", "last": "the last counts"}
    found = [
        f"{code} was read {noun('time').counted(len(values))} on {lowered(outcomes[outcome].name)} at {lowered(looks.get(look, 'a look'))} "
        f"({', '.join(reading_told(one, outcomes[outcome].scale) for one in values)}); {rules[outcomes[outcome].retest]}."
        + (_doubt(values, outcomes[outcome]) if (code, look, outcome, who) in doubted else "")
        for (code, look, outcome, who), values in sorted(takes.items())
        if outcome in outcomes
    ]
    if len(found) > MOST_RETESTS:
        found = [
            *found[:MOST_RETESTS],
            f"{len(found) - MOST_RETESTS} more were read several times; the log has them all.",
        ]
    return tuple(found)
