"""Load the demo through the same acts that people use, dated relative to today, so that something is always due."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from uuid import UUID, uuid4

import numpy as np
from django.contrib.auth import get_user_model
from django.db import transaction
from django.utils import timezone

from fieldtally.core.design.plan import Plan
from fieldtally.core.dosing.mixing import mix_sheet
from fieldtally.core.randomness import Draw
from fieldtally.core.rounds.written import Written
from fieldtally.core.scales import CurveScale, LadderScale
from fieldtally.server.demo import pictures
from fieldtally.server.demo.accounts import LEAD, PASSWORD, PEOPLE, PREPARER, SCORER, VIEWER
from fieldtally.server.demo.photographed import by_eye, measured_by_photo
from fieldtally.server.demo.plans import DAHLIAS, GHERKINS, LEAF_OR_NONE, MARIGOLDS, PEAS, PENS, TWINES, WHICH_JAR
from fieldtally.server.demo.tasting import panel_held
from fieldtally.server.log.accidents import give_up_method, record_accident
from fieldtally.server.log.conditions import note_conditions
from fieldtally.server.log.services import write_note
from fieldtally.server.measuring.photos import Shown, keep_photo
from fieldtally.server.measuring.pictures import picture_in
from fieldtally.server.people.models import Membership, Role, Trial, User
from fieldtally.server.plan import services as plan
from fieldtally.server.plan.models import Sample
from fieldtally.server.plan.queries import key_of, plan_of, samples_of
from fieldtally.server.prepare import applying, mixing
from fieldtally.server.prepare import services as prepare
from fieldtally.server.prepare.models import MeasuringTool
from fieldtally.server.prepare.queries import tools_of
from fieldtally.server.rounds import services as rounds
from fieldtally.server.rounds.guessing import write_guesses
from fieldtally.server.rounds.repeats import repeats_at
from fieldtally.server.rounds.writing import write_readings
from fieldtally.server.verdict import services as verdict

BETWEEN_BLOCKS = timedelta(minutes=25)
TOOLS = ("pocket scale: 50 g by 0.1 g", "syringe: 10 mL by 0.5 mL", "jug: 1 L by 50 mL")
STALE_AFTER = timedelta(days=6)
SEED = 1729
JAR_WORDS = ("Falls apart", "Soft all through", "Bends before it breaks", "Firm, breaks clean", "Snaps like fresh")
PREDICTIONS = {
    DAHLIAS.title: {
        LEAD.email: "The house mix will win by a day; the two powders will be alike.",
        SCORER.email: "No difference until day 6, then the plain ones go.",
    },
    PEAS.title: {
        LEAD.email: "Any soak beats none; the tea adds little over water.",
        PREPARER.email: "The tea, by a mile.",
    },
    GHERKINS.title: {
        LEAD.email: "The vine leaf, but nobody will taste it.",
        PREPARER.email: "Everybody will know the tea.",
    },
    MARIGOLDS.title: {
        LEAD.email: "The sand, if anybody can get the heads out whole.",
        SCORER.email: "The loft; the oven will bake them brown.",
    },
    TWINES.title: {LEAD.email: "Hemp in both places.", SCORER.email: "Whatever is plastic lasts longest."},
}


def load_demo(now: datetime | None = None) -> None:
    """Make the demo's people and trials, unless they are there and still have something due."""
    moment = (now or timezone.now()).replace(second=0, microsecond=0)
    with transaction.atomic():
        people = {person.email: _account(person.email, person.name) for person in PEOPLE}
        lead = people[LEAD.email]
        # Somebody looks after the place; here it is who leads.
        User.objects.filter(pk=lead.pk).update(administers=True)
        for person in (lead, people[PREPARER.email]):
            for text in TOOLS:
                MeasuringTool.objects.get_or_create(by=person, text=text)
        shown = Trial.objects.filter(memberships__user=lead, memberships__role=Role.LEAD, put_away_at=None)
        current = shown.filter(title=DAHLIAS.title).order_by("-created_at").first()
        if current and current.started_at and moment - current.started_at < timedelta(days=6) + STALE_AFTER:
            return
        shown.filter(title__in=[p.title for p in (DAHLIAS, PEAS, PENS, GHERKINS, TWINES, MARIGOLDS)]).update(
            put_away_at=moment
        )
        _drafts(lead, moment)
        _twines(people, moment)
        _gherkins(people, moment)
        _peas(people, moment)
        _marigolds(people, moment)
        _dahlias(people, moment)


