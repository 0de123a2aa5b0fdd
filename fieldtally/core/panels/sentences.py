"""What a panel shows, in one sentence that can be read out."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fieldtally.core.panels.discriminating import Discrimination
from fieldtally.core.panels.finding import PanelFinding, PreferenceSchools
from fieldtally.core.panels.grading import GradedAttribute
from fieldtally.core.panels.naming import Named
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.core.panels.preferring import Favoured, Preferred
from fieldtally.core.panels.ranking import Ranked
from fieldtally.core.panels.telling import Told
from fieldtally.core.panels.words import hundredths, told, told_early


def sentence_of(plan: PanelPlan, of: PanelFinding, names: Sequence[str]) -> str:
    """What a panel shows, in one sentence; the first of these that there is something to say of."""
    if not of.n:
        return "Nobody has judged yet."
    if of.found is not None:
        return _apart_sentence(plan, of, of.found)
    if of.told is not None:
        return _yes_sentence(plan, of, of.told)
    if of.named is not None:
        return _naming_sentence(plan, of, of.named)
    if of.ranked is not None:
        return _ranking_sentence(plan, of, of.ranked, names)
    if plan.method == "grading" and of.graded:
        return _grading_sentence(plan, of.graded, names)
    if of.favoured is not None:
        return _favoured_sentence(plan, of.favoured, names)
    if of.preference is not None:
        return _preference_sentence(plan, of, of.preference.everybody[0], names)
    return f"{of.n} have judged; that is not enough to tell anything yet."


def _by_whom(of: PanelFinding) -> str:
    """Who answered, where one person did so several times: the person is the unit."""
    if of.people_counted == of.n:
        return ""
    if of.people_counted == 1:
        return f"One person alone, {of.n} sets; of people at large it tells nothing. "
    each, more = divmod(of.n, of.people_counted)
    return f"{of.people_counted} people, {each if not more else f'{each} or more'} sets each. "


def _apart_sentence(plan: PanelPlan, of: PanelFinding, found: Discrimination) -> str:
    if of.alike is None:
        return _by_whom(of) + (told(found) if of.monitored is None else told_early(found, of.monitored))
    upper, limit = hundredths(found.upper_pd()), hundredths(plan.limit)
    shown = (
        f"fewer than {limit} is shown"
        if of.alike
        else f"fewer than {limit} is not shown, so they may not be called alike"
    )
    return f"{_by_whom(of)}{found.correct} of {of.n} were right; at most {upper} truly notice: {shown}."


def _yes_sentence(plan: PanelPlan, of: PanelFinding, yes: Told) -> str:
    how = "Told apart" if yes.p <= plan.alpha else "Not told apart"
    said = f"yes was said {yes.hits} of {yes.signals} times where it was so, and {yes.alarms} of {yes.noises} where it was not."
    return f"{_by_whom(of)}{how}: {said}"


def _naming_sentence(plan: PanelPlan, of: PanelFinding, jars: Named) -> str:
    sure = "more than chance gives" if jars.p <= plan.alpha else "no more than chance may give"
    return f"{_by_whom(of)}{jars.right} of {jars.of} were named right, {sure}: guessing gives {jars.by_chance:g} on average."


def _ranking_sentence(plan: PanelPlan, of: PanelFinding, ranks: Ranked, names: Sequence[str]) -> str:
    first = names[int(np.argmin(ranks.means))]
    sure = f"{first} stands in front" if ranks.p <= plan.alpha else "the order is no clearer than chance may give"
    return (
        f"{_by_whom(of)}Of {ranks.people} rankings, {sure}."
        if of.people_counted == of.n
        else f"{_by_whom(of)}By person, {sure}."
    )


def _favoured_sentence(plan: PanelPlan, best: Favoured, names: Sequence[str]) -> str:
    first = names[int(np.argmax(best.counts))]
    sure = f"{first} is liked best" if best.p <= plan.alpha else "no one is liked more than chance may give"
    counts = ", ".join(f"{names[i]} {c}" for i, c in enumerate(best.counts))
    return f"Of {sum(best.counts)} who chose, {sure}: {counts}."


def _preference_sentence(plan: PanelPlan, of: PanelFinding, main: Preferred, names: Sequence[str]) -> str:
    sure = "" if main.p <= plan.alpha else ", which chance may give"
    several = of.people_counted < of.n
    neither = f", {main.none} neither" if main.none else ""
    by = ", each counted once" if several else ""
    return f"{_by_whom(of)}{main.first} like {names[0]} better, {main.second} {names[1]}{neither}{by}{sure}."


def _grading_sentence(plan: PanelPlan, grades: Sequence[GradedAttribute], names: Sequence[str]) -> str:
    told_ones = []
    for one in grades:
        means = [(mean, names[i]) for i, mean in enumerate(one.means) if mean is not None]
        if not means:
            continue
        top = max(means)[1] if one.p <= plan.alpha else ""
        told_ones.append(f"{one.attribute.name}: {f'most in {top}' if top else 'no difference shown'}")
    if not told_ones:
        return "Nothing was graded yet."
    return f"Graded by {grades[0].people}: {'; '.join(told_ones)}."


def liking_of(
    plan: PanelPlan, preference: PreferenceSchools | None, names: Sequence[str], *, several: bool
) -> tuple[str, ...]:
    """What was liked beside what was asked first: among all, and among those who were right; a sentence each.  ``several``: people answered
    more than once."""
    if preference is None or plan.method == "preference":
        return ()
    schools = [("Of all who judged", preference.everybody), ("Of the right answers", preference.those_right)]
    return tuple(f"{whose}: {_liking(plan, found[0], names, several=several)}" for whose, found in schools if found)


def _liking(plan: PanelPlan, main: Preferred, names: Sequence[str], *, several: bool) -> str:
    neither = f", {main.none} neither" if main.none else ""
    by = ", each person counted once" if several else ""
    sure = "" if main.p <= plan.alpha else ", which chance may give"
    return f"{main.first} like {names[0]} better, {main.second} {names[1]}{neither}{by}{sure}."
