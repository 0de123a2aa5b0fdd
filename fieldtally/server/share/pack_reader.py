"""A trial pack made into a trial: all of it, or nothing."""

from __future__ import annotations

import json
import secrets
import uuid
from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import UTC, datetime
from functools import cache
from itertools import chain, islice
from typing import Any, cast

from django.db import DatabaseError, connection, models, transaction
from django.utils import timezone
from psycopg import sql

from fieldtally.core.blinding.chain import Item, item
from fieldtally.core.blinding.seal import canonical, whole_allocation
from fieldtally.core.design.document import document_of, plan_in
from fieldtally.core.design.plan import Plan
from fieldtally.core.limits import LONGEST_DEVICE, LONGEST_REASON
from fieldtally.core.problems import Refused
from fieldtally.core.trialpack.chained import TABLE as CHAIN
from fieldtally.core.trialpack.chained import chain_in
from fieldtally.core.trialpack.reading import TrialPack
from fieldtally.core.trialpack.study import plan_as_it_stands, problems_of, sealed_in
from fieldtally.server.answers import Declined
from fieldtally.server.log.models import Condition, Deviation, LogNote
from fieldtally.server.measuring.models import Photo, PhotoFile
from fieldtally.server.measuring.pictures import picture_in
from fieldtally.server.panels.documents import plan_in as panel_plan_in
from fieldtally.server.panels.models import Assessor, Judgement, Material, Panel, Serving
from fieldtally.server.people.models import ChainEntry, Membership, Role, Trial, User
from fieldtally.server.plan.models import (
    Amendment,
    Checkpoint,
    Draft,
    KeyEntry,
    Outcome,
    Prediction,
    Sample,
    SealedPlan,
    Shuffle,
    Uncovered,
)
from fieldtally.server.prepare.models import Application, Cycle, Exposure, HeldTick, KeyLook, MixTick, Pack
from fieldtally.server.rounds.models import Guess, Reading, Repeat, Round
from fieldtally.server.rounds.models.reading import Kind, Source
from fieldtally.server.share.gauged import Known, bring_gauged
from fieldtally.server.verdict.chain import take_over
from fieldtally.server.verdict.models import InterimLook

Row = dict[str, Any]
AT_ONCE = 2_000
TOLD_EVERY = 4_000
COPIED_AT_ONCE = 50_000
"""So many readings are written by one statement, and stand in one entry of the chain that begins with what came in."""
READING_COLUMNS = (
    "id",
    "trial_id",
    "round_id",
    "checkpoint_id",
    "sample_id",
    "outcome_id",
    "scorer_id",
    "kind",
    "value",
    "words",
    "responses",
    "reason",
    "source",
    "device",
    "take",
    "repeat_id",
    "supersedes_id",
    "taken_at",
    "stored_at",
)
LARGEST_MATERIAL = 30_000_000
SOUND_OR_PICTURE = (b"RIFF", b"\x89PNG\r\n\x1a\n")
Tell = Callable[[int, int], None]
"""Told how many rows of how many are in."""


def bring_in(pack: TrialPack, user: User, origin: str = "pack", tell: Tell | None = None) -> Trial:
    """The trial that ``pack`` holds, led by ``user``.  People in it become names without accounts of their own.

    :raises Refused: something in it does not fit; nothing is stored then.
    """
    if not user.may_begin:
        raise Refused("Here trials are begun, and brought in, by chosen members. Ask whoever administers this place.")
    # A pack that was made of a table a moment ago fits together: what made it is tested for that.
    problems = [] if origin == "table" else problems_of(pack)
    if problems:
        raise Refused(problems)
    try:
        with transaction.atomic():
            return _Incoming(pack, user, origin, tell or (lambda done, total: None)).trial
    except (KeyError, TypeError, ValueError, OverflowError) as error:
        if isinstance(error, Refused):
            raise
        raise Refused(
            f"Something in the pack is not as it should be ({str(error)[:120]}); nothing was stored."
        ) from error
    except DatabaseError as error:
        told = str(error).splitlines()[0][:160]
        raise Refused(f"The pack holds something that cannot be kept ({told}); nothing was stored.") from error
    except Declined as declined:
        raise Refused(declined.problems) from declined