def _account(email: str, name: str) -> User:
    user = get_user_model().objects.filter(email=email).first()
    return user or get_user_model().objects.create_user(email, PASSWORD, name=name)


@dataclass
class _Stage:
    """A trial under way: its people, its samples and a generator."""

    trial: Trial
    lead: User
    scorer: User
    samples: dict[str, Sample]
    treatment: dict[str, str]
    rng: np.random.Generator

    def score(
        self,
        checkpoint: str,
        at: datetime,
        readings: Iterable[tuple[str, str, float | tuple[float, ...] | str]],
        *,
        reason: str = "",
        source: str = "typed",
    ) -> None:
        """Store (code, outcome, value) readings of the scorer, eight seconds apart from ``at`` on."""
        opened = rounds.open_round(self.trial, self.scorer, checkpoint, at=at)
        written = [
            Written(
                id=uuid4(),
                round=opened.pk,
                sample=self.samples[code].pk,
                outcome=outcome,
                kind="value",
                value=None if isinstance(value, (tuple, str)) else value,
                responses=value if isinstance(value, tuple) else None,
                words=value if isinstance(value, str) else "",
                reason=reason,
                source=source,
                taken_at=at + timedelta(seconds=8 * i),
            )
            for i, (code, outcome, value) in enumerate(readings)
        ]
        written += self._again(checkpoint, opened.pk, written)
        if written:
            write_readings(self.trial, self.scorer, written, now=written[-1].taken_at + timedelta(seconds=2))

    def _again(self, checkpoint: str, opened: UUID, written: list[Written]) -> list[Written]:
        """The same samples under their second codes, now and then a level off."""
        look = next(c for c in plan_of(self.trial).checkpoints if c.key == checkpoint)
        found = []
        for repeat in repeats_at(self.trial, look):
            for one in [w for w in written if w.sample == repeat.sample_id and w.value is not None]:
                off = float(self.rng.choice([-1, 0, 0, 0, 1])) if one.outcome in ("fresh", "sprouted") else 0.0
                value = float(np.clip((one.value or 0.0) + off, 0, 5 if one.outcome == "fresh" else 20_000))
                found.append(replace(one, id=uuid4(), sample=repeat.pk, value=value))
        return found

    def photo(self, sent: bytes, shown: Shown, at: datetime) -> None:
        """Keep a picture as the scorer sends it."""
        person = self.lead if shown.outcome else self.scorer
        keep_photo(self.trial, person, uuid4(), shown, picture_in(sent), taken_at=at, at=at)


def _run(
    people: dict[str, User],
    planned: Plan,
    seed: str,
    sealed: datetime,
    started: datetime,
    blocks: tuple[str, ...] = (),
) -> _Stage:
    """Lead a trial from its plan to the start: of all samples at once, or of ``blocks`` (keys) one after the other."""
    lead, scorer = people[LEAD.email], people[SCORER.email]
    trial = plan.begin(lead, planned)
    for person, says in PREDICTIONS[planned.title].items():
        plan.predict(trial, people[person], says, at=sealed - timedelta(minutes=30))
    for helper, role in ((SCORER, Role.SCORER), (PREPARER, Role.PREPARER), (VIEWER, Role.VIEWER)):
        Membership.objects.create(trial=trial, user=people[helper.email], role=role)
    plan.seal(trial, lead, 1, at=sealed, seed=seed)
    Membership.objects.filter(trial=trial, user=lead).update(blind=True)
    trial.refresh_from_db()
    prepare.look_at_key(trial, people[PREPARER.email], at=sealed + timedelta(minutes=20))
    for entry in planned.held_equal:
        prepare.tick_held(trial, people[PREPARER.email], entry.key, at=started - timedelta(minutes=25))
    for i, block in enumerate(blocks or (None,)):
        prepare.start_exposure(
            trial,
            people[PREPARER.email],
            block=block,
            at=started + i * BETWEEN_BLOCKS,
            now=started + i * BETWEEN_BLOCKS,
        )
        trial.refresh_from_db()
    samples = {sample.code: sample for sample in samples_of(trial)}
    key = key_of(trial)
    by_code = {code: key[sample.pk] for code, sample in samples.items()}
    return _Stage(trial, lead, scorer, samples, by_code, np.random.default_rng(SEED))


