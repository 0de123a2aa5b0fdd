"""Names and keys: entries of a list that cannot be told apart."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from fieldtally.core.problems import Problem


def repeated(names: Sequence[str]) -> Iterator[tuple[int, str]]:
    """The places of names that stand earlier in the list already, with the name; case and spacing do not count."""
    seen: set[str] = set()
    for i, name in enumerate(names):
        folded = " ".join(name.split()).casefold()
        if folded and folded in seen:
            yield i, name.strip()
        seen.add(folded)


def key_problems(at: str, keys: Sequence[str]) -> Iterator[Problem]:
    """Entries of the list ``at`` without a key, or with one that is taken."""
    for i, key in enumerate(keys):
        if not key or key in keys[:i]:
            yield Problem(f"{at}.{i}", "This entry came without a name of its own; take it out and add it again.")
