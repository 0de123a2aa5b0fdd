"""The plan of a trial, as the records that every layer passes on.

These are the shapes of the plan document: a draft is one, the seal is taken over one, a trial pack carries one.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from fieldtally.core.scales import Scale

TreatmentKind = Literal["treatment", "untreated", "placebo", "standard", "reference"]
CONTROL_KINDS: tuple[TreatmentKind, ...] = ("untreated", "placebo", "standard", "reference")


@dataclass(frozen=True)
class Treatment:
    """What is compared.  ``samples`` is the number in each block, or in all where there are no blocks."""

    key: str
    name: str
    kind: TreatmentKind = "treatment"
    samples: int = 4
    note: str = ""

    @property
    def is_control(self) -> bool:
        """Whether this is a control of some kind."""
        return self.kind in CONTROL_KINDS


@dataclass(frozen=True)
class Block:
    """A nuisance grouping: treatments are compared inside it."""

    key: str
    name: str
    note: str = ""


@dataclass(frozen=True)
class Layout:
    """How treatments are put on samples: ``random`` over all, or ``blocks`` with each treatment in each block."""

    kind: Literal["random", "blocks"] = "random"
    blocks: tuple[Block, ...] = ()


@dataclass(frozen=True)
class Checkpoint:
    """A planned look.  ``offset`` from the start of exposure and its window before and after, all in minutes."""

    key: str
    name: str
    offset: int
    before: int = 0
    after: int = 0


@dataclass(frozen=True)
class Summary:
    """The one number a sample gives: its ``value`` at a checkpoint, or its ``change`` from a baseline checkpoint.

    ``checkpoint`` None means the last one at which the outcome is looked at; ``baseline`` None the first.
    """

    kind: Literal["value", "change"] = "value"
    checkpoint: str | None = None
    baseline: str | None = None


@dataclass(frozen=True)
class Outcome:
    """What is looked at.  In the scale's unit (for pass or fail: shares from 0 to 1): ``margin`` is the smallest
    difference that matters, ``expected`` the lead hoped for in the best treatment, ``spread`` the standard deviation
    expected between samples treated alike."""

    key: str
    name: str
    scale: Scale
    better: Literal["more", "less", "target"] = "more"
    target: float | None = None
    margin: float | None = None
    expected: float | None = None
    spread: float | None = None
    primary: bool = True
    summary: Summary = Summary()
    checkpoints: tuple[str, ...] = ()
    """Keys of the checkpoints at which it is looked at; empty means at all of them."""


@dataclass(frozen=True)
class Plan:
    """One comparison, as planned."""

    title: str
    question: str = ""
    prediction: str = ""
    sample_word: str = "sample"
    zone: str = "UTC"
    treatments: tuple[Treatment, ...] = ()
    layout: Layout = Layout()
    outcomes: tuple[Outcome, ...] = ()
    checkpoints: tuple[Checkpoint, ...] = ()
    alpha: float = 0.05
    compare: Literal["all", "control"] = "all"

    @property
    def block_count(self) -> int:
        """How many blocks there are; one where the layout has none."""
        return len(self.layout.blocks) if self.layout.kind == "blocks" else 1

    @property
    def sample_count(self) -> int:
        """How many samples the plan needs in all."""
        return sum(treatment.samples for treatment in self.treatments) * self.block_count

    @property
    def control(self) -> Treatment | None:
        """The first control, if any."""
        return next((treatment for treatment in self.treatments if treatment.is_control), None)

    def looked_at(self, outcome: Outcome) -> tuple[Checkpoint, ...]:
        """The checkpoints at which ``outcome`` is looked at, in order of time."""
        wanted = set(outcome.checkpoints) or {checkpoint.key for checkpoint in self.checkpoints}
        return tuple(c for c in sorted(self.checkpoints, key=lambda c: c.offset) if c.key in wanted)