def _seed(purpose: str) -> str:
    return "".join(f"{Draw(str(SEED), purpose + str(i)).below(2**32):08x}" for i in range(4))


def _order(stage: _Stage, purpose: str) -> list[str]:
    return Draw(str(SEED), purpose).shuffled(sorted(stage.samples))


def _dahlias(people: dict[str, User], now: datetime) -> None:
    started = (now - timedelta(days=6, hours=1)).replace(minute=10)
    stage = _run(people, DAHLIAS, _seed("dahlias"), started - timedelta(hours=23), started, ("porch", "kitchen"))
    _mixed_and_given(stage, people[PREPARER.email], started)
    fade = {"plain": 0.62, "house": 0.30, "stemkin": 0.46, "vaselode": 0.50}
    own = {code: stage.rng.normal(0, 0.35) for code in sorted(stage.samples)}

    def freshness(code: str, day: int) -> float:
        warm = 1.15 if stage.samples[code].block == "kitchen" else 0.8
        faded = fade[stage.treatment[code]] * day * warm
        return float(np.clip(np.round(5.2 - faded + own[code] + stage.rng.normal(0, 0.25)), 0, 5))

    dropped: set[str] = set()
    snapped = sorted(code for code, s in stage.samples.items() if s.block == "porch")[4]
    for day in range(1, 7):
        at = started + timedelta(days=day, minutes={1: 12, 2: 35, 3: -20, 4: 9 * 60 + 44, 5: 22, 6: 25}[day])
        order = [code for code in _order(stage, f"dahlias{day}") if day < 4 or code != snapped]
        if day == 6:
            order = order[:14]
            at = min(at, now - timedelta(minutes=9))
        readings = []
        for code in order:
            grade = freshness(code, day)
            dropped.update([code] if grade < 2 else [])
            readings += [(code, "fresh", grade), (code, "petals", float(code in dropped))]
            if day == 6:
                readings.append((code, "drunk", float(np.round(118 - 9 * (5 - grade) + stage.rng.normal(0, 6)))))
        stage.score(f"day{day}", at, readings)
        if day in (1, 2, 4, 5):
            # The lead, who is blind too, looks over a round now and then, and is a little kinder.
            second = [
                (code, "fresh", float(np.clip(grade + (stage.rng.random() < 0.3) - (stage.rng.random() < 0.1), 0, 5)))
                for code, outcome, grade in readings
                if outcome == "fresh"
            ]
            replace(stage, scorer=stage.lead).score(f"day{day}", at + timedelta(hours=1), second)
        _around(stage, f"day{day}", at, {code: grade for code, outcome, grade in readings if outcome == "fresh"})
        if day == 3:
            record_accident(
                stage.trial,
                stage.scorer,
                "dropped",
                [snapped],
                "exclude",
                "stem snapped when the vase was moved",
                since=at + timedelta(minutes=5),
                at=at + timedelta(minutes=15),
            )
        if day == 4:
            _cat(stage, snapped, at)
        if day == 5:
            fades = {code: grade for code, outcome, grade in readings if outcome == "fresh"}
            write_guesses(stage.trial, stage.scorer, _beliefs(stage, fades), at=at + timedelta(minutes=20))


def _around(stage: _Stage, look: str, at: datetime, grades: dict[str, float]) -> None:
    """What is noted beside a round of the dahlias: the air in both rooms, a photo of the bench, and two stems close by."""
    day = int(look[3:])
    for room, warm in (("porch", 11.5), ("kitchen", 19.0)):
        noted = {
            "temperature": float(np.round(warm + stage.rng.normal(0, 1.2), 1)),
            "humidity": float(np.round(58 + stage.rng.normal(0, 6))),
            "light": float(np.round(900 + 500 * stage.rng.random())),
        }
        note_conditions(stage.trial, stage.scorer, room, noted, at=at - timedelta(minutes=4))
    own = np.random.default_rng([SEED, day])
    light = pictures.LAMP if day == 4 else pictures.DAYLIGHT
    seen = [grades[code] for code in sorted(grades)]
    stage.photo(pictures.bench_of(seen, own, light), Shown(look), at - timedelta(minutes=2))
    if day in (1, 3, 4, 5):
        for code in sorted(grades)[:5]:
            shown = Shown(look, stage.samples[code].pk)
            stage.photo(pictures.dahlia(grades[code], own, light), shown, at + timedelta(minutes=1))
    if day == 1:
        for level in range(6):
            shown = Shown(outcome="fresh", level=float(level))
            stage.photo(pictures.dahlia(float(level), own), shown, at - timedelta(hours=3))


