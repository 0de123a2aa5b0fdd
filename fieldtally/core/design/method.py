"""Prove the method first: what a measuring method can see, before it is trusted with a trial.

Three small checks, any of which may be left out:

* *blanks*: readings of something that should read nothing.  Their mean is the offset; what lies within 3.3 standard
  deviations of it cannot be told from nothing (limit of detection, Currie 1968, Anal. Chem. 40:586, with 1.645 twice).
* *a known sample*: readings of something known.  Their mean minus what is known is the bias.
* *repeats*: several readings of each of several things by the same hand.  The pooled standard deviation within things is
  the repeat error s; two single readings of the same thing differ by less than 1.96 · √2 · s = 2.77 s nineteen times in
  twenty (repeatability limit, ISO 5725-6).

A difference that matters must be larger than that limit to be seen on a single pair of readings.  Means of n samples see
finer: their repeat error shrinks by √n.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from statistics import fmean, stdev
from typing import Literal

from fieldtally.core.design.plan import Outcome, Proof
from fieldtally.core.scales import honest, unit_of

DETECTION = 3.29
REPEATABILITY = 2.77
MethodStanding = Literal["unproven", "sees", "strains", "blind"]


@dataclass(frozen=True)
class MethodFinding:
    """What the checks of one outcome's method came to, all amounts in the scale's unit; None where it was not checked.

    ``standing``: ``sees`` the margin on single readings, ``strains`` (only on means of the samples there are), ``blind``
    (not even then), ``unproven`` while there are no repeats or no margin to hold them against.
    """

    outcome: str
    unit: str
    standing: MethodStanding
    says: str
    offset: float | None
    detection: float | None
    bias: float | None
    repeat_error: float | None
    resolution: float | None
    margin: float | None
    steps: tuple[str, ...]


def repeat_error(proof: Proof) -> float | None:
    """Pooled standard deviation within things, in the unit read; None with no thing read twice.

    >>> repeat_error(Proof(repeats=((10.0, 12.0), (20.0, 22.0))))
    1.4142135623730951
    """
    read_twice = [row for row in proof.repeats if len(row) > 1]
    freedom = sum(len(row) - 1 for row in read_twice)
    if not freedom:
        return None
    return math.sqrt(sum(sum((value - fmean(row)) ** 2 for value in row) for row in read_twice) / freedom)


def proven(outcome: Outcome, samples: int) -> MethodFinding:
    """What the checks of ``outcome`` say of its method; ``samples`` is the smallest number of samples of a treatment."""
    proof, margin, unit = outcome.proof, outcome.margin, unit_of(outcome.scale)
    offset = fmean(proof.blanks) if proof.blanks else None
    detection = DETECTION * stdev(proof.blanks) if len(proof.blanks) > 1 else None
    bias = fmean(proof.known_readings) - proof.known if proof.known_readings and proof.known is not None else None
    error = repeat_error(proof)
    resolution = None if error is None else REPEATABILITY * error
    standing: MethodStanding = "unproven"
    if resolution is not None and margin is not None:
        on_means = resolution / math.sqrt(max(1, samples))
        standing = "sees" if resolution <= margin else "strains" if on_means <= margin else "blind"
    return MethodFinding(
        outcome.key,
        unit,
        standing,
        _says(standing, outcome, resolution, samples),
        offset,
        detection,
        bias,
        error,
        resolution,
        margin,
        tuple(_steps(proof, offset, detection, bias, error, unit)),
    )


def _says(standing: MethodStanding, outcome: Outcome, resolution: float | None, samples: int) -> str:
    unit = unit_of(outcome.scale)
    if standing == "unproven":
        if resolution is None:
            return "Not proven yet: read a few things twice or more, by the same hand."
        return f"Two readings of the same thing differ by up to {_amount(resolution, unit)}; give the difference that matters."
    seen, matters = _amount(resolution or 0.0, unit), _amount(outcome.margin or 0.0, unit)
    match standing:
        case "sees":
            return (
                f"It sees the difference: two readings of the same thing differ by up to {seen}, and {matters} matters."
            )
        case "strains":
            return (
                f"Only just: a single reading is good to {seen}, more than the {matters} that matters; "
                f"the means of {samples} samples can see it."
            )
        case _:
            return (
                f"This method cannot see that difference: two readings of the same thing differ by up to {seen}, and even "
                f"the means of {samples} samples blur the {matters} that matters. Take a finer one, or read each sample "
                "several times."
            )


def _amount(value: float, unit: str) -> str:
    return f"{honest(value)} {unit}".strip()


def _steps(
    proof: Proof, offset: float | None, detection: float | None, bias: float | None, error: float | None, unit: str
) -> list[str]:
    steps = []
    if offset is not None:
        steps.append(f"{len(proof.blanks)} blanks read {_amount(offset, unit)} on average.")
    if detection is not None:
        steps.append(
            f"Nothing can be told from nothing below {_amount(detection, unit)}: 3.29 standard deviations of the blanks."
        )
    if bias is not None and proof.known is not None:
        steps.append(
            f"The known sample of {_amount(proof.known, unit)} read {_amount(fmean(proof.known_readings), unit)}: "
            f"{_amount(abs(bias), unit)} too {'high' if bias >= 0 else 'low'}."
        )
    if error is not None:
        things = sum(len(row) > 1 for row in proof.repeats)
        steps.append(
            f"Repeat error: {_amount(error, unit)}, the standard deviation of readings of the same thing, over {things} "
            f"{'thing' if things == 1 else 'things'}. Two readings of one thing differ by less than 2.77 times that, "
            f"{_amount(REPEATABILITY * error, unit)}, nineteen times in twenty."
        )
    return steps