def _moment(text: str | None) -> datetime | None:
    return None if text is None else _at(text)


def _at(text: str) -> datetime:
    return datetime.fromisoformat(text).astimezone(UTC)


def random_id() -> str:
    """A UUID of random bits (version 4) as text, made ten times as fast as a UUID is.

    >>> uuid.UUID(random_id()).version
    4
    """
    drawn = secrets.token_hex(16)
    return f"{drawn[:12]}4{drawn[13:16]}{'89ab'[int(drawn[16], 16) & 3]}{drawn[17:]}"


class _Incoming:
    """One pack on its way in.  What a row names is looked up among what came in before it."""

    def __init__(self, pack: TrialPack, user: User, origin: str, tell: Tell) -> None:
        self.pack, self.user, self.tell, self.origin = pack, user, tell, origin
        self.total = sum(len(rows) for rows in pack.tables.values())
        self.done = 0
        self.people: dict[str, User] = {}
        told = pack.trial
        title = str(told.get("title") or pack.title or "A trial")[:200]
        self.trial = Trial.objects.create(
            title=title,
            zone=str(told.get("zone") or "UTC")[:64],
            origin=origin,
            imported_at=timezone.now(),
            imported_by=user,
        )
        Membership.objects.create(trial=self.trial, user=user, role=Role.LEAD)
        if "draft" in pack.plan:
            plan = plan_in(pack.plan["draft"])
            Draft.objects.create(trial=self.trial, document=document_of(plan), saved_by=user)
            return
        self.plan = plan_as_it_stands(pack)
        self._plan(told)
        self._samples()
        self._rounds()
        self._readings()
        self._happened()
        self._given()
        self._panels()
        self._photos()
        bring_gauged(
            self.trial,
            {name: self._rows(name) for name in ("gauges", "gaugings", "ready", "together")},
            Known(self._by, self.photos, self.made, self.notes, self.samples, self.checkpoints, self.outcomes),
        )
        self._came(sum(len(self._rows(name)) for name in ("gauges", "gaugings", "ready", "together")))
        Trial.objects.filter(pk=self.trial.pk).update(
            is_tasting=self.plan.tasting,
            started_at=_moment(told.get("started_at")),
            opened_at=_moment(told.get("opened_at")),
            opened_by=self._who(told.get("opened_by")),
        )
        self.trial.refresh_from_db()
        self._chain()

    def _chain(self) -> None:
        """The chain goes on as it came; without one, it begins with what came in."""
        entries, _ = chain_in(self.pack)
        ChainEntry.objects.bulk_create(
            ChainEntry(trial=self.trial, number=number, text=one.text, link=one.link)
            for number, one in enumerate(entries, start=1)
        )
        if not entries:
            take_over(self.trial, readings=self.items)

    def _who(self, name: str | None) -> User | None:
        """The person of that name in the pack: a name without an account that anybody could sign in to."""
        if name is None:
            return None
        if name not in self.people:
            address = f"brought-in-{uuid.uuid4().hex}@no-account.invalid"
            person = User(email=address, name=name[:80], is_active=False)
            person.set_unusable_password()
            person.save()
            self.people[name] = person
        return self.people[name]

    def _by(self, name: str | None) -> User:
        found = self._who(name)
        if found is None:
            raise Refused("Somebody who did something is missing from the pack.")
        return found

    def _came(self, many: int) -> None:
        before, self.done = self.done, self.done + many
        if before // TOLD_EVERY != self.done // TOLD_EVERY:
            self.tell(self.done, self.total)

    def _rows(self, table: str) -> list[Row]:
        return cast(list[Row], self.pack.tables[table])

    def _keep(self, model: type[models.Model], rows: Sequence[models.Model], table: str) -> None:
        """Store ``rows`` of ``table``, a batch at a time, after a look at whether texts fit."""
        bounded = [f for f in model._meta.fields if isinstance(f, models.CharField) and f.max_length]
        for number, row in enumerate(rows, start=2):
            for field in bounded:
                text = getattr(row, field.attname)
                if isinstance(text, str) and len(text) > (field.max_length or 0):
                    says = f"“{text[:30]}…” is longer than the {field.max_length} letters it may have."
                    raise Refused(says, f"{table}.csv, row {number}")
                if field.choices and text and text not in {value for value, _ in field.choices}:
                    raise Refused(f"“{text[:40]}” is not known here.", f"{table}.csv, row {number}")
        for start in range(0, len(rows), AT_ONCE):
            part = rows[start : start + AT_ONCE]
            model.objects.bulk_create(part)  # type: ignore[attr-defined]
            self._came(len(part))

    # The plan

    def _plan(self, told: Mapping[str, Any]) -> None:
        sealed, plan_json = sealed_in(self.pack), self.pack.plan
        at = _moment(told.get("sealed_at")) or timezone.now()
        SealedPlan.objects.create(
            trial=self.trial,
            canonical=canonical(sealed),
            seal=plan_json["seal"],
            at=at,
            by=self._by(told.get("sealed_by")),
        )
        Draft.objects.create(trial=self.trial, document=document_of(plan_in(sealed["plan"])), saved_by=self.user)
        Trial.objects.filter(pk=self.trial.pk).update(sealed_at=at)
        plans: list[Plan] = [plan_in(sealed["plan"])]
        for one in plan_json.get("amendments") or []:
            plans.append(plan_in(one["document"]["plan"]))
            Amendment.objects.create(
                trial=self.trial,
                number=one["number"],
                canonical=canonical(one["document"]),
                seal=one["seal"],
                at=_at(one["at"]),
                by=self._by(one["by"]),
            )
        self.outcomes = {
            key: Outcome.objects.create(trial=self.trial, key=key)
            for key in dict.fromkeys(o.key for plan in plans for o in plan.outcomes)
        }
        self.checkpoints = {
            key: Checkpoint.objects.create(trial=self.trial, key=key)
            for key in dict.fromkeys(c.key for plan in plans for c in plan.checkpoints)
        }
        stands = SealedPlan.objects.get(pk=self.trial.pk).seal
        newest = Amendment.objects.filter(trial=self.trial).order_by("number").last()
        self.trial.plan_seal = newest.seal if newest else stands
        Trial.objects.filter(pk=self.trial.pk).update(plan_seal=self.trial.plan_seal)

    def _samples(self) -> None:
        amendments = [one["document"] for one in self.pack.plan.get("amendments") or []]
        drawn = {one["code"]: one["treatment"] for one in whole_allocation(sealed_in(self.pack), amendments)}
        rows = self._rows("samples")
        self.samples = {
            row["sample"]: Sample(
                trial=self.trial,
                code=row["sample"],
                block=row["block"] or "",
                place=row["place"],
                plot=row["plot"],
                row=row["row"],
                column=row["column"],
                starts=row["starts"] or 0,
            )
            for row in rows
        }
        self._keep(Sample, list(self.samples.values()), "samples")
        shuffled = self.pack.plan.get("shuffle")
        # After a shuffle by hand the drawn key is kept apart from what was found under the covers.
        KeyEntry.objects.bulk_create(
            KeyEntry(
                sample=self.samples[row["sample"]],
                treatment=str(drawn.get(row["sample"], row["treatment"]) if shuffled else row["treatment"]),
            )
            for row in rows
        )
        Exposure.objects.bulk_create(
            Exposure(sample=self.samples[row["sample"]], started_at=row["started_at"], by=self._by(row["started_by"]))
            for row in rows
            if row["started_at"] is not None
        )
        if shuffled:
            kept = Shuffle.objects.create(
                trial=self.trial,
                kind=shuffled["kind"],
                flasks=shuffled.get("flasks") or {},
                by=self._by(shuffled["by"]),
                at=_at(shuffled["at"]),
            )
            if shuffled.get("uncovered"):
                found = shuffled["uncovered"]
                Uncovered.objects.create(
                    shuffle=kept, found=found["found"], by=self._by(found["by"]), at=_at(found["at"])
                )

    # Rounds

    def _rounds(self) -> None:
        rows = self._rows("rounds")
        named = {(row["checkpoint"], row["scorer"]): row["opened_at"] for row in rows}
        looked = {(row["checkpoint"], row["scorer"]): row["looked_by"] or "" for row in rows}
        for row in self._rows("readings"):
            # A pack that somebody made by hand may have no rounds.
            named.setdefault((row["checkpoint"], row["scorer"]), row["taken_at"])
        self.rounds = {
            (checkpoint, scorer): Round(
                trial=self.trial,
                checkpoint=self.checkpoints[checkpoint],
                scorer=self._by(scorer),
                opened_at=at,
                looked_by=looked.get((checkpoint, scorer), "")[:80],
            )
            for (checkpoint, scorer), at in named.items()
        }
        self._keep(Round, list(self.rounds.values()), "rounds")
        self.repeats = {
            row["code"]: Repeat(
                trial=self.trial,
                checkpoint=self.checkpoints[row["checkpoint"]],
                sample=self.samples[row["sample"]],
                code=row["code"],
            )
            for row in self._rows("second_codes")
        }
        self._keep(Repeat, list(self.repeats.values()), "second_codes")

    def _readings(self) -> None:
        """Readings may be many, so they go in by COPY, which is several times as fast as inserting them."""
        self.made: dict[int, str] = {}
        self.items: list[Item] = []
        table, columns = Reading._meta.db_table, sql.SQL(", ").join(map(sql.Identifier, READING_COLUMNS))
        command = sql.SQL("COPY {} ({}) FROM STDIN").format(sql.Identifier(table), columns)
        rows = self._reading_cells()
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
            # A part at a time, for what is written by one statement is counted once; the database stores each as it comes.
            while (first := next(rows, None)) is not None:
                with cursor.copy(command) as copy:
                    for count, cells in enumerate(chain([first], islice(rows, COPIED_AT_ONCE - 1)), start=1):
                        copy.write_row(cells)
                        if not count % TOLD_EVERY:
                            self._came(TOLD_EVERY)
                self._came(count % TOLD_EVERY)
                if len(self.items) == COPIED_AT_ONCE:
                    take_over(self.trial, only=self.items)
                    self.items = []

    def _reading_cells(self) -> Iterator[tuple[Any, ...]]:
        """The cells of each reading, as ``READING_COLUMNS`` names them; ids and moments as texts, which are written fastest."""
        made, chained, stamp = self.made, not self.pack.tables[CHAIN], cache(datetime.isoformat)
        trial, linked = str(self.trial.pk), self.origin != "table"
        samples = {code: str(sample.pk) for code, sample in self.samples.items()}
        checkpoints = {key: one.pk for key, one in self.checkpoints.items()}
        outcomes = {key: one.pk for key, one in self.outcomes.items()}
        rounds = {key: str(one.pk) for key, one in self.rounds.items()}
        scorers = {scorer: self._by(scorer).pk for _, scorer in self.rounds}
        kinds, sources = set(Kind.values), set(Source.values)
        for number, row in enumerate(self._rows("readings"), start=2):
            source, device, reason = row["source"] or "typed", row["device"] or "", row["reason"] or ""
            if row["kind"] not in kinds or source not in sources:
                raise Refused(f"“{source}” is not known here.", f"readings.csv, row {number}")
            if len(device) > LONGEST_DEVICE or len(reason) > LONGEST_REASON:
                raise Refused("The device or the reason is longer than it may be.", f"readings.csv, row {number}")
            pk = random_id()
            if linked:
                made[row["reading"]] = pk
            if chained:
                self.items.append(item("reading", {**row, "source": source, "take": row["take"] or 1}))
            yield (
                pk,
                trial,
                rounds[row["checkpoint"], row["scorer"]],
                checkpoints[row["checkpoint"]],
                samples[row["sample"]],
                outcomes[row["outcome"]],
                scorers[row["scorer"]],
                row["kind"],
                row["value"],
                row["words"] or "",
                None if row["responses"] is None else json.dumps(row["responses"]),
                reason,
                source,
                device,
                row["take"] or 1,
                str(self.repeats[row["second_code"]].pk) if row["second_code"] else None,
                made[row["supersedes"]] if row["supersedes"] else None,
                stamp(row["taken_at"]),
                stamp(row["stored_at"]),
            )

    def _happened(self) -> None:
        events: dict[int, uuid.UUID] = {}
        deviations = [
            Deviation(
                trial=self.trial,
                sample=self.samples[row["sample"]] if row["sample"] else None,
                kind=row["kind"],
                reason=row["reason"] or "",
                by=self._by(row["by"]),
                at=row["at"],
                after_key=bool(row["after_key"]),
                about=row["about"] or "",
                accident=row["accident"] or "",
                event=events.setdefault(row["event"], uuid.uuid4()) if row["event"] else None,
                since=row["since"],
            )
            for row in self._rows("deviations")
        ]
        self._keep(Deviation, deviations, "deviations")
        conditions = [
            Condition(
                trial=self.trial,
                place=row["place"] or "",
                at=row["at"],
                temperature=row["temperature_c"],
                humidity=row["humidity_percent"],
                rain=row["rain_mm"],
                light=row["light_lx"],
                device=row["device"] or "",
                by=self._by(row["by"]),
                stored_at=row["stored_at"],
            )
            for row in self._rows("conditions")
        ]
        self._keep(Condition, conditions, "conditions")
        self._keep(
            KeyLook,
            [KeyLook(trial=self.trial, by=self._by(row["by"]), at=row["at"]) for row in self._rows("key_looks")],
            "key_looks",
        )
        foreseen = [
            Prediction(trial=self.trial, by=self._by(row["by"]), text=row["text"] or "", at=row["at"])
            for row in self._rows("predictions")
        ]
        self._keep(Prediction, foreseen, "predictions")
        guesses = [
            Guess(
                trial=self.trial,
                sample=self.samples[row["sample"]],
                scorer=self._by(row["scorer"]),
                belief=row["belief"],
                at=row["at"],
            )
            for row in self._rows("guesses")
        ]
        self._keep(Guess, guesses, "guesses")
        self.notes = {
            row["note"]: LogNote(
                trial=self.trial,
                text=row["text"] or "",
                working=row["working"] or "",
                by=self._by(row["by"]),
                at=row["at"],
            )
            for row in self._rows("notes")
        }
        self._keep(LogNote, list(self.notes.values()), "notes")
        looks = [
            InterimLook(
                trial=self.trial,
                checkpoint=row["checkpoint"],
                stop=bool(row["stop"]),
                says=row["says"] or "",
                by=self._by(row["by"]),
                at=row["at"],
            )
            for row in self._rows("interim_looks")
        ]
        self._keep(InterimLook, looks, "interim_looks")

    # Preparing

    def _given(self) -> None:
        made: dict[int, Application] = {}
        for row in self._rows("applications"):
            made[row["application"]] = Application(
                id=uuid.uuid4(),
                trial=self.trial,
                sample=self.samples[row["sample"]],
                dose=row["dose"] or "",
                planned=row["planned"],
                given=row["given"],
                unit=row["unit"] or "",
                written=row["written"] or "",
                version=row["version"] or 0,
                note=row["note"] or "",
                supersedes=made[row["supersedes"]] if row["supersedes"] else None,
                by=self._by(row["by"]),
                at=row["at"],
                stored_at=row["stored_at"],
            )
        self._keep(Application, list(made.values()), "applications")
        cycles = [
            Cycle(trial=self.trial, note=r["note"] or "", set_to=r["set_to"] or {}, by=self._by(r["by"]), at=r["at"])
            for r in self._rows("cycles")
        ]
        self._keep(Cycle, cycles, "cycles")
        lots = [
            Pack(
                trial=self.trial,
                product=row["product"],
                lot=row["lot"] or "",
                expires=row["expires"],
                opened=row["opened"],
                by=self._by(row["by"]),
                at=row["at"],
            )
            for row in self._rows("lots")
        ]
        self._keep(Pack, lots, "lots")
        held = [
            HeldTick(trial=self.trial, entry=r["entry"], by=self._by(r["by"]), at=r["at"]) for r in self._rows("held")
        ]
        self._keep(HeldTick, held, "held")
        mixed = [
            MixTick(
                trial=self.trial,
                step=row["step"],
                says=row["says"] or "",
                version=row["version"] or 0,
                acknowledged=row["acknowledged"] or [],
                by=self._by(row["by"]),
                at=row["at"],
            )
            for row in self._rows("mixed")
        ]
        self._keep(MixTick, mixed, "mixed")

    # Panels and pictures

    def _panels(self) -> None:
        self.panels: dict[int, Panel] = {}
        for row in self._rows("panels"):
            panel_plan_in(row["plan"])
            panel = Panel.objects.create(
                trial=self.trial,
                plan=row["plan"],
                version=row["version"] or 1,
                seed=row["seed"] or "",
                by=self._by(row["by"]),
                begun_at=row["begun_at"],
                closed_at=row["closed_at"],
                closed_because=row["closed_because"] or "",
                added_sessions=row["added_sessions"] or 0,
                seal=row["seal"] or "",
                began_with=row["began_with"],
                # In packs of earlier versions the key of the trial was that of its panels.
                opened_at=row["opened_at"] or (_moment(self.pack.trial.get("opened_at")) if row["begun_at"] else None),
            )
            Panel.objects.filter(pk=panel.pk).update(created_at=row["created_at"])
            self.panels[row["panel"]] = panel
        seats = {
            (row["panel"], row["assessor"]): Assessor(
                panel=self.panels[row["panel"]],
                number=row["assessor"],
                experience=row["experience"],
                blind=bool(row["blind"]),
                left_out=row["left_out"] or "",
                consented_at=row["consented_at"],
                stopped_at=row["stopped_at"],
            )
            for row in self._rows("assessors")
        }
        self._keep(Assessor, list(seats.values()), "assessors")
        served = [
            (
                row,
                Serving(
                    assessor=seats[row["panel"], row["assessor"]],
                    session=row["session"],
                    place=row["place"],
                    order=row["order"],
                    codes=row["codes"],
                    spilt=row["spilt"] or "",
                    stimulus=row["stimulus"] or 0,
                ),
            )
            for row in self._rows("judgements")
        ]
        self._keep(Serving, [one for _, one in served], "judgements")
        answers = [
            Judgement(
                id=uuid.uuid4(),
                serving=serving,
                answer=row["answer"],
                confidence=row["confidence"],
                preference=row["preference"],
                grades=row["grades"] or [],
                chips=row["chips"] or [],
                words=row["words"] or "",
                given_at=row["given_at"],
                stored_at=row["stored_at"],
            )
            for row, serving in served
            if row["given_at"] is not None
        ]
        self._keep(Judgement, answers, "judgements")
        for row in self._rows("materials"):
            content = self._file(row["file"])
            if len(content) > LARGEST_MATERIAL or not content.startswith(SOUND_OR_PICTURE):
                raise Refused("This is no sound or picture that can be kept.", str(row["file"]))
            Material.objects.create(
                panel=self.panels[row["panel"]],
                thing=row["thing"],
                stimulus=row["stimulus"] or 0,
                name=row["name"] or "",
                content=content,
                seconds=row["seconds"],
            )

    def _file(self, path: str | None) -> bytes:
        if path not in self.pack.files:
            raise Refused("A file that the tables name is not in the pack.", str(path))
        return self.pack.files[path]

    def _photos(self) -> None:
        self.photos: dict[int, Photo] = {}
        for row in self._rows("photos"):
            picture = picture_in(self._file(row["file"]))
            photo = Photo.objects.create(
                id=uuid.uuid4(),
                trial=self.trial,
                checkpoint=self.checkpoints[row["checkpoint"]] if row["checkpoint"] else None,
                sample=self.samples[row["sample"]] if row["sample"] else None,
                outcome=row["outcome"] or "",
                level=row["level"],
                note=self.notes[row["note"]] if row["note"] else None,
                caption=(row["caption"] or "")[:200],
                width=picture.width,
                height=picture.height,
                brightness=row["brightness"],
                tint=row["tint"],
                by=self._by(row["by"]),
                taken_at=row["taken_at"],
                stored_at=row["stored_at"],
            )
            PhotoFile.objects.create(photo=photo, full=picture.full, small=picture.small)
            self.photos[row["photo"]] = photo
            self._came(1)