def _cat(stage: _Stage, snapped: str, at: datetime) -> None:
    """Something that befell two stems, which stay in, and a note with a photo of it."""
    porch = [code for code, sample in sorted(stage.samples.items()) if sample.block == "porch" and code != snapped]
    record_accident(
        stage.trial,
        stage.scorer,
        "eaten",
        porch[:2],
        "mark",
        "the cat drank from both vases in the night; topped up to the mark",
        since=at - timedelta(hours=5),
        at=at + timedelta(minutes=18),
    )
    words = "Scored by lamplight: the look was nine hours late, and it was dark by then."
    note = write_note(stage.trial, stage.scorer, words, at=at + timedelta(minutes=21))
    sent = pictures.dahlia(3, np.random.default_rng([SEED, 44]), pictures.LAMP)
    stage.photo(sent, Shown(note=note.pk, caption="The porch at six"), at + timedelta(minutes=22))


def _beliefs(stage: _Stage, grades: dict[str, float]) -> dict[UUID, str]:
    """What the scorer believes: that the limp ones got plain water, which is right for some."""
    said = {code: "control" if grade <= 1 else "treated" if grade >= 4 else "unknown" for code, grade in grades.items()}
    return {stage.samples[code].pk: belief for code, belief in said.items()}


def _mixed_and_given(stage: _Stage, preparer: User, started: datetime) -> None:
    """The mix sheet ticked, packs noted, and every stem given its dose, one of them too little."""
    trial = stage.trial
    for product, lot, opened in (("stemkin", "S 4471", 40), ("vaselode", "V 208", 12), ("lemon", "", 1)):
        mixing.note_pack(
            trial,
            preparer,
            product,
            lot,
            (started + timedelta(days=300)).date() if lot else None,
            (started - timedelta(days=opened)).date(),
            at=started - timedelta(hours=2),
        )
    steps = [step for mix in mix_sheet(DAHLIAS, tools_of(preparer)).mixes for step in mix.steps]
    for i, step in enumerate(steps):
        read = [caution.key for caution in mixing.cautions_of(step)]
        mixing.tick_step(trial, preparer, step.key, read, at=started - timedelta(minutes=90 - 2 * i))
    doses = {treatment.key: treatment.doses for treatment in DAHLIAS.treatments}
    short = next(code for code in sorted(stage.samples) if stage.treatment[code] == "stemkin")
    entries = [
        applying.Entry(
            uuid4(),
            code,
            dose.key if dose else "",
            "2.6 g" if code == short else "",
            "the scale slipped" if code == short else "",
        )
        for code in stage.samples
        for dose in (doses[stage.treatment[code]] or (None,))
    ]
    applying.write_applications(trial, preparer, entries, given_at=started - timedelta(minutes=8), now=started)


def _peas(people: dict[str, User], now: datetime) -> None:
    started = (now - timedelta(days=33)).replace(hour=8, minute=40)
    stage = _run(people, PEAS, _seed("peas"), started - timedelta(days=1), started)
    share = {
        "dry": {4: 0.16, 7: 0.42, 10: 0.64, 14: 0.74},
        "water": {4: 0.28, 7: 0.56, 10: 0.72, 14: 0.82},
        "tea": {4: 0.42, 7: 0.75, 10: 0.92, 14: 0.93},
    }
    came: dict[str, int] = dict.fromkeys(stage.samples, 0)
    luck = {code: stage.rng.random(20) for code in sorted(stage.samples)}

    def sprouted(code: str, day: int) -> float:
        bench = 0.03 if stage.samples[code].block == "south" else -0.02
        came[code] = max(came[code], int((luck[code] < share[stage.treatment[code]][day] + bench).sum()))
        return float(came[code])

    knocked = next(code for code in sorted(stage.samples) if stage.treatment[code] == "dry")
    for day in (4, 7, 10, 14):
        at = started + timedelta(days=day, minutes={4: 30, 7: 95, 10: 15, 14: 50}[day])
        order = [code for code in _order(stage, f"peas{day}") if day < 14 or code != knocked]
        counts = [(code, "sprouted", sprouted(code, day)) for code in order]
        odd = next(i for i, (code, _, _) in enumerate(counts) if code != knocked)
        if day == 10:
            code, outcome, true = counts[odd]
            counts[odd] = (code, outcome, max(0.0, true - 9))
        # The phone was flat on day 7: counted on a printed sheet, and typed in later.
        stage.score(f"day{day}", at, counts, source="paper" if day == 7 else "typed")
        if day == 10:
            stage.score(
                f"day{day}",
                at + timedelta(minutes=12),
                [(code, outcome, true)],
                reason="counted again: a row was missed",
            )
            record_accident(
                stage.trial,
                stage.scorer,
                "dropped",
                [knocked],
                "exclude",
                "tray knocked over by the cat",
                since=at + timedelta(hours=4),
                at=at + timedelta(hours=5),
            )
        _bench(stage, day, at, {code: value for code, _, value in counts})
    opened = started + timedelta(days=14, hours=10)
    verdict.ask_to_open(stage.trial, stage.lead, at=opened - timedelta(minutes=1))
    verdict.open_key(stage.trial, stage.lead, PEAS.title, at=opened)


