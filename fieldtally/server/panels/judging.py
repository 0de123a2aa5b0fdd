"""The booth: who sits in it, and what they answer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.core.cache import cache
from django.db import transaction
from django.db.models import F
from django.utils import timezone

from fieldtally.core.panels.answering import answer_refusal, grades_refusal
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.problems import Problem
from fieldtally.server.answers import Declined
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.models import Assessor, Judgement, Panel, Serving

LONGEST_WORDS, MOST_CONFIDENT = 1000, 4
MISSES_A_MINUTE = 20


@dataclass(frozen=True)
class Given:
    """An answer as an assessor's device sends it; ``heard``: how often the sound at each place was played (None: sent by an earlier
    version, which did not say)."""

    id: UUID
    serving: UUID
    answer: tuple[int, ...]
    confidence: int | None
    preference: int | None
    grades: tuple[tuple[int | None, ...], ...]
    chips: tuple[str, ...]
    words: str
    given_at: datetime
    heard: tuple[int, ...] | None = None


def _missed(caller: str) -> None:
    """Count a link that does not exist.  Who has one that does is let in whatever others at the same address have tried.

    :raises Declined: 429 where too many were tried from there.
    """
    name = f"booth-misses/{caller}"
    misses = cache.get(name) or 0
    if misses >= MISSES_A_MINUTE:
        raise Declined(429, "Too many links that do not exist were tried from here; wait a minute.")
    cache.set(name, misses + 1, 60)


def seat_of(token: str, caller: str) -> Assessor:
    """The assessor whose link that is, whichever device asks.

    :raises Declined: 404 where there is no such link; 429 after too many guesses.
    """
    found = Assessor.objects.select_related("panel", "panel__trial").filter(token=token, erased_at=None).first()
    if found is None:
        _missed(caller)
        raise Declined(404, "This link leads to no booth. Ask the host for yours.")
    return found


def fetched(serving: Serving, place: int) -> None:
    """Note that the sound or picture at ``place`` was handed out."""
    Serving.objects.filter(pk=serving.pk).update(fetched=F("fetched").bitor(1 << place))


def seat(token: str, device: str, caller: str) -> Assessor:
    """The assessor whose link that is, on the device that opened it first.

    ``caller`` is where the request comes from: one who tries many links that do not exist is turned away for a minute.

    :raises Declined: 404 where there is no such link; 409 on another device; 429 after too many guesses.
    """
    found = seat_of(token, caller)
    if not device or len(device) > 40:
        raise Declined(422, Problem("device", "This device did not say which one it is; load the page again."))
    if not found.device:
        # Whoever is first: two devices at the same moment do not both get in.
        Assessor.objects.filter(pk=found.pk, device="").update(device=device)
        found.refresh_from_db()
    if found.device != device:
        raise Declined(409, "This booth is open on another device. The host can free it.")
    return found


def take_over(code: str, caller: str) -> Assessor:
    """The assessor whose seat may be moved by that short ``code``: it is free for another phone now, and the code is used up.

    :raises Declined: 404 where no seat goes by that code, or not any more; 429 after too many guesses.
    """
    now = timezone.now()
    with transaction.atomic():
        rows = Assessor.objects.select_for_update().filter(erased_at=None, move_until__gt=now)
        found = rows.exclude(move="").filter(move="".join(code.split())).first()
        if found is not None:
            Assessor.objects.filter(pk=found.pk).update(move="", device="")
    if found is None:
        _missed(caller)
        raise Declined(
            404, Problem("code", "No seat goes by this code, or not any more. Ask the host for a fresh one.")
        )
    return found


def consent(assessor: Assessor, *, adult: bool, at: datetime | None = None) -> None:
    """Note that the assessor has read what is in the cups and takes part.

    :raises Declined: 422 where adults are asked for and this is none.
    """
    if panel_plan(assessor.panel).adults and not adult:
        raise Declined(422, Problem("adult", "Alcohol is served: only adults take part."))
    if assessor.consented_at is None:
        Assessor.objects.filter(pk=assessor.pk, consented_at=None).update(consented_at=at or timezone.now())


def stop(assessor: Assessor, *, at: datetime | None = None) -> None:
    """Note that the assessor does not go on; what they answered stays."""
    Assessor.objects.filter(pk=assessor.pk, stopped_at=None).update(stopped_at=at or timezone.now())


def seats_at(table: str, caller: str) -> list[Assessor]:
    """Those who may sit down at a tablet that is handed round: all of its panel who are not erased, have not stopped, and count.

    :raises Declined: 404 where there is no such table; 429 after too many guesses.
    """
    panel = Panel.objects.select_related("trial").filter(table=table).exclude(table="").first()
    if panel is None:
        _missed(caller)
        raise Declined(404, "This link leads to no panel. Ask the host for a fresh one.")
    return list(panel.assessors.filter(erased_at=None, stopped_at=None, left_out="").select_related("panel"))


def write_judgements(assessor: Assessor, given: Sequence[Given], *, now: datetime | None = None) -> list[UUID]:
    """Store answers, each once however often it is sent; all or nothing.  Their ids.

    :raises Declined: 404 on another's cups; 409 where the panel is not open, there is no consent, or an answer is locked; 422 on an answer
        that cannot be.
    """
    stored_at = now or timezone.now()
    with transaction.atomic():
        # Judgements of one assessor come one after the other.
        Assessor.objects.select_for_update().get(pk=assessor.pk)
        known = {
            row.pk: row for row in Judgement.objects.filter(pk__in=[one.id for one in given]).select_related("serving")
        }
        if any(row.serving.assessor_id != assessor.pk for row in known.values()):
            raise Declined(409, "One of these answers carries an id that is taken; nothing was stored.")
        if any(_is_another(one, known[one.id]) for one in given if one.id in known):
            raise Declined(409, "An answer came again under its id and says something else; nothing was stored.")
        fresh = list({one.id: one for one in given if one.id not in known}.values())
        if not fresh:
            return [one.id for one in given]
        _may_judge(assessor, max(one.given_at for one in fresh))
        servings = {
            row.pk: row for row in Serving.objects.filter(assessor=assessor, pk__in=[one.serving for one in fresh])
        }
        if {one.serving for one in fresh} - set(servings):
            raise Declined(404, "These are not your cups.")
        taken = set(Judgement.objects.filter(serving__in=servings).values_list("serving_id", flat=True))
        if taken or len({one.serving for one in fresh}) < len(fresh):
            raise Declined(409, "An answer, once given, is locked.")
        plan = panel_plan(assessor.panel)
        problems = [
            Problem(f"judgements.{i}.{at}", says)
            for i, one in enumerate(fresh)
            for at, says in _wrong(one, servings[one.serving], plan)
        ]
        if problems:
            raise Declined(422, *problems)
        earliest = assessor.panel.begun_at or stored_at
        Judgement.objects.bulk_create(
            Judgement(
                id=one.id,
                serving=servings[one.serving],
                answer=list(one.answer),
                confidence=one.confidence,
                preference=one.preference,
                grades=[list(own) for own in one.grades],
                chips=list(one.chips),
                words=one.words.strip(),
                given_at=min(max(one.given_at, earliest), stored_at),
                stored_at=stored_at,
            )
            for one in fresh
        )
    return [one.id for one in given]


def _is_another(one: Given, row: Judgement) -> bool:
    """Whether what came under the id of ``row`` is another answer."""
    said = (list(one.answer), one.confidence, one.preference, [list(own) for own in one.grades], list(one.chips))
    return (one.serving, *said, one.words.strip()) != (
        row.serving_id,
        list(row.answer),
        row.confidence,
        row.preference,
        [list(own) for own in row.grades],
        list(row.chips),
        row.words,
    )


def _may_judge(assessor: Assessor, given_at: datetime) -> None:
    """Whether an answer that was given then may be stored now.

    What was given before the panel closed, or before somebody stopped, counts by that moment, however late it gets here.  What was given
    after that, or comes once the key is open, is kept, and marked as late: it does not count."""
    panel = assessor.panel
    if panel.begun_at is None:
        raise Declined(409, "The panel has not begun yet.")
    if assessor.stopped_at is not None and given_at > assessor.stopped_at:
        raise Declined(409, "You chose not to go on; no more answers are taken.")
    if assessor.consented_at is None:
        raise Declined(409, "Read what is in the cups first, and say that you take part.")


def _listened(one: Given, serving: Serving) -> bool:
    """Whether each sound of a set was handed out, and played as far as the device says."""
    every = (1 << len(serving.order)) - 1
    played = one.heard is None or (len(one.heard) == len(serving.order) and min(one.heard) > 0)
    return played and serving.fetched & every == every


def _wrong(one: Given, serving: Serving, plan: PanelPlan) -> list[tuple[str, str]]:
    found = []
    if serving.spilt:
        found.append(("serving", "This set was spilt; the host pours another one."))
    if plan.material == "sounds" and not _listened(one, serving):
        found.append(("heard", "Listen to each of them at least once; then your answer counts."))
    refusal = answer_refusal(plan.method, len(serving.order), one.answer, each_once=plan.each_once)
    if refusal:
        found.append(("answer", refusal))
    if one.confidence is not None and not (plan.confidence and 1 <= one.confidence <= MOST_CONFIDENT):
        found.append(("confidence", "From 1, guessed, to 4, sure, where it is asked."))
    if one.preference is not None and not (plan.preference and -1 <= one.preference < len(serving.order)):
        found.append(("preference", "One of the cups, or none, where it is asked."))
    ungraded = grades_refusal(plan.attributes, len(serving.order), one.grades)
    if ungraded:
        found.append(("grades", ungraded))
    if any(chip not in plan.chips for chip in one.chips):
        found.append(("chips", "One of these words is not among those given."))
    if len(one.words) > LONGEST_WORDS:
        found.append(("words", f"Up to {LONGEST_WORDS:,} letters, please."))
    return found
