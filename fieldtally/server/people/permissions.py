"""Who may do what, in which state of a trial: one permission a name, and what somebody is told who may not.

A permission is given to roles, each in some states::

    "set_aside": Grant(LEAD | SCORER_BEFORE, "Only the lead or a scorer sets samples aside.")

Nothing else in the server looks at role and state to decide what somebody may see or do (:mod:`.sight` asks this table; the doors ask
sight; a test holds that).  ``docs/permissions.md`` is made from it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from fieldtally.server.people.models.membership import Role
from fieldtally.server.people.models.trial import State

Where = Mapping[str, frozenset[State]]
"""The states in which each role has a permission."""
Permission = Literal[
    "edit_plan",
    "see_draft",
    "save_plan",
    "see_treatments",
    "see_key",
    "see_readings",
    "see_all_readings",
    "see_verdict",
    "see_second_codes",
    "seal_plan",
    "amend_plan",
    "invite",
    "withdraw_invitation",
    "remove_member",
    "see_mix_sheet",
    "tick_mix",
    "note_pack",
    "shuffle",
    "uncover",
    "see_handout",
    "prepare",
    "start_exposure",
    "tick_held",
    "count_cycle",
    "print_tags",
    "print_flask_tags",
    "see_held",
    "record_difference",
    "score",
    "score_again",
    "guess",
    "skip_checkpoint",
    "look_unplanned",
    "set_aside",
    "take_over_baseline",
    "find_due",
    "see_log",
    "write_note",
    "mark_accident",
    "leave_out",
    "withdraw_outcome",
    "see_conditions",
    "note_conditions",
    "see_photos",
    "send_photo",
    "anchor_level",
    "remove_any_photo",
    "gauge",
    "see_all_gaugings",
    "print_card",
    "practise",
    "grade_together",
    "see_practice_of_all",
    "see_agreement",
    "see_panel",
    "host_panel",
    "hand_out_links",
    "invite_assessor",
    "note_assessor",
    "begin_panel",
    "close_panel",
    "add_session",
    "hand_tablet_round",
    "choose_stimulus",
    "see_cups",
    "record_spill",
    "see_progress",
    "look_interim",
    "open_key",
    "open_panel_key",
    "see_panel_result",
    "see_report",
    "write_report",
    "publish",
    "take_tables",
    "begin_next",
    "erase_draft",
]


@dataclass(frozen=True)
class Grant:
    """Who has a permission in which states, and the sentence for those who have not."""

    where: Where
    says: str


DRAFT: frozenset[State] = frozenset({"draft"})
SEALED: frozenset[State] = frozenset({"sealed", "running"})
OPENED: frozenset[State] = frozenset({"opened"})
BEFORE: frozenset[State] = DRAFT | SEALED
AFTER: frozenset[State] = SEALED | OPENED
ALWAYS: frozenset[State] = BEFORE | OPENED


def _given(*grants: tuple[tuple[Role, ...], frozenset[State]]) -> Where:
    found: dict[str, frozenset[State]] = {}
    for roles, states in grants:
        for role in roles:
            found[role] = found.get(role, frozenset()) | states
    return found


_LEAD, _PREPARER, _SCORER = (Role.LEAD,), (Role.PREPARER,), (Role.SCORER,)
_ALL = (Role.LEAD, Role.PREPARER, Role.SCORER, Role.VIEWER)
_PART = (Role.LEAD, Role.PREPARER, Role.SCORER)
_LEAD_ONLY = _given((_LEAD, ALWAYS))
_PREPARES = _given(((Role.LEAD, Role.PREPARER), ALWAYS))
_SCORES = _given(((Role.LEAD, Role.SCORER), ALWAYS))
_TAKES_PART = _given((_PART, ALWAYS))
_TAKES_PART_OR_OPEN = _given((_PART, ALWAYS), (_ALL, OPENED))
_TREATMENTS = _given((_LEAD, ALWAYS), (_PREPARER, SEALED), (_ALL, OPENED))
_ONCE_OPEN = _given((_ALL, OPENED))
_LEAD_OR_OPEN = _given((_LEAD, ALWAYS), (_ALL, OPENED))
_SCORES_SEALED = _given((_LEAD, ALWAYS), (_SCORER, AFTER))

GRANTS: dict[Permission, Grant] = {
    "edit_plan": Grant(_given((_LEAD, DRAFT)), "Only the lead changes the plan, while it is a draft."),
    "see_draft": Grant(_given((_LEAD, ALWAYS), (_ALL, AFTER)), "The plan is not sealed yet."),
    "save_plan": Grant(_LEAD_ONLY, "Only the lead changes the plan."),
    "see_treatments": Grant(_TREATMENTS, "The plan names what is compared; you see it once the key is open."),
    "see_key": Grant(
        _given(((Role.LEAD, Role.PREPARER), SEALED), (_ALL, OPENED)),
        "Only those who prepare the samples see who gets what.",
    ),
    "see_readings": Grant(
        _given(((Role.LEAD, Role.SCORER), ALWAYS), (_ALL, OPENED)), "Readings are seen by those who score."
    ),
    "see_all_readings": Grant(_LEAD_OR_OPEN, "Until the key is open the lead alone sees what others read."),
    "see_verdict": Grant(_ONCE_OPEN, "The key is still sealed; the verdict is told once the lead opens it."),
    "see_second_codes": Grant(
        _given((_PREPARER, ALWAYS)),
        "Only a preparer, who does not score, sees second codes.",
    ),
    "seal_plan": Grant(_LEAD_ONLY, "Only the lead seals the plan."),
    "amend_plan": Grant(_given((_LEAD, SEALED)), "Only the lead amends the plan."),
    "invite": Grant(_LEAD_ONLY, "Only the lead invites people."),
    "withdraw_invitation": Grant(_LEAD_ONLY, "Only the lead withdraws invitations."),
    "remove_member": Grant(_LEAD_ONLY, "Only the lead takes people out of a trial."),
    "see_mix_sheet": Grant(_TREATMENTS, "The mix sheet names what is compared; those who prepare see it."),
    "tick_mix": Grant(
        _given(((Role.LEAD, Role.PREPARER), SEALED)), "Those who prepare the samples tick the mix sheet."
    ),
    "note_pack": Grant(_given((_LEAD, ALWAYS), (_PREPARER, AFTER)), "Those who prepare the samples note the packs."),
    "shuffle": Grant(
        _given(((Role.LEAD, Role.PREPARER), AFTER)),
        "Those who prepare the samples shuffle them, once the plan is sealed.",
    ),
    "uncover": Grant(_LEAD_ONLY, "The lead takes the covers off, when the key is to be opened."),
    "see_handout": Grant(
        _given(((Role.LEAD, Role.PREPARER), ALWAYS), (_ALL, OPENED)),
        "Only those who prepare the samples see who gets what.",
    ),
    "prepare": Grant(_PREPARES, "The lead or the preparer prepares the samples."),
    "start_exposure": Grant(_PREPARES, "The lead or the preparer starts exposure."),
    "tick_held": Grant(_PREPARES, "Those who prepare the samples tick the sheet."),
    "count_cycle": Grant(_TAKES_PART, "Those who prepare or score count cycles."),
    "print_tags": Grant(_TAKES_PART, "Those who prepare or score print tags."),
    "print_flask_tags": Grant(_PREPARES, "Those who prepare the samples print the tags of flasks."),
    "see_held": Grant(_given((_PART, AFTER)), "The sheet is there once the plan is sealed."),
    "record_difference": Grant(_TAKES_PART, "Those who prepare or score record what differed."),
    "score": Grant(_SCORES, "Only scorers score."),
    "score_again": Grant(
        _given(((Role.LEAD, Role.SCORER), BEFORE)), "Only scorers read a sample again, until the key is open."
    ),
    "guess": Grant(_SCORES, "Only scorers write down what they believe."),
    "skip_checkpoint": Grant(_SCORES, "Those who score decide whether a look is skipped."),
    "look_unplanned": Grant(_SCORES, "Those who score may take an unplanned look."),
    "set_aside": Grant(_given((_LEAD, ALWAYS), (_SCORER, BEFORE)), "Only the lead or a scorer sets samples aside."),
    "take_over_baseline": Grant(_LEAD_ONLY, "The lead takes start values over."),
    "find_due": Grant(_given(((Role.LEAD, Role.SCORER), SEALED)), "Those who score are told which look is due."),
    "see_log": Grant(_given(((Role.LEAD, Role.SCORER), ALWAYS), (_ALL, OPENED)), "The log opens with the key."),
    "write_note": Grant(_TAKES_PART, "Those who prepare or score write into the log."),
    "mark_accident": Grant(
        _given((_LEAD, ALWAYS), ((Role.PREPARER, Role.SCORER), BEFORE)),
        "Only the lead or a scorer leaves samples out; who prepares can mark what happened.",
    ),
    "leave_out": Grant(
        _given((_LEAD, ALWAYS), (_SCORER, BEFORE)),
        "Only the lead or a scorer leaves samples out; who prepares can mark what happened.",
    ),
    "withdraw_outcome": Grant(_LEAD_ONLY, "Only the lead withdraws or splits an outcome."),
    "see_conditions": Grant(_TAKES_PART_OR_OPEN, "Those who take part see what it was like."),
    "note_conditions": Grant(_TAKES_PART, "Those who prepare or score note conditions."),
    "see_photos": Grant(_TAKES_PART_OR_OPEN, "Those who take part see the photos."),
    "send_photo": Grant(_TAKES_PART, "Those who take part send photos."),
    "anchor_level": Grant(_LEAD_ONLY, "The lead says what a level looks like."),
    "remove_any_photo": Grant(_LEAD_ONLY, "The lead takes photos away, and whoever took them."),
    "gauge": Grant(_SCORES_SEALED, "Those who score measure photos."),
    "see_all_gaugings": Grant(_LEAD_OR_OPEN, "Those who score measure photos."),
    "print_card": Grant(
        _given((_LEAD, ALWAYS), ((Role.PREPARER, Role.SCORER), AFTER)), "Those who take part print the card."
    ),
    "practise": Grant(_SCORES_SEALED, "Those who score practise here."),
    "grade_together": Grant(_SCORES_SEALED, "Scorers grade together."),
    "see_practice_of_all": Grant(_LEAD_ONLY, "The lead sees who is ready."),
    "see_agreement": Grant(_LEAD_OR_OPEN, "Until the key is open the lead alone sees how scorers agree."),
    "see_panel": Grant(
        _given(((Role.LEAD, Role.PREPARER), ALWAYS), (_ALL, OPENED)),
        "Who hosts and who pours see a panel; others may sit in it.",
    ),
    "host_panel": Grant(_LEAD_ONLY, "Only the lead plans panels."),
    "hand_out_links": Grant(_LEAD_ONLY, "Only the lead hands out the links of the booths."),
    "invite_assessor": Grant(_LEAD_ONLY, "Only the lead invites assessors."),
    "note_assessor": Grant(_LEAD_ONLY, "Only the lead changes what is noted of assessors."),
    "begin_panel": Grant(_LEAD_ONLY, "Only the lead begins a panel."),
    "close_panel": Grant(_LEAD_ONLY, "Only the lead closes a panel."),
    "add_session": Grant(_LEAD_ONLY, "Only the lead adds a session."),
    "hand_tablet_round": Grant(_LEAD_ONLY, "Only the lead hands a tablet round."),
    "choose_stimulus": Grant(_LEAD_ONLY, "Only the lead chooses what is put before a panel."),
    "see_cups": Grant(_PREPARES, "Who pours sees what goes into the cups."),
    "record_spill": Grant(_PREPARES, "Who pours says what was spilt."),
    "see_progress": Grant(
        _LEAD_ONLY, "The lead sees how the trial comes along; all others see it when the key is open."
    ),
    "look_interim": Grant(_LEAD_ONLY, "Only the lead takes an interim look."),
    "open_key": Grant(_given((_LEAD, SEALED)), "Only the lead opens the key."),
    "open_panel_key": Grant(_LEAD_ONLY, "Only the lead opens the key of a panel."),
    "see_panel_result": Grant(
        _LEAD_OR_OPEN, "What is compared is told once the key of the trial is open, and what a panel found with it."
    ),
    "see_report": Grant(_ONCE_OPEN, "The report is made once the key is open."),
    "write_report": Grant(_LEAD_ONLY, "Only the lead writes into the report."),
    "publish": Grant(_LEAD_ONLY, "Only the lead publishes."),
    "take_tables": Grant(_TAKES_PART_OR_OPEN, "Tables can be taken along once the key is open."),
    "erase_draft": Grant(_given((_LEAD, DRAFT)), "Only the lead deletes a trial, and only while it is a draft."),
    "begin_next": Grant(_LEAD_OR_OPEN, "The next trial is begun by the lead, or by all once the key is open."),
}


def roles_with(permission: Permission) -> list[str]:
    """The roles that have ``permission`` in some state."""
    return list(GRANTS[permission].where)