def _bench(stage: _Stage, day: int, at: datetime, came: dict[str, float]) -> None:
    """What is noted beside a round of the peas: the weather on both benches, and photos of some trays."""
    own = np.random.default_rng([SEED, 100 + day])
    for bench, warm in (("south", 14.5), ("north", 11.0)):
        noted = {
            "temperature": float(np.round(warm + own.normal(0, 1.5), 1)),
            "rain": float(np.round(max(0.0, own.normal(1, 2)), 1)),
        }
        note_conditions(stage.trial, stage.scorer, bench, noted, at=at - timedelta(minutes=6))
    for code in sorted(came)[:4]:
        shown = Shown(f"day{day}", stage.samples[code].pk)
        stage.photo(pictures.tray(int(came[code]), own), shown, at + timedelta(minutes=2))
    if day == 14:
        guess = {
            code: "treated" if value >= 17 else "control" if value <= 13 else "unknown" for code, value in came.items()
        }
        beliefs = {stage.samples[code].pk: belief for code, belief in guess.items()}
        write_guesses(stage.trial, stage.scorer, beliefs, at=at + timedelta(minutes=30))


def _season(stage: _Stage, started: datetime, at: datetime) -> None:
    """What befell the twines over a season: the weather, a mouse, a gauge that was dropped, and how they looked at the end."""
    own = np.random.default_rng([SEED, 200])
    for week in range(0, 20, 2):
        for place, warm in (("sun", 5.0), ("shade", 0.0)):
            noted = {
                "temperature": float(np.round(9 + 0.6 * week + warm + own.normal(0, 2), 1)),
                "rain": float(np.round(max(0.0, own.normal(14, 9)), 1)) if place == "sun" else None,
            }
            note_conditions(stage.trial, stage.scorer, place, noted, at=started + timedelta(weeks=week, hours=3))
    gnawed = sorted(code for code, sample in stage.samples.items() if sample.block == "shade")[:2]
    record_accident(
        stage.trial,
        stage.scorer,
        "eaten",
        gnawed,
        "mark",
        "a mouse gnawed the knots; the lengths between them are whole",
        since=started + timedelta(weeks=11),
        at=started + timedelta(weeks=11, hours=2),
    )
    give_up_method(
        stage.trial,
        stage.lead,
        "stretch",
        "the gauge was dropped, and a new one is used at the end",
        since=started + timedelta(weeks=15),
        at=started + timedelta(weeks=15, hours=1),
    )
    for code in sorted(stage.samples)[:6]:
        shown = Shown("end", stage.samples[code].pk)
        worn = 0.35 + (0.45 if stage.samples[code].block == "sun" else 0.1)
        stage.photo(pictures.twine(worn, own), shown, at - timedelta(minutes=8))
    stage.photo(pictures.twine(0.5, own), Shown("end"), at - timedelta(minutes=9))


