"""The headless door: ``./tally verdict DATA.csv --treatment COL --value COL …``, ``./tally dose --rate … --size …``,
``./tally panel METHOD N CORRECT``, ``./tally panel METHOD --answers FILE.csv``, ``./tally serving METHOD PEOPLE``,
``./tally outlook PLAN.json``; ``./tally verdict|validate|check-seal PACK.zip``.

Prints stable JSON with ``--json``, or the same in a few sentences.  Bad input ends with exit code 2 and one sentence a
problem on standard error, with the line it stands on.
"""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from fieldtally import library
from fieldtally.core.kinds import KINDS
from fieldtally.core.problems import Refused
from fieldtally.version import VERSION


class Altered(Refused):
    """What was given is not what was sealed and recorded: the answer is no, and the exit code 1."""


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; the exit code is 0, 1 where a seal was checked and does not hold, or 2 for bad input."""
    parser = _parser()
    asked = parser.parse_args(arguments)
    try:
        answer = asked.run(asked)
    except Refused as refused:
        for problem in refused.problems:
            file = getattr(asked, "file", None) or getattr(asked, "answers", None)
            where = f"{file}, {problem.at}: " if problem.at and file else ""
            print(f"{where}{problem.says}", file=sys.stderr)
        return 1 if isinstance(refused, Altered) else 2
    except OSError as error:
        print(f"{error.filename or 'The file'}: {error.strerror or error}.", file=sys.stderr)
        return 2
    if asked.json:
        print(json.dumps(answer, ensure_ascii=False, indent=1))
    else:
        print("\n".join(answer.get("said", [])))
    return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="tally", description="Field Tally without a browser.")
    parser.add_argument("--version", action="version", version=VERSION)
    commands = parser.add_subparsers(dest="command", required=True)
    verdict = commands.add_parser("verdict", help="compare the treatments in a table, a row a reading")
    verdict.add_argument("file", metavar="DATA.csv")
    verdict.add_argument("--treatment", metavar="COL")
    verdict.add_argument("--factor", action="append", default=[], metavar="COL", help="instead of --treatment; several")
    verdict.add_argument(
        "--event", metavar="COL", help="whether the time in --value is that of the event, or of a last look"
    )
    verdict.add_argument(
        "--held", metavar="COL", help="whether a sample still held at the load in --value, or gave way there"
    )
    verdict.add_argument("--row", metavar="COL", help="row of a Latin square; --block names the square")
    verdict.add_argument("--column", metavar="COL", help="column of a Latin square")
    verdict.add_argument("--plot", metavar="COL", help="whole plot of a split plot")
    verdict.add_argument("--value", metavar="COL", help="needed for a table")
    verdict.add_argument("--block", action="append", default=[], metavar="COL")
    verdict.add_argument("--pair", metavar="COL")
    verdict.add_argument("--sample", metavar="COL")
    verdict.add_argument("--checkpoint", metavar="COL")
    verdict.add_argument("--kind", choices=list(KINDS), default="measurement")
    verdict.add_argument("--better", choices=["higher", "lower"], default="higher")
    verdict.add_argument("--control", metavar="LEVEL")
    verdict.add_argument("--margin", type=float)
    verdict.add_argument("--alpha", type=float, default=0.05)
    verdict.add_argument("--seed", type=int, default=1)
    verdict.add_argument("--json", action="store_true")
    verdict.set_defaults(run=_verdict)
    _add_dose(commands)
    _add_panel(commands)
    outlook = commands.add_parser("outlook", help="what a plan can tell, before anything is done")
    outlook.add_argument("file", metavar="PLAN.json", help="a plan, or a sealed plan of a trial pack")
    outlook.add_argument("--seed", type=int, default=1)
    outlook.add_argument("--json", action="store_true")
    outlook.set_defaults(run=_outlook)
    validate = commands.add_parser("validate", help="check a trial pack: its tables, what they name, and its seals")
    validate.add_argument("file", metavar="PACK.zip")
    validate.add_argument("--json", action="store_true")
    validate.set_defaults(run=_validate)
    seal = commands.add_parser(
        "check-seal", help="whether a trial pack holds what was sealed and recorded, cell by cell"
    )
    seal.add_argument("file", metavar="PACK.zip")
    seal.add_argument("--receipt", metavar="FILE or LINK", help="a receipt, which its chain must hold")
    seal.add_argument("--json", action="store_true")
    seal.set_defaults(run=_check_seal)
    return parser


def _add_panel(commands: Any) -> None:
    panel = commands.add_parser("panel", help="what so many right answers of so many judgements tell")
    panel.add_argument("method", metavar="METHOD", help="triangle, duo-trio, abx, 2-afc, 3-afc or tetrad")
    panel.add_argument("n", metavar="N", type=int, nargs="?")
    panel.add_argument("correct", metavar="CORRECT", type=int, nargs="?")
    panel.add_argument(
        "--answers", metavar="FILE.csv", help="a row an answer: assessor, set, and by method what was given"
    )
    panel.add_argument("--alpha", type=float, default=0.05)
    panel.add_argument("--seed", type=int, default=1)
    panel.add_argument("--json", action="store_true")
    panel.set_defaults(run=_panel)
    serving = commands.add_parser("serving", help="who gets which cups in which order, drawn and balanced")
    serving.add_argument("method", metavar="METHOD")
    serving.add_argument("people", metavar="PEOPLE", type=int)
    serving.add_argument("--sets", type=int, default=1)
    serving.add_argument("--things", type=int, default=2, help="for preference, naming, ranking and grading")
    serving.add_argument("--seed", type=int, default=1)
    serving.add_argument("--json", action="store_true")
    serving.set_defaults(run=_serving)


def _add_dose(commands: Any) -> None:
    dose = commands.add_parser("dose", help="how much a sample gets at a label's rate, and whether it can be measured")
    dose.add_argument("--rate", required=True, metavar="AMOUNT/AMOUNT")
    dose.add_argument("--size", required=True, metavar="AMOUNT")
    dose.add_argument("--tool", metavar="AMOUNT by AMOUNT")
    dose.add_argument(
        "--units", choices=["metric", "us", "imperial"], default="metric", help="whose gallons and spoons"
    )
    dose.add_argument("--json", action="store_true")
    dose.set_defaults(run=_dose)


def _verdict(asked: argparse.Namespace) -> dict[str, Any]:
    from fieldtally.core.verdict.telling.figures import told_p

    content = Path(asked.file).read_bytes()
    if content.startswith(b"PK\x03\x04"):
        return _verdict_of_pack(asked, content)
    if asked.value is None:
        raise Refused("Say which column holds the values: --value COL.")
    if asked.factor and asked.treatment:
        raise Refused("Give either --treatment or --factor, once for each factor.")
    names = (
        "treatment",
        "value",
        "block",
        "pair",
        "sample",
        "checkpoint",
        "factor",
        "event",
        "held",
        "row",
        "column",
        "plot",
    )
    options = ("kind", "better", "control", "margin", "alpha", "seed")
    found = library.verdict(content, **{name: getattr(asked, name) for name in (*names, *options)})
    said = []
    for one in found.outcomes:
        said += [one.sentence, f"  {one.level.replace('_', ' ')}: {one.because}"]
        said += [f"  {effect.term}: p {told_p(effect.p)}" for effect in one.effects if effect.p is not None]
    return {**found.to_dict(), **({} if asked.json else {"said": [*said, *found.warnings]})}


def _verdict_of_pack(asked: argparse.Namespace, content: bytes) -> dict[str, Any]:
    """The verdict of a trial pack, by its own plan: columns and levels are not asked for."""
    from fieldtally.core.tables.judging import as_json
    from fieldtally.core.trialpack.reading import read_pack
    from fieldtally.core.trialpack.study import study_in_pack
    from fieldtally.core.verdict.agreeing import agreement_sentences

    given = (
        "treatment",
        "value",
        "pair",
        "sample",
        "checkpoint",
        "control",
        "margin",
        "event",
        "held",
        "row",
        "column",
        "plot",
    )
    if asked.factor or asked.block or any(getattr(asked, name) is not None for name in given):
        raise Refused("A trial pack has its own plan: give no columns, control or margin with it.")
    study = study_in_pack(read_pack(content))
    done = study.concluded()
    names = {outcome.key: outcome.name for outcome in study.plan.outcomes}
    looks = {one.key: one.name for one in study.plan.checkpoints}
    effects_of = {one.outcome: one.effects for one in done.behind}
    outcomes: list[dict[str, Any]] = []
    said = [*agreement_sentences(done.instruments)] if study.plan.agreement is not None else []
    for one in done.findings:
        told_effects = [
            {"term": effect.term, "p": effect.p, "method": effect.method} for effect in effects_of.get(one.outcome, ())
        ]
        outcomes.append(
            {
                **as_json(names[one.outcome], one.comparison.column.kind, one.comparison, one.strength),
                "claim": one.claim,
                **({} if one.checkpoint is None else {"checkpoint": looks[one.checkpoint]}),
                **({"effects": told_effects} if told_effects and one.checkpoint is None else {}),
            }
        )
        if one.checkpoint is None:
            said += [one.sentence, f"  {one.strength.level.replace('_', ' ')}: {one.strength.because}"]
    instruments = {} if done.instruments is None else {"instruments": asdict(done.instruments)}
    return {"outcomes": outcomes, **instruments, "warnings": [], **({} if asked.json else {"said": said})}


def _validate(asked: argparse.Namespace) -> dict[str, Any]:
    from fieldtally.core.trialpack.reading import read_pack
    from fieldtally.core.trialpack.study import problems_of

    pack = read_pack(Path(asked.file).read_bytes())
    problems = problems_of(pack)
    if problems:
        raise Refused(problems)
    rows = {name: len(own) for name, own in pack.tables.items() if own}
    said = [f"{name}: {many} rows" for name, many in rows.items()]
    return {"valid": True, "tables": rows, "said": [*said, "The pack is whole, and its seals hold."]}


def _dose(asked: argparse.Namespace) -> dict[str, Any]:
    from fieldtally.core.dosing.measuring import measured, tool_in
    from fieldtally.core.dosing.rates import label_rate
    from fieldtally.core.quantities.amounts import amount_in, rate_in

    worked = label_rate(rate_in(asked.rate, asked.units), amount_in(asked.size, asked.units))
    error: float | None = None
    advice: tuple[str, ...] = ()
    if asked.tool is not None:
        tool = tool_in(asked.tool, asked.units)
        if tool.unit != worked.unit:
            raise Refused(f"The dose is told in {worked.unit}, but {asked.tool} measures {tool.unit}.")
        found = measured(worked.value, tool)
        error, advice = found.relative_error, found.advice
    return {
        "dose": {"value": worked.value, "unit": worked.unit},
        "relative_error": error,
        "advice": list(advice),
        "steps": list(worked.steps),
        **({} if asked.json else {"said": [*worked.steps, *advice]}),
    }


def _serving(asked: argparse.Namespace) -> dict[str, Any]:
    answer = library.servings(asked.method, asked.people, asked.sets, asked.seed, asked.things)
    if asked.json:
        return answer
    rows: dict[int, list[str]] = {}
    for one in answer["servings"]:
        rows.setdefault(one["person"], []).append(one["order"])
    return {**answer, "said": [f"{person}: {', '.join(orders)}" for person, orders in rows.items()]}


def _panel(asked: argparse.Namespace) -> dict[str, Any]:
    if asked.answers is not None:
        if asked.n is not None:
            raise Refused("Either the numbers or a file of answers, please.", "--answers")
        counted, said = library.panel_answers(asked.method, Path(asked.answers), asked.alpha, asked.seed)
        return counted if asked.json else {**counted, "said": said}
    if asked.n is None or asked.correct is None:
        raise Refused("How many answers, and how many of them right? Or --answers FILE.csv.", "n")
    answer = library.panel(asked.method, asked.n, asked.correct, asked.alpha)
    if asked.json:
        return answer
    from fieldtally.core.panels.discriminating import discriminate
    from fieldtally.core.panels.words import told

    found = discriminate(answer["method"], asked.n, asked.correct, asked.alpha)
    return {**answer, "said": [told(found), f"  exact p = {found.p:.3g}"]}


def _outlook(asked: argparse.Namespace) -> dict[str, Any]:
    answer = library.outlook(Path(asked.file), asked.seed)
    return {
        **answer,
        **({} if asked.json else {"said": [answer["headline"], *(f"  {one}" for one in answer["steps"])]}),
    }


def _check_seal(asked: argparse.Namespace) -> dict[str, Any]:
    from fieldtally.core.blinding.seal import verify
    from fieldtally.core.trialpack.chained import chain_in, held_by, receipt_of
    from fieldtally.core.trialpack.reading import is_whole, read_pack, sealed_plan_in
    from fieldtally.core.trialpack.study import problems_of

    content = Path(asked.file).read_bytes()
    document = sealed_plan_in(content)
    checked = verify(document["sealed"], str(document["seal"]))
    said = [
        f"Seal {checked.seal}",
        "The plan is the one that was sealed." if checked.same_seal else "The plan is NOT the one that was sealed.",
        "The key is the one that its seed draws."
        if checked.same_allocation
        else "The key is NOT the one that its seed draws.",
    ]
    answer = {"seal": checked.seal, "plan": True, "allocation": True, "entries": 0, "link": None}
    if not (checked.same_seal and checked.same_allocation):
        raise Altered(" ".join(said[1:]))
    if not is_whole(content):
        said.append("It holds a part of a trial: nothing but its plan and key can be checked.")
        return {**answer, "said": said}
    pack = read_pack(content)
    problems = problems_of(pack)
    if problems:
        raise Altered(problems)
    entries, _ = chain_in(pack)
    link = entries[-1].link if entries else None
    if link is None:
        said.append(
            "It was made by a version without a chain: that its samples stand as they were drawn is checked, that its readings are as they "
            "were recorded cannot be."
        )
    else:
        said += [
            f"Every reading, decision and moment is as it was recorded, in {len(entries):,} entries.",
            f"Last link {link}",
            "Compare it with the one in the report, or with a receipt: --receipt FILE or LINK.",
        ]
    answer |= {"entries": len(entries), "link": link}
    if asked.receipt is not None:
        file = Path(asked.receipt)
        wanted = receipt_of(file.read_bytes() if file.is_file() else asked.receipt.encode())
        if not wanted:
            raise Refused("This is no receipt: it names no link of 64 hexadecimal digits.")
        number = held_by(pack, wanted)
        if number is None:
            raise Altered(
                "The receipt's link is NOT in this chain: something before it was changed, or it is of another trial."
            )
        said.append(f"The receipt holds: nothing up to entry {number} was changed since it was taken.")
        answer["receipt"] = number
    return {**answer, "said": said}


if __name__ == "__main__":
    sys.exit(main())
