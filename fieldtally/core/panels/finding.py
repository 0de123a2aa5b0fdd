"""What a panel found: all that its answers tell, and how it is told in a few words."""

from __future__ import annotations

from dataclasses import dataclass

from fieldtally.core.panels.discriminating import Discrimination
from fieldtally.core.panels.grading import GradedAttribute
from fieldtally.core.panels.judged import Part
from fieldtally.core.panels.monitoring import Monitored
from fieldtally.core.panels.naming import FactorRead, Named
from fieldtally.core.panels.persons import ByPerson
from fieldtally.core.panels.preferring import Favoured, Preferred
from fieldtally.core.panels.ranking import Ranked
from fieldtally.core.panels.telling import Told
from fieldtally.core.quantities.numbers import honest


@dataclass(frozen=True)
class OverStimulus:
    """What the answers over one stimulus (``name``) show by themselves: their number and their sentence."""

    name: str
    n: int
    sentence: str


@dataclass(frozen=True)
class PreferenceSchools:
    """Preference among all who judged, and among those alone who were right; each under every rule for those without one."""

    everybody: tuple[Preferred, ...]
    those_right: tuple[Preferred, ...]


@dataclass(frozen=True)
class PanelFinding:
    """All that the judgements tell.

    ``n`` answers of ``people_counted`` people; where they are several of one person, all that is found is by person.  ``differs``: between
    whom it differs by more than chance, a sentence each.  ``chance``: how often guessing gives each count; ``most``: where alike is asked
    the largest count that would do; ``people``: each with how many of theirs were right, ``confidence`` by how sure they were;
    ``stimuli``: where it was asked over several, what each shows by itself.  ``liking``: what was liked, among all and among those who were
    right, a sentence each.  ``factors``: of names that are made from factors, what was recognised of each.
    ``closest``: where nothing was shown, what came closest to it; ``settle``: judgements that would probably settle it, where the share
    who notice is what was seen (None: not to be told, or settled); ``words``: tapped and written ones, by the side that was liked
    (``words_right``: of those who were right alone), ``comments`` whole.
    """

    sentence: str
    n: int
    found: Discrimination | None
    chance: tuple[float, ...]
    alike: bool | None
    most: int | None
    monitored: Monitored | None
    persons: ByPerson | None
    people_counted: int
    differs: tuple[str, ...]
    stimuli: tuple[OverStimulus, ...]
    liking: tuple[str, ...]
    factors: tuple[FactorRead, ...]
    experience: tuple[Part, ...]
    places: tuple[Part, ...]
    sessions: tuple[Part, ...]
    people: tuple[Part, ...]
    confidence: tuple[Part, ...]
    told: Told | None
    preference: PreferenceSchools | None
    favoured: Favoured | None
    named: Named | None
    ranked: Ranked | None
    graded: tuple[GradedAttribute, ...]
    words: dict[str, dict[str, int]]
    words_right: dict[str, dict[str, int]]
    comments: tuple[tuple[str, str], ...]
    closest: str
    settle: int | None
    left_out: tuple[tuple[str, str], ...]


def wholly_told(
    finding: PanelFinding, everybody: PanelFinding | None = None, *, alpha: float = 0.05
) -> tuple[str, ...]:
    """All that has to be said where a panel is told in a few words: its sentence, whether the plain count is too hopeful, where and between
    whom it differs, what was liked, who was left out and what it is with them (``everybody`` counted)."""
    said = [finding.sentence]
    if finding.persons is not None and finding.persons.too_hopeful:
        said.append(
            f"Counted as answers of different people it would look found (p {honest(finding.persons.plain_p, 2)}); that is too hopeful: "
            f"several judgements of one person are not several people. By person p is {honest(finding.persons.p, 2)}."
        )
    said += [f"{one.name}: {one.sentence}" for one in finding.stimuli]
    said += finding.differs
    said += [
        f"{one.name}: {one.right} of {one.of} names had it right, "
        f"{'more than chance gives' if one.p <= alpha else 'no more than chance may give'} ({honest(one.by_chance, 3)} on average)."
        for one in finding.factors
    ]
    said += finding.liking
    if finding.left_out:
        who = "; ".join(f"{name} ({why})" for name, why in finding.left_out)
        said.append(
            f"Left out: {who}." + (f" With everybody counted: {everybody.sentence}" if everybody is not None else "")
        )
    return tuple(said)
