"""What a pick from a line-up is worth, in sentences."""

from __future__ import annotations

from fieldtally.core.verdict.lineup import PICTURES


def picks_told(right: bool, knowing: bool, people: int, found: int) -> tuple[str, ...]:
    """Sentences for somebody who has picked: ``right`` or not, ``knowing`` the result or not; of ``people`` who did not know it ``found``
    picked the true one.

    >>> picks_told(True, False, 1, 1)[0]
    'You picked the true one. By luck alone that happens 1 time in 20 (p ≤ 0.05), before any number is read.'
    """
    if right and not knowing:
        own = f"You picked the true one. By luck alone that happens 1 time in {PICTURES} (p ≤ 0.05), before any number is read."
    elif right:
        own = "You picked the true one, but you had read the result: it says that the picture shows it, and no more."
    elif knowing:
        own = "You took another for the true one, though you had read the result: the picture does not show it plainly."
    else:
        own = "You took another for the true one: to your eye it does not stand out from luck. The tests below see more than an eye does."
    if people < 2:
        return (own,)
    return (
        own,
        f"Of {people} people who had not read the result, {found} picked the true one; by luck alone it would be about "
        f"{max(1, round(people / PICTURES))} in {people if people >= PICTURES else PICTURES}.",
    )
