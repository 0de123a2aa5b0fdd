"""Write ``docs/permissions.md``, who may do what in which state of a trial, from the table that the server asks.

``python ops/permissions.py`` writes it; a test holds that it is written.
"""

from __future__ import annotations

import os
from pathlib import Path

PAGE = Path(__file__).parents[1] / "docs" / "permissions.md"
TOP = """# Who may do what

Made by `python ops/permissions.py` from `fieldtally/server/people/permissions.py`; do not edit it here. Each door asks
`fieldtally/server/people/sight.py`, which asks that table; nothing else in the server looks at role and state.

**d** draft · **s** sealed · **r** running · **o** the key is open. A lead who chose to stay blind sees no key before it is open.
Assessors have no role: a link leads each into a booth and nowhere else.

| permission | lead | preparer | scorer | viewer | who may not is told |
|---|---|---|---|---|---|
"""
STATES = (("draft", "d"), ("sealed", "s"), ("running", "r"), ("opened", "o"))


def written() -> str:
    """The page."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fieldtally.server.settings")
    import django

    django.setup()
    from fieldtally.server.people.models import Role
    from fieldtally.server.people.permissions import GRANTS

    rows = []
    for name, grant in GRANTS.items():
        cells = [
            " ".join(letter for state, letter in STATES if state in grant.where.get(role, ())) or "·"
            for role in (Role.LEAD, Role.PREPARER, Role.SCORER, Role.VIEWER)
        ]
        rows.append(f"| `{name}` | {' | '.join(cells)} | {grant.says} |\n")
    return TOP + "".join(rows)


if __name__ == "__main__":
    PAGE.write_text(written())
