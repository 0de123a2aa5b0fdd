"""The plan of a trial, as the records that every layer passes on.

These are the shapes of the plan document: a draft is one, the seal is taken over one, a trial pack carries one.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import asdict, dataclass, field, replace
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import AliasChoices, Field

from fieldtally.core.design.blackout import SHORTEST_PART, telling_parts
from fieldtally.core.quantities.nouns import Noun, noun
from fieldtally.core.quantities.units import System
from fieldtally.core.scales import NoteScale, Scale

TreatmentKind = Literal["treatment", "untreated", "placebo", "standard", "reference"]
CONTROL_KINDS: tuple[TreatmentKind, ...] = ("untreated", "placebo", "standard", "reference")
Purpose = Literal["fast", "lasting", "cheap", "gentle"]
LayoutKind = Literal["random", "blocks", "latin", "split", "pairs"]
DoseWay = Literal["label", "pack", "active", "parts", "strength", "amount"]


MOST_REPEATED = 0.5
"""The largest share of samples that may come back under a second code."""


@dataclass(frozen=True)
class FactorLevel:
    """One setting of a factor."""

    key: str
    name: str


@dataclass(frozen=True)
class Factor:
    """Something that is varied on purpose, in ``levels``.  ``hard``: too hard to change from sample to sample, so it is
    given to whole plots in a split plot."""

    key: str
    name: str
    levels: tuple[FactorLevel, ...] = ()
    hard: bool = False


@dataclass(frozen=True)
class Product:
    """Something that doses are taken from.  Amounts are as people write them.

    ``active`` names its active ingredient and ``share`` how much of the product that is (``34 %``); a ``pack`` holds so much
    (``400 mL``) and costs ``price``; once opened it keeps for ``keeps_open`` days.
    """

    key: str
    name: str
    active: str = ""
    share: str = ""
    pack: str = ""
    price: float | None = None
    keeps_open: int | None = None


@dataclass(frozen=True)
class Dose:
    """What a treatment gives to each sample of one ``product`` (key), ``times`` in the whole trial.

    ``rate`` is as people write it, and ``way`` says what it is:

    ============  ==================================================  ==========================
    ``label``     so much product for so much of a sample             ``4 mL/L``
    ``pack``      what a pack treats                                  ``400 mL treats 80 L``
    ``active``    so much active ingredient for so much of a sample   ``0.4 lb/1000 ft2``
    ``parts``     parts of one thing to parts of another              ``15:1 water to product``
    ``strength``  the strength wanted in the sample                   ``10 %``
    ``amount``    the same for each sample, whatever its size         ``3 g``
    ============  ==================================================  ==========================

    It is measured with ``tool`` (``5 mL by 0.2 mL``; empty: the best at hand), or from a ``stock`` solution made with that.

    Doses of a treatment are steps in their order: each is given in ``water`` (``200 mL``; empty: as it is) in a ``vessel`` (empty: where
    the sample is), left for ``minutes``, rinsed off with ``rinse`` and looked at (``check``: no bubbles any more) before the next.
    """

    key: str
    product: str
    way: DoseWay = "label"
    rate: str = ""
    tool: str = ""
    stock: bool = False
    times: int = 1
    vessel: str = ""
    water: str = ""
    minutes: float | None = None
    rinse: str = ""
    check: str = ""


@dataclass(frozen=True)
class Group:
    """Treatments that belong together (chemicals, sauces): what could hurt somebody with any of them (``hazards``), and what tools and
    vessels are cleaned with between two of them (``cleaning``; empty: as the plan says)."""

    key: str
    name: str
    hazards: str = ""
    cleaning: str = ""


@dataclass(frozen=True)
class Some:
    """Some of the samples; all of them where nothing is named.

    Those of ``treatments`` (keys) or of ``groups`` (keys) of treatments, that stand in one of ``blocks`` (keys) and are of one of the
    ``kinds`` (names): what is not named at all leaves nothing out.
    """

    treatments: tuple[str, ...] = ()
    groups: tuple[str, ...] = ()
    blocks: tuple[str, ...] = ()
    kinds: tuple[str, ...] = ()

    def __bool__(self) -> bool:
        return bool(self.treatments or self.groups or self.blocks or self.kinds)


@dataclass(frozen=True)
class Done:
    """A sample is done once it reads ``at``, or what lies beyond it (``side``): from the next look on nothing is asked of it."""

    at: float
    side: Literal["or more", "or less"] = "or more"

    def holds(self, value: float) -> bool:
        """Whether a sample that reads ``value`` is done."""
        return value >= self.at if self.side == "or more" else value <= self.at


@dataclass(frozen=True)
class SharedCost:
    """Something bought once for the whole trial (a sheet, a tank, a tin): ``money`` that the samples of ``treatments`` (keys; empty: all)
    share alike; None while its price is not known."""

    key: str
    what: str
    money: float | None = None
    treatments: tuple[str, ...] = ()


@dataclass(frozen=True)
class Outside:
    """Something outside the trial that what is compared is set beside (a bought bunch, the shop's own): its price in the plan's money for
    as much as one sample takes; None while that is not known."""

    key: str
    name: str
    money: float | None = None


@dataclass(frozen=True)
class Treatment:
    """What is compared.  What ``samples`` counts follows from the layout, see :class:`Layout`.

    ``levels`` gives a level (key) for each factor (key) where treatments are made from factors.  ``changes`` names all
    that this treatment changes at once where it is a ``package``; ``cost`` is the money that one sample of it takes.
    ``doses`` are given in this order.  Treatments mixed or used in the same ``vessel`` (a name) meet there; empty: its own.
    It belongs to a ``group`` (key; empty: to none).
    """

    key: str
    name: str
    kind: TreatmentKind = "treatment"
    samples: int = 4
    note: str = ""
    levels: dict[str, str] = field(default_factory=dict)
    package: bool = False
    changes: str = ""
    cost: float | None = None
    doses: tuple[Dose, ...] = ()
    vessel: str = ""
    group: str = ""
    holds: float | None = None
    """Where instruments are held against each other: how much is really in it, in the unit of the :class:`AgreementAsked`; 0 is a blank."""
    other_substance: bool = False
    """It holds another substance instead, which none of them should react to."""

    @property
    def is_control(self) -> bool:
        """Whether this is a control of some kind."""
        return self.kind in CONTROL_KINDS


@dataclass(frozen=True)
class HeldEqual:
    """Something kept the same for all samples, and its setting (vessel: jam jar, 300 mL)."""

    key: str
    what: str
    setting: str = ""


@dataclass(frozen=True)
class Added:
    """What an amendment put beside what had been drawn: at which moment (``at``, UTC, ISO 8601), and how many samples of each treatment
    (key)."""

    samples: dict[str, int] = field(default_factory=dict)
    at: str = ""


@dataclass(frozen=True)
class Block:
    """A nuisance grouping: treatments are compared inside it.  Its samples start ``starts`` minutes after the first.

    One that was ``added`` by an amendment has numbers of its own and starts by itself.  Where there were no blocks before, all that was
    drawn first is then the block without a key.
    """

    key: str
    name: str
    note: str = ""
    starts: int = 0
    added: Added | None = None


@dataclass(frozen=True)
class Grid:
    """Places in ``rows`` × ``columns``, one such grid for each block.

    ``guard_columns`` and ``guard_rows`` leave a guard place between neighbours in a row, and a guard row between rows;
    ``edge`` says what becomes of the outermost places: ``used`` like all others, ``guarded`` (left to guards), or
    ``shared`` (used, and every treatment gets its share of them).
    """

    rows: int
    columns: int
    guard_columns: bool = False
    guard_rows: bool = False
    edge: Literal["used", "guarded", "shared"] = "used"


@dataclass(frozen=True)
class Layout:
    """How treatments are put on samples, and so what ``samples`` of a treatment counts:

    ==========  ====================================================================  ===========================
    ``random``  over all places alike                                                 samples in all
    ``blocks``  each treatment in each of ``blocks``                                  samples in each block
    ``latin``   once in each row and each column of a square; several squares if      samples in all: the number
                there are more samples                                                of treatments, or twice …
    ``split``   the levels of the hard factor on ``whole_plots`` whole plots each     samples in each whole plot
                (in each block, where there are blocks), the rest inside these
    ``pairs``   one of two treatments on each half of a pair                          pairs
    ==========  ====================================================================  ===========================

    ``stagger`` is the time in minutes from one sample's start of exposure to the next one's.
    """

    kind: LayoutKind = "random"
    blocks: tuple[Block, ...] = ()
    whole_plots: int = 2
    row_word: str = "row"
    column_word: str = "column"
    plot_word: str = "plot"
    grid: Grid | None = None
    stagger: int = 0

    @property
    def in_blocks(self) -> bool:
        """Whether the layout has blocks: always in ``blocks``, and in ``split`` where any are named."""
        return self.kind == "blocks" or (self.kind == "split" and bool(self.blocks))


@dataclass(frozen=True)
class Given:
    """A sample of a trial that has begun, where it stands: its ``block`` (key; empty where there are none), its square, whole plot or pair
    (``plot``), its ``row`` and ``column``, all from 1, and its ``treatment`` (key).  ``name`` is what it is called in the notebook; it
    ``started`` at a local day and hour of its own (``2027-03-01T09:00``), or with all others (empty)."""

    treatment: str
    block: str = ""
    plot: int | None = None
    row: int | None = None
    column: int | None = None
    name: str = ""
    started: str = ""


@dataclass(frozen=True)
class Begun:
    """What was done before the plan was written: exposure began ``on`` a local day and hour, the ``samples`` stand where they do, block by
    block and place by place.

    ``placed`` says whether they were put there by some lot (``drawn``) or by ``hand``, and ``how`` tells it in words; ``taken`` names the
    looks (keys) that were already taken.
    """

    on: str
    placed: Literal["drawn", "hand"] = "hand"
    how: str = ""
    taken: tuple[str, ...] = ()
    samples: tuple[Given, ...] = ()


@dataclass(frozen=True)
class Checkpoint:
    """A planned look.  ``offset`` from the start of exposure and its window before and after, all in minutes.

    ``clock`` (minutes after midnight, local) sets the hour of a look that comes on a day rather than after so many hours.
    ``cycle`` is the number of cycles (washes, firings, uses) after which a look comes; its ``offset`` is then only about
    when that will be.  ``baseline``: before the exposure starts.  ``stage`` names the part of a look taken in several
    parts (before cleaning, after cleaning), in the order of the plan.  ``unplanned``: taken though nobody had planned it,
    and added while the trial ran.  ``only`` some samples are looked at then.
    """

    key: str
    name: str
    offset: int
    before: int = 0
    after: int = 0
    clock: int | None = None
    cycle: int | None = None
    baseline: bool = False
    stage: str = ""
    unplanned: bool = False
    only: Some = Some()


@dataclass(frozen=True)
class CycleSetting:
    """Something that is set for each cycle, and to what (temperature: ``40 °C``; hold: ``1 h``)."""

    key: str
    what: str
    planned: str = ""


@dataclass(frozen=True)
class StartValues:
    """What each sample measured before treatments were allocated, in the order of their places, block by block.

    ``what`` was measured in ``unit``; None where nothing was.  ``balance``: the allocation is chosen so that treatments begin
    alike on it.
    """

    what: str = ""
    unit: str = ""
    values: tuple[float | None, ...] = ()
    balance: bool = False


@dataclass(frozen=True)
class EndingRule:
    """When the trial ends: at its last look (``fixed``), or sooner: once ``outcome`` (key) has ``levelled`` off, or once
    ``all`` or ``half`` of the samples have failed on it."""

    kind: Literal["fixed", "levelled", "all", "half"] = "fixed"
    outcome: str | None = None


@dataclass(frozen=True)
class Summary:
    """The one number a sample gives: its ``value`` at a checkpoint, its ``change`` or ``percent`` change from a baseline checkpoint, the
    ``area`` under the series for each day (its mean over time), its ``slope`` a day, or the time until it crosses a ``threshold``.

    ``checkpoint`` None means the last one at which the outcome is looked at; ``baseline`` None the first.
    """

    kind: Literal["value", "change", "percent", "area", "slope", "threshold"] = "value"
    checkpoint: str | None = None
    baseline: str | None = None
    threshold: float | None = None


@dataclass(frozen=True)
class Proof:
    """Readings that prove a measuring method before it is used, all in the scale's unit.

    ``blanks`` of something that should read nothing; ``known_readings`` of something known to be ``known``; ``repeats``,
    several readings of each of several things by the same hand.
    """

    blanks: tuple[float, ...] = ()
    known: float | None = None
    known_readings: tuple[float, ...] = ()
    repeats: tuple[tuple[float, ...], ...] = ()


@dataclass(frozen=True)
class Outcome:
    """What is looked at.  In the scale's unit (for pass or fail: shares from 0 to 1): ``margin`` is the smallest
    difference that matters, ``expected`` the lead hoped for in the best treatment, ``spread`` the standard deviation
    expected between samples treated alike, ``between`` that between blocks.

    ``margin_unit`` is the unit the margin was given in; ``weight`` its weight in the tally; ``group`` names attributes
    that are looked at together.  ``better`` none: it is told, and nobody wins on it.  ``retest`` says what counts where one scorer
    read a sample more than once at a look: the ``median`` of all, their ``mean``, or the ``last``.  ``wait`` minutes pass between
    beginning with a sample and reading it, after which ``wait_says`` what is done (tilt it, then look).  ``only`` some
    samples are read on it, and one is ``done`` once it reads so much.
    """

    key: str
    name: str
    scale: Scale
    better: Literal["more", "less", "target", "none"] = "more"
    target: float | None = None
    margin: float | None = None
    margin_unit: str = ""
    expected: float | None = None
    spread: float | None = None
    between: float | None = None
    weight: float = 1.0
    primary: bool = True
    group: str = ""
    summary: Summary = Summary()
    retest: Literal["median", "mean", "last"] = "median"
    wait: float | None = None
    wait_says: str = ""
    practised: bool = False
    """Only who has shown in practice that they are ready scores it by eye."""
    checkpoints: tuple[str, ...] = ()
    """Keys of the checkpoints at which it is looked at; empty means at all of them."""
    proof: Proof = Proof()
    only: Some = Some()
    done: Done | None = None
    rare: float | None = None
    """Of what passes or fails: the share (0 to 1) of failures that is looked for, where they are rare."""

    @property
    def compared(self) -> bool:
        """Whether it has numbers to compare."""
        return not isinstance(self.scale, NoteScale)


@dataclass(frozen=True)
class AgreementAsked:
    """What is asked is whether instruments, kits and eyes agree: each outcome is one of them, and all read the same samples.

    They are told in ``unit`` (empty: that of the first that has one).  At ``limit`` and above a sample fails; from ``alarm`` on one says
    that there is something (None: from the limit on, or anything above 0).
    """

    unit: str = ""
    limit: float | None = None
    alarm: float | None = None


@dataclass(frozen=True)
class Stand:
    """Where a person stands on an item of the fairness list: kept, or given up for a ``reason``."""

    item: str
    kept: bool
    reason: str = ""


@dataclass(frozen=True)
class Earlier:
    """The trial that this one was begun from, the weaknesses to do better this time, and what its verdict ``found``: a sentence for each
    outcome that carried its claim."""

    title: str
    weaknesses: tuple[str, ...] = ()
    found: tuple[str, ...] = ()


@dataclass(frozen=True)
class Plan:
    """One comparison, as planned.

    ``decision`` is what the answer would change; ``hazards`` what could hurt someone; ``school`` whether each product is
    used as its label says or all by the same procedure; ``sample_word`` is what one sample is called and ``sample_words`` several of
    them (empty: by rule); ``pieces`` of ``piece_word`` in one sample, which share its
    treatment; ``starts_on`` the local day and hour meant for the start (``2027-03-01T09:00``); ``cycle_minutes`` how long
    one cycle (``cycle_word``) takes, about, and ``cycle_settings`` how each is set; ``money`` the currency, ``sample_cost`` what
    one sample costs apart from its treatment, ``shared_costs`` what is bought once for many, ``outside`` what costs are set beside.

    Of doses: ``system`` says whose gallons and spoons are meant; ``sample_size`` is what rates are multiplied by (``400 mL``),
    ``carrier`` what doses are given in (tap water) and ``top_up`` whether samples with a smaller dose get as much more of it;
    ``mixing`` whether each sample is dosed by itself or from one batch with ``overage`` (0.1: a tenth more); ``cleaning`` what
    tools and vessels are cleaned with between treatments.

    ``interim`` names the checkpoints (keys) after which it may be asked whether the answer is clear already; they share the level
    ``alpha`` with the end.

    ``begun``: it is no plan of what will be, exposure runs already.

    Of scoring: ``repeats`` is the share of samples that come back in the same round under a second code (0: none);
    ``show_previous`` shows a scorer what they gave at the look before.

    ``groups`` are those of treatments.  ``kinds`` of sample (one bolt for the pull, one for the twist) are dealt in turn to the samples of
    each treatment in each block, so that each has its share of every kind (none: all samples are alike).

    ``agreement``: its outcomes are instruments that are held against each other, and no treatment wins.

    ``tasting``: it is a tasting by itself.  Its treatments are what is put before people, without samples; it has panels and no looks.
    """

    title: str
    question: str = ""
    why: str = ""
    decision: str = ""
    hazards: str = ""
    purpose: Purpose | None = None
    school: Literal["label", "same"] | None = None
    sample_word: str = "sample"
    sample_words: str = ""
    pieces: int = 1
    piece_word: str = ""
    zone: str = "UTC"
    starts_on: str | None = None
    factors: tuple[Factor, ...] = ()
    treatments: tuple[Treatment, ...] = ()
    groups: tuple[Group, ...] = ()
    kinds: tuple[str, ...] = ()
    system: System = "metric"
    sample_size: str = ""
    carrier: str = ""
    top_up: bool = False
    mixing: Literal["each", "batch"] = "each"
    overage: float = 0.1
    cleaning: str = ""
    products: tuple[Product, ...] = ()
    start_values: StartValues = StartValues()
    held_equal: tuple[HeldEqual, ...] = ()
    layout: Layout = Layout()
    outcomes: tuple[Outcome, ...] = ()
    checkpoints: tuple[Checkpoint, ...] = ()
    cycle_word: str = ""
    cycle_minutes: int | None = None
    cycle_settings: tuple[CycleSetting, ...] = ()
    ending: Annotated[EndingRule, Field(validation_alias=AliasChoices("ending", "stop"))] = EndingRule()
    fairness: tuple[Stand, ...] = ()
    alpha: float = 0.05
    compare: Literal["all", "control"] = "all"
    interim: tuple[str, ...] = ()
    repeats: float = 0.0
    show_previous: bool = False
    money: str = "£"
    sample_cost: float | None = None
    shared_costs: tuple[SharedCost, ...] = ()
    outside: tuple[Outside, ...] = ()
    earlier: Earlier | None = None
    tasting: bool = False
    begun: Begun | None = None
    agreement: AgreementAsked | None = None

    @property
    def sample(self) -> Noun:
        """What a sample is called, by one and by several: as a person gave it, or by rule."""
        return noun(self.sample_word, self.sample_words)

    @property
    def level(self) -> float:
        """The level at which the end is judged, and each interim look: their share of ``alpha``."""
        return self.alpha / (1 + len(self.interim))

    @property
    def added_blocks(self) -> tuple[Block, ...]:
        """The blocks that amendments added, in order."""
        return tuple(block for block in self.layout.blocks if block.added is not None) if self.layout.in_blocks else ()

    @property
    def first_drawn(self) -> Plan:
        """The plan without the samples that were added later, and without the treatments that only these have."""
        if not self.added_blocks:
            return self
        first = tuple(block for block in self.layout.blocks if block.added is None)
        layout = replace(self.layout, blocks=first)
        if [block.key for block in first] == [""]:
            layout = replace(layout, kind="random", blocks=())
        had = {one.treatment for one in self.begun.samples} if self.begun is not None else set()
        kept = tuple(one for one in self.treatments if one.samples > 0 or one.key in had)
        return replace(self, layout=layout, treatments=kept)

    @property
    def added_later(self) -> tuple[Treatment, ...]:
        """The treatments that only samples have which were added later."""
        first = {treatment.key for treatment in self.first_drawn.treatments}
        return tuple(treatment for treatment in self.treatments if treatment.key not in first)

    @property
    def block_count(self) -> int:
        """How many blocks there are; one where the layout has none."""
        return len(self.layout.blocks) if self.layout.in_blocks else 1

    @cached_property
    def telling_names(self) -> list[str]:
        """Every name that would tell a blind person what is compared: of treatments and their groups, of the products they dose and what
        acts in these, of the levels that factors have, and the words of these names that tell one by themselves."""
        treatments, products = [one.name for one in self.treatments], [one.name for one in self.products]
        levels = [
            level.name for factor in self.factors for level in factor.levels if len(level.name.strip()) >= SHORTEST_PART
        ]
        active = [product.active for product in self.products]
        groups = [group.name for group in self.groups if len(group.name.strip()) >= SHORTEST_PART]
        return [
            *treatments,
            *products,
            *levels,
            *active,
            *groups,
            *telling_parts(treatments, products, self._read_by_all()),
        ]

    def _read_by_all(self) -> Iterator[str]:
        """What every scorer reads: words that stand in it tell nothing."""
        yield from (
            self.sample_word,
            self.sample_words,
            self.piece_word,
            self.cycle_word,
            self.carrier,
            self.sample_size,
            *self.kinds,
        )
        yield from (block.name for block in self.layout.blocks)
        for checkpoint in self.checkpoints:
            yield from (checkpoint.name, checkpoint.stage)
        for outcome in self.outcomes:
            yield from (outcome.name, outcome.group)
            yield from _texts_in(asdict(outcome.scale))

    @property
    def product_named(self) -> dict[str, Product]:
        """Products by key."""
        return {product.key: product for product in self.products}

    @property
    def hard_factor(self) -> Factor | None:
        """The factor that is given to whole plots."""
        return next((factor for factor in self.factors if factor.hard), None)

    def counts_in(self, block: str | None) -> dict[str, int]:
        """How many samples of each treatment (key) there are in ``block`` (key; None where there are no blocks): as many in each, or of a
        trial that has begun, as stand there."""
        added = next((one.added for one in self.added_blocks if one.key == block), None)
        if added is not None:
            return {treatment.key: added.samples.get(treatment.key, 0) for treatment in self.treatments}
        if self.begun is not None and self.begun.samples:
            there = Counter(one.treatment for one in self.begun.samples if block is None or one.block == block)
            return {treatment.key: there[treatment.key] for treatment in self.treatments}
        return {treatment.key: treatment.samples for treatment in self.treatments}

    def per_treatment(self, treatment: Treatment) -> int:
        """How many samples of ``treatment`` there are in all."""
        more = sum(self.counts_in(block.key)[treatment.key] for block in self.added_blocks)
        if self.begun is not None and self.begun.samples:
            return self.counts_in(None)[treatment.key] + more
        match self.layout.kind:
            case "blocks":
                return treatment.samples * (self.block_count - len(self.added_blocks)) + more
            case "split":
                return treatment.samples * max(0, self.layout.whole_plots) * self.block_count
            case _:
                return treatment.samples

    @property
    def sample_count(self) -> int:
        """How many samples the plan needs in all."""
        return sum(self.per_treatment(treatment) for treatment in self.treatments)

    @property
    def control(self) -> Treatment | None:
        """The first control, if any."""
        return next((treatment for treatment in self.treatments if treatment.is_control), None)

    def looked_at(self, outcome: Outcome) -> tuple[Checkpoint, ...]:
        """The checkpoints at which ``outcome`` is looked at, in order of time; parts of one look keep the plan's order."""
        wanted = set(outcome.checkpoints) or {checkpoint.key for checkpoint in self.checkpoints}
        return tuple(c for c in self.in_time if c.key in wanted)

    def noted_before(self, checkpoint: str) -> bool:
        """Whether that look (key) was taken before the plan was sealed, and stands in a notebook."""
        return self.begun is not None and checkpoint in self.begun.taken

    def judged_at(self, outcome: Outcome) -> str | None:
        """The look (key) by which ``outcome`` is judged: the one its summary names, else the last planned one."""
        looked_at = [c.key for c in self.looked_at(outcome) if not c.unplanned]
        return outcome.summary.checkpoint or (looked_at[-1] if looked_at else None)

    @property
    def in_time(self) -> tuple[Checkpoint, ...]:
        """All checkpoints in order of time, a baseline first."""
        return tuple(sorted(self.checkpoints, key=lambda c: (not c.baseline, c.offset)))


def _texts_in(document: Any) -> Iterator[str]:
    """All texts of a document of dictionaries and lists."""
    if isinstance(document, str):
        yield document
    elif isinstance(document, dict):
        for value in document.values():
            yield from _texts_in(value)
    elif isinstance(document, list | tuple):
        for value in document:
            yield from _texts_in(value)
