"""What the host does with people and cups once they are there: free a booth, leave somebody out, erase a name, pour a set anew."""

from __future__ import annotations

import secrets
from collections import Counter
from collections.abc import Sequence
from datetime import timedelta
from uuid import UUID

from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from fieldtally.core.blinding.codes import draw_codes
from fieldtally.core.limits import LONGEST_REASON
from fieldtally.core.panels.serving import LETTERS
from fieldtally.core.problems import Problem
from fieldtally.core.randomness import Draw
from fieldtally.server.answers import Declined
from fieldtally.server.log.queries import out_of_play
from fieldtally.server.panels.documents import panel_plan
from fieldtally.server.panels.models import Assessor, Judgement, Panel, Serving
from fieldtally.server.people.models import User
from fieldtally.server.plan.queries import key_of, samples_of
from fieldtally.server.prepare.services import look_at_key

LONGEST_SPILL = 200
CODE_DIGITS, CODE_LASTS = 6, timedelta(minutes=15)


def free_booth(assessor: Assessor) -> None:
    """Let the assessor's link be opened on another device."""
    Assessor.objects.filter(pk=assessor.pk).update(device="")


def leave_out(assessor: Assessor, reason: str) -> None:
    """Count the assessor's answers no more, for a ``reason``; an empty one counts them again.  The result is told both ways."""
    _not_fixed(assessor)
    if len(reason) > LONGEST_REASON:
        raise Declined(422, Problem("reason", f"A reason of up to {LONGEST_REASON} letters, please."))
    Assessor.objects.filter(pk=assessor.pk).update(left_out=reason.strip())


def not_blind(assessor: Assessor, blind: bool) -> None:
    """Note whether the assessor was blind."""
    _not_fixed(assessor)
    Assessor.objects.filter(pk=assessor.pk).update(blind=blind)


def _not_fixed(assessor: Assessor) -> None:
    """Who counts is fixed when the key opens: whoever knows the result chooses nobody.

    :raises Declined: 409 where the key is open.
    """
    if assessor.panel.key_is_open:
        raise Declined(
            409,
            "The key is open: who counts was fixed with that, and both ways are told. Write what you found out into the log.",
        )


def new_link(assessor: Assessor) -> None:
    """Another link for an assessor whose own was seen by others: the old one leads nowhere any more, and what was answered stays.

    :raises Declined: 409 where nobody judges any more.
    """
    if assessor.panel.closed_at is not None:
        raise Declined(409, "This panel is closed.")
    Assessor.objects.filter(pk=assessor.pk).update(token=secrets.token_urlsafe(24), device="")


def let_move(assessor: Assessor) -> str:
    """A short code by which the seat may go to another phone within a quarter of an hour, once; a code given before leads nowhere any more.

    :raises Declined: 409 where nobody judges any more.
    """
    if assessor.panel.closed_at is not None:
        raise Declined(409, "This panel is closed.")
    code = f"{secrets.randbelow(10**CODE_DIGITS):0{CODE_DIGITS}d}"
    Assessor.objects.filter(pk=assessor.pk).update(move=code, move_until=timezone.now() + CODE_LASTS)
    return code


def write_to(assessor: Assessor, address: str) -> None:
    """Note where the assessor is written to of the day; empty: nowhere.

    :raises Declined: 422 where that is no address.
    """
    Assessor.objects.filter(pk=assessor.pk).update(address=address_in(address, "address"), told_at=None)


def address_in(text: str, at: str) -> str:
    """The address that somebody wrote, if any.

    :raises Declined: 422 at ``at`` where it is none.
    """
    address = text.strip()
    if address:
        try:
            validate_email(address)
        except ValidationError as error:
            raise Declined(422, Problem(at, "This is no address that can be written to.")) from error
    return address


def erase(assessor: Assessor) -> None:
    """Erase the name and the link of an assessor; the answers are kept under a number."""
    Assessor.objects.filter(pk=assessor.pk).update(
        name="", device="", address="", move="", token=secrets.token_urlsafe(24), erased_at=timezone.now()
    )


def pour_anew(serving: Serving, what: str) -> Serving:
    """A set was spilt: another one of the same order under fresh codes takes its place.

    :raises Declined: 409 where it is answered, or spilt already, or the panel is closed; 422 without a word on what happened.
    """
    if not what.strip() or len(what) > LONGEST_SPILL:
        raise Declined(422, Problem("what", f"Say what happened, in up to {LONGEST_SPILL} letters."))
    with transaction.atomic():
        # As answers do, so that a set is either answered or spilt.
        assessor = Assessor.objects.select_for_update().select_related("panel").get(pk=serving.assessor_id)
        row = Serving.objects.get(pk=serving.pk)
        if assessor.panel.closed_at is not None:
            raise Declined(409, "This panel is closed.")
        if row.spilt or Judgement.objects.filter(serving=row).exists():
            raise Declined(409, "This set is answered or poured anew already.")
        Serving.objects.filter(pk=row.pk).update(spilt=what.strip())
        last = assessor.servings.filter(session=row.session).aggregate(at=Max("place"))["at"]
        used = {code for codes in assessor.servings.values_list("codes", flat=True) for code in codes}
        fresh = [c for c in draw_codes(400, Draw(assessor.panel.seed, f"spilt/{row.pk}")) if c not in used]
        reference = ["R"] if panel_plan(assessor.panel).method == "duo-trio" else []
        codes = [*reference, *fresh[: len(row.codes) - len(reference)]]
        return Serving.objects.create(
            assessor=assessor,
            session=row.session,
            place=last + 1,
            order=row.order,
            codes=codes,
            stimulus=row.stimulus,
        )


def lay_table(panel: Panel, *, lay: bool) -> None:
    """A fresh link for a tablet that is handed round, or none; the one before leads nowhere any more."""
    if panel.state != "open":
        raise Declined(409, "A tablet is handed round while people judge.")
    Panel.objects.filter(pk=panel.pk).update(table=secrets.token_urlsafe(24) if lay else "")


def drawn_from(panel: Panel, user: User, sets: Sequence[Serving]) -> dict[tuple[UUID, int], str]:
    """For each cup (set, place) the code of the sample that it is filled from, in turn; empty where the panel's cups are made up for it.

    Who is told this knows the key, and their look is recorded as one.
    """
    plan = panel_plan(panel)
    if not plan.own_samples:
        return {}
    if panel.trial.state != "opened":
        look_at_key(panel.trial, user)
    key, out = key_of(panel.trial), out_of_play(panel.trial)
    pools = {
        LETTERS[i]: [one.code for one in samples_of(panel.trial) if key[one.pk] == thing and one.pk not in out]
        for i, thing in enumerate(plan.things)
    }
    turn: Counter[str] = Counter()
    found = {}
    for one in sets:
        for place, letter in enumerate(one.order):
            if pools[letter]:
                found[one.pk, place] = pools[letter][turn[letter] % len(pools[letter])]
                turn[letter] += 1
    return found


def poured(panel: Panel) -> list[Serving]:
    """All sets that are to be poured, by session, person and place."""
    rows = Serving.objects.filter(assessor__panel=panel, spilt="").select_related("assessor", "judgement")
    return list(rows.order_by("session", "assessor__number", "place"))
