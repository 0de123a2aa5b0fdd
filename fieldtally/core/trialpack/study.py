"""From a pack to its verdict: the study that its tables hold, whether they fit together, and whether the seal is that of the start."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import datetime
from typing import Any, cast

from fieldtally.core.blinding.seal import FORMAT, added_as_drawn, seal_of
from fieldtally.core.design.document import plan_in
from fieldtally.core.design.plan import Plan
from fieldtally.core.problems import Problem, Refused
from fieldtally.core.scales import CurveScale, NoteScale, Scale, ShadeScale
from fieldtally.core.trialpack.chained import chain_problems
from fieldtally.core.trialpack.reading import MOST_TOLD, Record, TrialPack
from fieldtally.core.verdict.study import CountedReading, Decisions, Placed, StudyData, study_in

SAMPLE_REFS = ("readings", "deviations", "second_codes", "guesses", "applications", "photos")
CHECKPOINT_REFS = ("readings", "rounds", "second_codes", "photos", "interim_looks")
NEEDED = ("sample", "checkpoint", "scorer", "taken_at", "stored_at")
NUMBERED = {"readings": "reading", "applications": "application"}


def sealed_in(pack: TrialPack) -> dict[str, Any]:
    """The sealed document of ``pack``.

    :raises Refused: its plan is not sealed, or of another format.
    """
    sealed = pack.plan.get("sealed")
    if not isinstance(sealed, dict):
        raise Refused("The plan in it is not sealed.", "plan.json")
    if sealed.get("format") != FORMAT:
        raise Refused(f"The plan in it is of the format {sealed.get('format') or 'none'}, not {FORMAT}.", "plan.json")
    if not isinstance(sealed.get("seed"), str) or not isinstance(sealed.get("allocation"), list):
        raise Refused("The sealed plan cannot be read; something is missing from it.", "plan.json")
    try:
        int(sealed["seed"], 16)
    except ValueError as error:
        raise Refused("The seed of the sealed plan is not hexadecimal.", "plan.json") from error
    return sealed


def plan_as_it_stands(pack: TrialPack) -> Plan:
    """The plan with its newest amendment."""
    if "draft" in pack.plan:
        return plan_in(pack.plan["draft"])
    amendments = pack.plan.get("amendments") or []
    document = amendments[-1]["document"]["plan"] if amendments else sealed_in(pack)["plan"]
    return plan_in(document)


def problems_of(pack: TrialPack) -> list[Problem]:
    """What in ``pack`` does not fit together, each with its table and row; a seal or an amendment that was changed."""
    found = list(_seals(pack))
    if found:
        return found
    try:
        plan = plan_as_it_stands(pack)
    except (Refused, KeyError, TypeError, IndexError) as error:
        return [Problem("plan.json", f"The plan in it cannot be read ({str(error)[:200]}).")]
    found += _references(pack, plan)
    if not found and "draft" not in pack.plan:
        try:
            found += chain_problems(pack, sealed_in(pack))
        except (KeyError, TypeError, ValueError, AttributeError) as error:
            return [Problem("chain.csv", f"The chain in it cannot be read ({str(error)[:200]}).")]
    return found[:MOST_TOLD]


def _seals(pack: TrialPack) -> Iterator[Problem]:
    if "draft" in pack.plan:
        return
    try:
        follows = seal_of(sealed_in(pack))
    except Refused as refused:
        yield from refused.problems
        return
    if follows != pack.plan.get("seal"):
        yield Problem("plan.json", "The plan is not the one that was sealed.")
        return
    amendments = pack.plan.get("amendments") or []
    if not isinstance(amendments, list) or not all(isinstance(one, dict) for one in amendments):
        yield Problem("plan.json", "The amendments cannot be read.")
        return
    for number, one in enumerate(amendments, start=1):
        document = one.get("document")
        if not isinstance(document, dict) or document.get("follows") != follows:
            yield Problem("plan.json", f"Amendment {number} does not follow the seal before it.")
            return
        follows = seal_of(document)
        if follows != one.get("seal"):
            yield Problem("plan.json", f"Amendment {number} is not the one that was sealed.")
            return
    try:
        drawn = added_as_drawn(sealed_in(pack), [one["document"] for one in amendments])
    except (Refused, KeyError, ValueError, TypeError):
        yield Problem("plan.json", "What was added by an amendment cannot be read.")
        return
    if not drawn:
        yield Problem("plan.json", "The samples that an amendment added are not those that were drawn for it.")


def _references(pack: TrialPack, plan: Plan) -> Iterator[Problem]:
    if "draft" in pack.plan:
        return
    samples = {row["sample"] for row in pack.tables["samples"]}
    treatments, checkpoints = {one.key for one in plan.treatments}, {one.key for one in plan.checkpoints}
    if not samples and not plan.tasting:
        yield Problem("samples.csv", "There are no samples in it.")
    for line, row in _lines(pack, "samples"):
        if row["treatment"] not in treatments or row["place"] is None:
            yield Problem(line, "A sample needs its place, and a treatment that is in the plan.")
    yield from _named(pack, samples, checkpoints)
    yield from _readings(pack, plan)
    for table, number in NUMBERED.items():
        known: set[Any] = set()
        for line, row in _lines(pack, table):
            if row["supersedes"] is not None and row["supersedes"] not in known:
                yield Problem(line, f"It replaces {row['supersedes']}, which does not stand before it.")
            known.add(row[number])


def _named(pack: TrialPack, samples: set[Any], checkpoints: set[str]) -> Iterator[Problem]:
    """Samples and checkpoints that tables name, and that there are not."""
    for table in SAMPLE_REFS:
        for line, row in _lines(pack, table):
            if row["sample"] is not None and row["sample"] not in samples:
                yield Problem(line, f"There is no sample {row['sample']}.")
    for table in CHECKPOINT_REFS:
        for line, row in _lines(pack, table):
            if row["checkpoint"] is not None and row["checkpoint"] not in checkpoints:
                yield Problem(line, f"There is no checkpoint “{row['checkpoint']}” in the plan.")


def _refused(row: Record, scales: Sequence[Scale]) -> str | None:
    """Why the value of a reading stands on none of the ``scales`` that its outcome has, or had; None where it does."""
    says = None
    for scale in scales:
        if isinstance(scale, NoteScale):
            return None
        if isinstance(scale, CurveScale):
            try:
                scale.number_of(cast(list[float | None], row["responses"] or []))
                return None
            except Refused as refused:
                says = refused.problems[0].says
                continue
        value = cast(float, row["value"])
        measured = isinstance(scale, ShadeScale) and row["source"] == "device"
        says = scale.measured_refusal(value) if measured and isinstance(scale, ShadeScale) else scale.refusal(value)
        if says is None:
            return None
    return says


def _scales(pack: TrialPack, plan: Plan) -> dict[str, list[Scale]]:
    """The scales of each outcome (key) by the plan as it stands and as it was before."""
    found: dict[str, list[Scale]] = {}
    for one in (plan, plan_in(sealed_in(pack)["plan"])):
        for outcome in one.outcomes:
            found.setdefault(outcome.key, []).append(outcome.scale)
    return found


def _readings(pack: TrialPack, plan: Plan) -> Iterator[Problem]:
    scales = _scales(pack, plan)
    outcomes, codes = {one.key for one in plan.outcomes}, {row["code"] for row in pack.tables["second_codes"]}
    for line, row in _lines(pack, "readings"):
        if row["outcome"] not in outcomes:
            yield Problem(line, f"There is no outcome “{row['outcome']}” in the plan.")
        if row["second_code"] is not None and row["second_code"] not in codes:
            yield Problem(line, f"There is no second code {row['second_code']}.")
        if row["kind"] not in ("value", "cannot", "withdrawn"):
            yield Problem(line, f"A reading is a value, cannot or withdrawn, not “{row['kind']}”.")
        if any(row[name] is None for name in NEEDED):
            yield Problem(line, "A reading needs its sample, checkpoint, scorer and both moments.")
        elif (row["kind"] == "value") == (row["value"] is None and not row["words"]):
            yield Problem(line, "A value needs its number, and nothing else has one.")
        elif row["kind"] == "value" and row["value"] is not None and row["outcome"] in outcomes:
            says = _refused(row, scales[cast(str, row["outcome"])])
            if says:
                yield Problem(line, says)


def _lines(pack: TrialPack, table: str) -> Iterator[tuple[str, Record]]:
    """The rows of a table, with where they stand (counted in rows below the header)."""
    for number, row in enumerate(pack.tables[table], start=2):
        yield f"{table}.csv, row {number}", row


def study_in_pack(pack: TrialPack) -> StudyData:
    """The study that ``pack`` holds; the same as that of the trial it was made from.

    :raises Refused: its tables do not fit together.
    """
    problems = problems_of(pack)
    if problems:
        raise Refused(problems)
    if "draft" in pack.plan:
        raise Refused("This is the pack of a draft: nothing was measured yet.", "plan.json")
    replaced = {row["supersedes"] for row in pack.tables["readings"]}
    placed = [
        Placed(row["sample"], row["treatment"], row["block"], row["plot"], row["row"], row["column"])
        for row in cast(list[dict[str, Any]], pack.tables["samples"])
    ]
    stands = [
        CountedReading(
            (row["outcome"], row["checkpoint"]),
            row["sample"],
            row["scorer"],
            row["second_code"],
            row["value"],
            row["taken_at"],
            None if row["responses"] is None else tuple(row["responses"]),
        )
        for row in sorted(cast(list[dict[str, Any]], pack.tables["readings"]), key=lambda one: one["take"] or 1)
        if row["kind"] == "value" and row["value"] is not None and row["reading"] not in replaced
    ]
    seen_by = {
        (row["checkpoint"], row["scorer"])
        for row in cast(list[dict[str, Any]], pack.tables["rounds"])
        if row["blinding"] == "open"
    }
    afterwards = pack.trial.get("origin") == "table"
    starts = {
        row["sample"]: row["started_at"] for row in pack.tables["samples"] if row["started_at"] and not afterwards
    }
    return study_in(
        plan_as_it_stands(pack),
        sealed_in(pack)["seed"],
        placed,
        stands,
        decisions_in(pack),
        seen_by,
        cast(dict[str, datetime], starts),
    )


def decisions_in(pack: TrialPack) -> Decisions:
    """What the deviations of ``pack`` decided, the newest on each sample and outcome."""
    newest: dict[str, dict[str, Any]] = {}
    withdrawn: set[str] = set()
    split: dict[str, Any] = {}
    for row in sorted(cast(list[dict[str, Any]], pack.tables["deviations"]), key=lambda one: one["at"]):
        if row["sample"] is not None and row["kind"] in ("set_aside", "left_out", "put_back"):
            newest[row["sample"]] = row
        elif row["kind"] == "no_outcome":
            withdrawn.add(row["about"])
        elif row["kind"] == "split":
            split[row["about"]] = row["since"] or row["at"]
    return Decisions(
        aside=frozenset(code for code, row in newest.items() if row["kind"] == "set_aside"),
        left_out={code: row["since"] or row["at"] for code, row in newest.items() if row["kind"] == "left_out"},
        withdrawn=frozenset(withdrawn),
        split=split,
    )
