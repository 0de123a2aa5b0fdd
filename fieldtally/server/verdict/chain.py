"""Whether what the database holds of a trial is what was recorded: its chain, its seals and where its samples stand."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping
from datetime import datetime
from uuid import UUID

from django.db import transaction
from django.db.models import F

from fieldtally.core.blinding.chain import Entry, Item, Stood, allocation_faults, faults, item
from fieldtally.core.blinding.seal import seal_of, whole_allocation
from fieldtally.server.log.deviating import deviation_record
from fieldtally.server.log.models import Deviation
from fieldtally.server.moments import Iso
from fieldtally.server.panels.sealing import panel_faults, panels_chained
from fieldtally.server.people.chain import append, entries_of
from fieldtally.server.people.models import ChainEntry, Trial
from fieldtally.server.plan.models import Amendment, Sample, SealedPlan
from fieldtally.server.plan.queries import checkpoints_of, drawn_key, outcomes_of, plan_of, shuffle_of
from fieldtally.server.prepare.models import Exposure, KeyLook
from fieldtally.server.rounds.models import Reading
from fieldtally.server.verdict.models import InterimLook

READ = (
    *("kind", "value", "words", "responses", "reason", "source", "device", "take"),
    *("second_code", "taken_at", "stored_at"),
)
"""What the chain keeps of a reading beside its sample, outcome and look."""
HELD = {"second_code": F("repeat__code"), "told_taken": Iso("taken_at"), "told_stored": Iso("stored_at")}
"""Those that the table holds under another name, or otherwise."""


def recorded(trial: Trial, readings: Iterable[Item] | None = None) -> Iterator[Item]:
    """Everything of ``trial`` that belongs into its chain, as the tables hold it now; ``readings`` where they are known already."""
    sealed = SealedPlan.objects.filter(pk=trial.pk).first()
    if sealed is None:
        return
    yield item("seal", {"seal": sealed.seal}, "The seal")
    for one in Amendment.objects.filter(trial=trial):
        yield item("amendment", {"number": one.number, "seal": one.seal}, f"Amendment {one.number}")
    shuffled = shuffle_of(trial)
    if shuffled is not None:
        told = {"kind": shuffled.kind, "flasks": shuffled.flasks, "at": shuffled.at}
        yield item("shuffle", told, "The shuffle by hand")
        if hasattr(shuffled, "uncovered"):
            under = shuffled.uncovered
            yield item("uncovered", {"found": under.found, "at": under.at}, "What was found under the covers")
    codes = dict(Sample.objects.filter(trial=trial).values_list("pk", "code"))
    for sample, at in Exposure.objects.filter(sample__trial=trial).values_list("sample_id", "started_at"):
        yield item("start", {"sample": codes[sample], "started_at": at}, f"The start of sample {codes[sample]}")
    yield from _readings(trial, codes) if readings is None else readings
    for deviation in Deviation.objects.filter(trial=trial).select_related("sample"):
        where = f" of sample {deviation.sample.code}" if deviation.sample else ""
        yield item("deviation", deviation_record(deviation), f"A deviation ({deviation.get_kind_display()}){where}")
    for (at,) in KeyLook.objects.filter(trial=trial).values_list("at"):
        yield item("key look", {"at": at}, "A look at the key")
    for look in InterimLook.objects.filter(trial=trial):
        record = {"checkpoint": look.checkpoint, "stop": look.stop, "says": look.says, "at": look.at}
        yield item("interim look", record, "An interim look")
    yield from panels_chained(trial)
    if trial.opened_at:
        yield item("opening", {"at": trial.opened_at}, "The opening of the key")


def _readings(trial: Trial, codes: Mapping[UUID, str]) -> Iterator[Item]:
    names = {one.key: one.name for one in plan_of(trial).checkpoints}
    looks, outcomes = ({pk: key for key, pk in of(trial).items()} for of in (checkpoints_of, outcomes_of))
    # Row by row as they are: of some trials there are hundreds of thousands.
    held = (*(one for one in READ if one not in ("second_code", "taken_at", "stored_at")), *HELD)
    rows = Reading.objects.filter(trial=trial).annotate(**HELD)
    for sample, outcome, look, *values in rows.values_list("sample_id", "outcome_id", "checkpoint_id", *held).iterator(
        chunk_size=10_000
    ):
        record = dict(zip(READ, values, strict=True))
        if record["responses"] is not None:
            record["responses"] = [None if one is None else float(one) for one in record["responses"]]
        record |= {"sample": codes[sample], "outcome": outcomes[outcome], "checkpoint": looks[look]}
        yield item("reading", record, f"A reading of sample {codes[sample]} at {names.get(looks[look], looks[look])}")


def faults_of(trial: Trial) -> list[str]:
    """What of ``trial`` is not as it was recorded, a sentence each that names no treatment; none for a draft."""
    sealed = SealedPlan.objects.filter(pk=trial.pk).first()
    if sealed is None:
        return []
    found = []
    document = json.loads(sealed.canonical)
    if seal_of(document) != sealed.seal:
        found.append("The plan is not the one that was sealed.")
    amendments = []
    for one in Amendment.objects.filter(trial=trial):
        amendments.append(json.loads(one.canonical))
        if seal_of(amendments[-1]) != one.seal:
            found.append(f"Amendment {one.number} is not the one that was sealed.")
    key = drawn_key(trial)
    stood = [
        Stood(s.code, key.get(s.pk, ""), s.block or None, s.place, s.plot, s.row, s.column, s.starts)
        for s in Sample.objects.filter(trial=trial).order_by("code")
    ]
    # The drawn treatments are held against the seal; what was found after a shuffle by hand stands in the chain.
    found += allocation_faults(whole_allocation(document, amendments), stood)
    return [*found, *panel_faults(trial), *faults(entries_of(trial), recorded(trial))]


def last_link(trial: Trial) -> Entry | None:
    """The newest entry of the chain; None where there is none yet."""
    row = ChainEntry.objects.filter(trial=trial).order_by("-number").values_list("text", "link").first()
    return Entry(*row) if row else None


def take_over(
    trial: Trial,
    *,
    at: datetime | None = None,
    readings: Iterable[Item] | None = None,
    only: Iterable[Item] | None = None,
) -> None:
    """Begin the chain of a sealed trial that was recorded before there were chains; what came before cannot be proved.  ``readings`` are
    those of the trial that are not in it yet, where they are known; ``only``: these and nothing else, the rest follows."""
    with transaction.atomic():
        if only is not None:
            append(trial, "taken over", only, at=at)
        elif trial.state == "draft":
            return
        elif readings is not None or not ChainEntry.objects.filter(trial=trial).exists():
            append(trial, "taken over", recorded(trial, readings), at=at)
