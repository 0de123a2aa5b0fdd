"""The list of settings in docs/hosting.md: ``python -m fieldtally.server.hosting.listing`` writes it, ``--check`` holds it against them."""

from __future__ import annotations

import sys
from pathlib import Path

from pydantic import SecretStr

from fieldtally.server.hosting.place import PREFIX, Place

PAGE = Path(__file__).resolve().parents[3] / "docs/hosting.md"
BEGIN, END = "<!-- settings -->", "<!-- end of settings -->"


def listed() -> str:
    """A row for each setting: its name, what it is, and what it is where nothing is said."""
    rows = ["| setting | what it is | where nothing is said |", "|---|---|---|"]
    for name, field in Place.model_fields.items():
        value = field.default.get_secret_value() if isinstance(field.default, SecretStr) else field.default
        told = {True: "1", False: "0"}.get(value, value) if isinstance(value, bool) else value
        rows.append(
            f"| `{PREFIX}{name.upper()}` | {field.description} | {f'`{told}`' if told not in ('', ()) else ''} |"
        )
    return "\n".join(rows)


def main(asked: list[str]) -> None:
    """Write the list into the page, or hold the page against it."""
    page = PAGE.read_text()
    before, rest = page.split(BEGIN)
    after = rest.split(END)[1]
    wanted = f"{before}{BEGIN}\n\n{listed()}\n\n{END}{after}"
    if asked == ["--check"]:
        if page != wanted:
            sys.exit("docs/hosting.md tells other settings than there are: python -m fieldtally.server.hosting.listing")
    else:
        PAGE.write_text(wanted)


if __name__ == "__main__":
    main(sys.argv[1:])
