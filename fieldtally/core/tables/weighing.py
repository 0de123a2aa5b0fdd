"""Which columns of somebody else's table name what is compared, the samples and their places: every way of reading it is weighed against
the others, by what it makes of the whole table.

A good reading has treatments that several samples got, about as many each; a sample keeps its treatment and place from look to look, and
is read once at each; every treatment stands in every place.  What a column is called counts too, and is overruled where the table speaks
against it: what is called a tank is no treatment where several tanks share one.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

MOST_WEIGHED = 10
"""So many columns are weighed against each other; of more those that are called something first."""
MOST_LEVELS = 60
NEAR = 0.75
"""A reading that weighs so little less than the best one could as well be true."""


@dataclass(frozen=True)
class Column:
    """A column: its name, its cells (some thousands at most), the parts that its name hints at, whether it holds words."""

    name: str
    cells: Sequence[str]
    hints: set[str]
    words: bool = True
    control: bool = False
    """Whether one of its cells is what a control is called."""


@dataclass(frozen=True)
class Roles:
    """The columns (indices) of treatments (several: factors), the sample if any, and the blocks."""

    treatment: tuple[int, ...]
    sample: int | None
    blocks: tuple[int, ...]
    unsure: tuple[int, ...] = ()
    """Columns of which each could as well be the treatment, the one taken first."""


def weigh(
    columns: Sequence[Column],
    may: Sequence[int],
    look: int | None,
    asked: Sequence[int] = (),
    values: Sequence[int] = (),
) -> Roles | None:
    """The best reading of the columns ``may`` (indices); ``look`` is the column of looks if any, ``asked`` those that name what was
    measured, ``values`` those of readings: one of them stays one.  None where no column can be a treatment."""
    order = sorted(may, key=lambda i: (not columns[i].hints, i))[:MOST_WEIGHED]
    filled = {i: _down(columns[i].cells) for i in order}
    named = [i for i in order if 2 <= len(set(filled[i])) <= MOST_LEVELS]
    found: list[tuple[float, Roles]] = []
    when = [
        tuple(columns[i].cells[row] for i in ([look] if look is not None else []) + list(asked))
        for row in range(_rows(columns))
    ]
    for roles in _readings(columns, named, order, filled):
        if values and set(values) <= {*roles.treatment, *roles.blocks, roles.sample}:
            continue
        found.append((_score(columns, roles, filled, when), roles))
    if not found:
        return None
    score, best = max(found, key=lambda one: one[0])
    if score < 0:
        return None
    # As good a reading with another treatment: somebody has to say.
    others = {roles.treatment[0] for near, roles in found if near > score - NEAR and roles.treatment != best.treatment}
    plain = len(best.treatment) == 1 and "treatment" not in columns[best.treatment[0]].hints
    return replace(best, unsure=(best.treatment[0], *sorted(others))) if others and plain else best


def _rows(columns: Sequence[Column]) -> int:
    return len(columns[0].cells) if columns else 0


def _down(cells: Sequence[str]) -> list[str]:
    """Joined cells stand in the first of them only."""
    if not cells or not cells[0]:
        return list(cells)
    found, last = [], ""
    for cell in cells:
        last = cell or last
        found.append(last)
    return found


def _readings(
    columns: Sequence[Column], named: Sequence[int], order: Sequence[int], filled: dict[int, list[str]]
) -> Iterator[Roles]:
    single = [(i,) for i in named if columns[i].words or "treatment" in columns[i].hints]
    # Several columns together are factors only where they are called so, or nothing else is left.
    pairs = [
        two
        for two in combinations(named, 2)
        if all("treatment" in columns[i].hints or columns[i].words for i in two)
        # What goes with each level of another is no factor beside it.
        and len(set(zip(*(filled[i] for i in two), strict=True))) > max(len(set(filled[i])) for i in two)
    ]
    for treatment in [*single, *pairs]:
        rest = [i for i in order if i not in treatment]
        for sample in [None, *(i for i in rest if len(set(filled[i])) > 1)]:
            places = [i for i in rest if i != sample and i in named]
            yield Roles(treatment, sample, ())
            for block in places:
                yield Roles(treatment, sample, (block,))


def _score(
    columns: Sequence[Column], roles: Roles, filled: dict[int, list[str]], when: Sequence[tuple[str, ...]]
) -> float:
    treatment = list(zip(*(filled[i] for i in roles.treatment), strict=True))
    block = list(zip(*(filled[i] for i in roles.blocks), strict=True)) if roles.blocks else [()] * len(treatment)
    own = filled[roles.sample] if roles.sample is not None else None
    score = _by_name(columns, roles)
    score -= 0.9 * (len(roles.treatment) - 1) if not _crossed(treatment) else 0.4 * (len(roles.treatment) - 1)
    if own is not None:
        homes: dict[str, set[object]] = defaultdict(set)
        for sample, what, where in zip(own, treatment, block, strict=True):
            homes[sample].add((what, where))
        keeps = sum(len(one) == 1 for one in homes.values()) / len(homes)
        inside = Counter(zip(own, treatment, block, when, strict=True))
        once = sum(many == 1 for many in inside.values()) / len(inside)
        if keeps == 1 and once < 1 and _numbered_inside(columns, filled, roles, own, when):
            # Plants in a plot, each read once: pieces of one sample.
            once = 1.0
        if keeps < 1 and once < 1:
            return -1.0
        score += 2.0 * once + (1.5 if keeps == 1 else 0.3)
        if keeps < 1 and _nested(filled, roles, treatment):
            # What is taken for treatments lies itself inside fewer things: plots of a spray, with plants that are numbered in each.
            score -= 3.5
        if len(set(homes)) < 2 * len(set(treatment)) and keeps == 1:
            # As many samples as treatments: one of the two is no such thing.
            score -= 2.0
        units = Counter(what for _, what, _ in {(s, t, b) for s, t, b in zip(own, treatment, block, strict=True)})
    else:
        looks = len(set(when)) or 1
        units = Counter({what: many / looks for what, many in Counter(treatment).items()})
    many = list(units.values())
    if min(many) < 2:
        score -= 1.5
    if max(many) < 2 and not any("treatment" in columns[i].hints for i in roles.treatment):
        # What nothing has twice, and nothing calls a treatment, is a name for each sample.
        score -= 4.0
    score += 1.0 if max(many) - min(many) <= 1 else 0.0
    if roles.blocks:
        there = {(what, where) for what, where in zip(treatment, block, strict=True)}
        if len(there) == len(set(block)) > len(set(treatment)):
            # Each holds one treatment alone: that is a sample with pieces in it, and no place in which treatments are compared.
            score -= 6.0
        whole = len(set(treatment)) * len(set(block))
        score += 1.2 if len(there) == whole else -1.5
    return score


def _nested(filled: dict[int, list[str]], roles: Roles, treatment: Sequence[tuple[str, ...]]) -> bool:
    """Whether another column goes with the treatments, each of them having one of its fewer levels."""
    levels = len(set(treatment))
    return any(
        1 < len(set(cells)) < levels and len(set(zip(treatment, cells, strict=True))) == levels
        for i, cells in filled.items()
        if i not in {*roles.treatment, roles.sample}
    )


def _numbered_inside(
    columns: Sequence[Column],
    filled: dict[int, list[str]],
    roles: Roles,
    own: Sequence[str],
    when: Sequence[tuple[str, ...]],
) -> bool:
    """Whether some other column tells apart what is read several times in one sample at one look."""
    taken = {*roles.treatment, *roles.blocks, roles.sample}
    return any(
        len(set(zip(own, when, cells, strict=True))) == len(own) and len(set(cells)) < len(own)
        for i, cells in filled.items()
        if i not in taken
    )


def _by_name(columns: Sequence[Column], roles: Roles) -> float:
    score = 0.0
    for role, chosen in (
        ("treatment", roles.treatment),
        ("sample", () if roles.sample is None else (roles.sample,)),
        ("block", roles.blocks),
    ):
        for i in chosen:
            hints = columns[i].hints
            score += 2.0 if role in hints else (-1.2 if hints else 0.0)
            if columns[i].control:
                score += 1.5 if role == "treatment" else -1.0
    return score


def _crossed(combos: Sequence[tuple[str, ...]]) -> bool:
    """Whether every level of one comes with every level of the other."""
    if not combos or len(combos[0]) < 2:
        return True
    first, second = {one[0] for one in combos}, {one[1] for one in combos}
    return len(set(combos)) == len(first) * len(second) and min(len(first), len(second)) > 1
