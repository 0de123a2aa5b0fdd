"""What may be read of the log: which samples are out of play, which outcomes given up, what was not held equal."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from uuid import UUID

from fieldtally.core.design.plan import Plan
from fieldtally.server.log.models import Deviation
from fieldtally.server.log.models.deviation import DeviationKind
from fieldtally.server.people.models import Trial


@dataclass(frozen=True)
class Deviations:
    """What did not go to plan in a trial, in order, read once; most of what is asked about samples and outcomes follows from it."""

    rows: Sequence[Deviation]

    @classmethod
    def of(cls, *trials: Trial) -> Deviations:
        """Those of ``trials``."""
        return cls(list(Deviation.objects.filter(trial__in=trials).order_by("at", "pk")))

    @cached_property
    def out_of_play(self) -> dict[UUID, Deviation]:
        """The samples that are not scored any more, by id, with the deviation that says why: those set aside, and those left out from a
        moment on."""
        newest = {
            row.sample_id: row for row in self.rows if row.sample_id is not None and row.kind != DeviationKind.MARKED
        }
        return {pk: row for pk, row in newest.items() if row.kind != DeviationKind.PUT_BACK}

    @cached_property
    def given_up(self) -> dict[str, Deviation]:
        """The outcomes (keys) whose method failed so that they were withdrawn, with the deviation that says why."""
        return {row.about: row for row in self.rows if row.kind == DeviationKind.WITHDRAWN}

    @cached_property
    def skipped(self) -> dict[tuple[UUID, str], str]:
        """The looks (trial, key) that somebody decided to skip, with the reason."""
        return {(row.trial_id, row.about): row.reason for row in self.rows if row.kind == DeviationKind.SKIPPED}


def out_of_play(*trials: Trial) -> dict[UUID, Deviation]:
    """The samples of ``trials`` that are not scored any more, by id, with the deviation that says why."""
    return Deviations.of(*trials).out_of_play


def set_aside(*trials: Trial) -> dict[UUID, Deviation]:
    """The samples of ``trials`` that are set aside altogether, by id, with the deviation that says why."""
    return {pk: one for pk, one in out_of_play(*trials).items() if one.kind == DeviationKind.SET_ASIDE}


def left_out(trial: Trial) -> dict[UUID, Deviation]:
    """The samples of ``trial`` whose readings do not count from a moment (``since``) on, by id."""
    return {pk: one for pk, one in out_of_play(trial).items() if one.kind == DeviationKind.LEFT_OUT}


def marked(trial: Trial) -> list[Deviation]:
    """What happened to samples, or to all of them, without any being left out, in order."""
    rows = Deviation.objects.filter(trial=trial, kind=DeviationKind.MARKED)
    return list(rows.select_related("sample").order_by("at", "sample__code"))


def given_up_outcomes(trial: Trial) -> dict[str, Deviation]:
    """The outcomes (keys) of ``trial`` whose method failed so that they were withdrawn, with the deviation that says why."""
    return Deviations.of(trial).given_up


def split_outcomes(trial: Trial) -> dict[str, Deviation]:
    """The outcomes (keys) of ``trial`` measured in another way from a moment (``since``) on, the newest split of each."""
    rows = Deviation.objects.filter(trial=trial, kind=DeviationKind.SPLIT).order_by("at")
    return {row.about: row for row in rows}


def skipped_checkpoints(trials: Sequence[Trial]) -> dict[tuple[UUID, str], str]:
    """The looks (trial, key) that somebody decided to skip, with the reason."""
    return Deviations.of(*trials).skipped


def differences_by_entry(trial: Trial) -> dict[str, list[str]]:
    """How entries (keys) of the held-equal sheet differed after all, in order."""
    found: dict[str, list[str]] = defaultdict(list)
    for row in Deviation.objects.filter(trial=trial, kind=DeviationKind.DIFFERENCE).order_by("at"):
        found[row.about].append(row.reason)
    return found


def differences_of(trial: Trial, plan: Plan) -> list[tuple[str, str]]:
    """What turned out not to be held equal in ``trial``, and how it differed."""
    names = {entry.key: entry.what for entry in plan.held_equal}
    found = differences_by_entry(trial)
    return [(names.get(key, "something"), reason) for key, reasons in found.items() for reason in reasons]