def _twines(people: dict[str, User], now: datetime) -> None:
    started = (now - timedelta(days=20 * 7 + 12)).replace(hour=9, minute=30)
    stage = _run(people, TWINES, _seed("twines"), started - timedelta(days=2), started)
    holds = {
        "jute": {"sun": 6.0, "shade": 8.5},
        "hemp": {"sun": 15.5, "shade": 24.5},
        "cotton": {"sun": 10.5, "shade": 13.0},
        "poly": {"sun": 23.5, "shade": 18.5},
    }
    gives = {"jute": 2.1, "hemp": 1.2, "cotton": 4.4, "poly": 6.3}
    ladder, curves = TWINES.outcomes[0].scale, TWINES.outcomes[1].scale
    assert isinstance(ladder, LadderScale) and isinstance(curves, CurveScale)
    at = started + timedelta(days=20 * 7, minutes=40)
    readings: list[tuple[str, str, float | tuple[float, ...]]] = []
    for code in _order(stage, "twines"):
        sample, treatment = stage.samples[code], stage.treatment[code]
        load = holds[treatment][sample.block] + stage.rng.normal(0, 2.2)
        held = max((step for step in ladder.steps if step <= load), default=0.0)
        give = gives[treatment] * (1 + stage.rng.normal(0, 0.1))
        curve = tuple(float(np.round(give * step + max(0.0, stage.rng.normal(0, 0.15)), 1)) for step in curves.steps)
        readings += [(code, "stretch", curve), (code, "load", float(held))]
    _season(stage, started, at)
    stage.score("end", at, readings)
    opened = started + timedelta(days=20 * 7, hours=9)
    verdict.ask_to_open(stage.trial, stage.lead, at=opened - timedelta(minutes=1))
    verdict.open_key(stage.trial, stage.lead, TWINES.title, at=opened)


def _drafts(lead: User, now: datetime) -> None:
    pens = plan.begin(lead, PENS)
    plan.predict(pens, lead, "Pencil outlasts them all.", at=now - timedelta(days=1))


def _gherkins(people: dict[str, User], now: datetime) -> None:
    started = (now - timedelta(weeks=12, days=9)).replace(hour=10, minute=0)
    stage = _run(people, GHERKINS, _seed("gherkins"), started - timedelta(days=1), started)
    firm = {"plain": 2.1, "vine": 3.2, "oak": 2.9, "tea": 2.6}
    own = {code: stage.rng.normal(0, 0.3) for code in sorted(stage.samples)}
    for checkpoint, weeks, lost in (("opened", 6, 0.0), ("later", 12, 0.4)):
        at = started + timedelta(weeks=weeks, hours=3)
        readings: list[tuple[str, str, float | tuple[float, ...] | str]] = []
        for code in _order(stage, f"gherkins{weeks}"):
            crunch = firm[stage.treatment[code]] - lost + own[code] + stage.rng.normal(0, 0.25)
            smell = 3.4 - (0.5 if stage.treatment[code] == "tea" else 0) + stage.rng.normal(0, 0.5)
            readings += [
                (code, "crunch", float(np.clip(np.round(crunch * 2) / 2, 0, 4))),
                (code, "smell", float(np.clip(np.round(smell), 0, 4))),
                (code, "words", JAR_WORDS[int(np.clip(np.round(crunch), 0, 4))]),
            ]
        stage.score(checkpoint, at, readings)
    evening = started + timedelta(weeks=12, days=1, hours=8)
    rng = np.random.default_rng([SEED, 24])
    panel_held(stage.trial, stage.lead, LEAF_OR_NONE, evening, _seed("leaf"), rng)
    panel_held(stage.trial, stage.lead, WHICH_JAR, evening + timedelta(hours=1, minutes=30), _seed("jars"), rng)
    opened = evening + timedelta(days=1)
    verdict.ask_to_open(stage.trial, stage.lead, at=opened - timedelta(minutes=1))
    verdict.open_key(stage.trial, stage.lead, GHERKINS.title, at=opened)


def _marigolds(people: dict[str, User], now: datetime) -> None:
    started = (now - timedelta(days=14, hours=3)).replace(minute=20)
    stage = _run(people, MARIGOLDS, _seed("marigolds"), started - timedelta(days=1), started)
    measured_by_photo(stage.trial, stage.lead, stage.scorer, stage.samples, stage.treatment, started)
    ready = started + timedelta(days=14, hours=1)
    fresh = by_eye(dict.fromkeys(stage.treatment, "fresh"), stage.rng)
    stage.score("fresh", started - timedelta(hours=3), [(code, "eye", fresh[code]) for code in sorted(fresh)])
    eye = by_eye(stage.treatment, stage.rng)
    stage.score("day14", ready, [(code, "eye", eye[code]) for code in _order(stage, "marigolds")])
