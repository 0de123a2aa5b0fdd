"""The eye beside the gauge: what was graded by eye at a look, against what was measured in photos of the same samples."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import spearmanr

from fieldtally.core.agreement.instruments import AgainstEachOther, methods_compared
from fieldtally.core.problems import Refused

FEWEST = 3


@dataclass(frozen=True)
class EyeAndGauge:
    """Samples (codes) with the mean of what the eye gave each and what the gauge read; ``against`` where both are told in one unit,
    ``rank`` (Spearman's rho) where neither gave all the same."""

    codes: tuple[str, ...]
    eye: tuple[float, ...]
    gauge: tuple[float, ...]
    against: AgainstEachOther | None
    rank: float | None


def eye_and_gauge(
    graded: Mapping[str, Sequence[float]], gauged: Mapping[str, float], unit: str | None
) -> EyeAndGauge | None:
    """``graded`` gives the values by eye of each sample (code), ``gauged`` what was measured; ``unit`` is the one they share, None where
    they share none.  None with fewer than three samples that have both.

    >>> found = eye_and_gauge({"101": [1, 2], "102": [3], "103": [5]}, {"101": 10.0, "102": 30.0, "103": 40.0}, None)
    >>> found.eye, found.rank
    ((1.5, 3.0, 5.0), 1.0)
    """
    codes = tuple(sorted(set(graded) & set(gauged)))
    if len(codes) < FEWEST:
        return None
    eye, gauge = tuple(float(np.mean(graded[code])) for code in codes), tuple(gauged[code] for code in codes)
    return EyeAndGauge(codes, eye, gauge, None if unit is None else _against(eye, gauge, unit), _rank(eye, gauge))


def mean_by_sample(values: Mapping[str, Sequence[float]]) -> dict[str, float]:
    """The mean of the values of each sample (code)."""
    return {code: float(np.mean(own)) for code, own in values.items()}


def _against(eye: Sequence[float], gauge: Sequence[float], unit: str) -> AgainstEachOther | None:
    try:
        return methods_compared(["the eye", "the gauge"], np.column_stack([eye, gauge]), unit=unit).pairs[0]
    except Refused:
        return None


def _rank(eye: Sequence[float], gauge: Sequence[float]) -> float | None:
    if len(set(eye)) < 2 or len(set(gauge)) < 2:
        return None
    return float(spearmanr(eye, gauge).statistic)
