"""What is compared, told in lines, rows of a table, or under letters."""

from __future__ import annotations

import re
from dataclasses import replace
from itertools import groupby

from fieldtally.core.describing.pieces import ITEM_END, Piece, listed, piece_of
from fieldtally.core.describing.reader import TAKEN, Reader


def lines(reader: Reader) -> list[Piece]:
    """Lines of a list or rows of a table, under a head or none."""
    lines = [(m.start(), m[0]) for m in re.finditer(r"[^\n]+", reader.text)]
    table = _table(lines)
    if table:
        return table
    bullet = re.compile(r"^\s*(?:[-*•–]|\d+[.)]|[A-Z][.):=])\s+(?P<what>.+)$")
    bulleted = [(at + m.start("what"), m["what"]) for at, line in lines if (m := bullet.match(line))]
    if len(bulleted) > 1:
        return [piece_of(what, at) for at, what in bulleted if TAKEN not in reader.rest[at : at + len(what)]]
    short = [
        (at, line)
        for at, line in lines
        if len(line.split()) <= 5
        and not re.search(r"[.;?,]|\d", line)
        and TAKEN not in reader.rest[at : at + len(line)]
    ]
    if len(short) > 2 or (len(short) == 2 and len(lines) == 2):
        found = []
        for at, line in short:
            labelled = re.match(r"\s*control\s*:\s*(.+)", line, re.I)
            piece = piece_of(labelled[1] if labelled else line, at)
            found.append(replace(piece, begin=at, end=at + len(line), kind="untreated") if labelled else piece)
        return found
    return []


MOST_CELLS = 6


def _table(lines: list[tuple[int, str]]) -> list[Piece]:
    """The rows of a table among ``lines``, with tabs, bars, semicolons or (a name and a number) commas between its cells; other lines may
    stand before it and behind it.  Its first row is its head, unless that has a number where all others have one."""
    for cut in (r"\t|\s*;\s*|\s*\|\s*", r"\s*,\s*"):
        rows = [(at, line, re.split(cut, line.strip())) for at, line in lines]
        commas = "," in cut
        if commas:
            # Prose has commas as well: here a name and a number is a row, and what stands over the first of them is the head.
            numbered = [len(cells) == 2 and cells[1].isdecimal() for _, _, cells in rows]
            rows = [
                row
                for row, mine, below in zip(rows, numbered, [*numbered[1:], False][: len(rows)], strict=True)
                if mine or (below and len(row[2]) == 2)
            ]
        runs = [list(run) for width, run in groupby(rows, key=lambda row: len(row[2])) if 2 <= width < MOST_CELLS]
        run = max(runs, key=len, default=[])
        if len(run) < 3:
            continue
        numbers = next(
            (i for i in range(1, len(run[0][2])) if all(one[2][i].strip().isdecimal() for one in run[1:])), None
        )
        headless = numbers is not None and run[0][2][numbers].strip().isdecimal()
        return [
            replace(piece_of(cells[0], at, int(cells[numbers]) if numbers else None), end=at + len(line))
            for at, line, cells in run[0 if headless else 1 :]
        ]
    return []


def labelled(reader: Reader) -> list[Piece]:
    for match in reader.find(r"^\s*(?:treatments?|comparing|compare|variants|products|what)\s*:\s*(?P<list>[^\n.]+)"):
        return listed(reader, match.start("list"), match.end("list"), prose=False)
    lettered = list(reader.find(r"\((?P<letter>[a-h]|[1-9])\)\s*(?P<what>[^();.\n]+)"))
    if len(lettered) > 1:
        return [piece_of(one["what"], one.start("what")) for one in lettered]
    assigned = list(reader.find(rf"\b(?P<letter>[A-F])\s*[=:]\s*(?P<what>{ITEM_END}+?)(?=,\s*[A-F]\s*[=:]|[.;\n]|$)"))
    return [piece_of(one["what"], one.start("what")) for one in assigned] if len(assigned) > 1 else []
