"""Run all layers of checks and tests, beside each other where they do not disturb each other, and tell of all that failed together.

``python ops/testing.py [--all|--quick]``, from ``./test``, which has made the ground ready.  The static checks go on behind the tests of
the core and of the server; the browser's walks begin when they are done, as they need the front end that is built there.  A part that
fails is told at once, whole, and once more by name at the end; nothing waits for it.

A whole run that passed on a clean tree writes ``.ground/green``: which commit, when, and the minutes of each layer.
``python ops/testing.py --green`` says whether HEAD is the commit that stands there.
"""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
GREEN = ROOT / ".ground/green"
WORKERS = 2
TESTS = f"python -m pytest -n {WORKERS} --durations=15"
STYLE = ("style", "ruff check . && ruff format --check .")
IMPORTS = ("imports", "lint-imports --config pyproject.toml")
TYPES = ("types (Python)", "mypy")
FRONT_TYPES = ("front end: types", "cd web && npm run --silent types")


@dataclass(frozen=True)
class Part:
    """A command of a layer, for the shell."""

    name: str
    command: str


@dataclass
class Layer:
    """What is told in one line at the end: its parts one after the other, and how long they may take on two quiet cores, in minutes."""

    name: str
    budget: float
    parts: Sequence[Part]
    minutes: float = 0.0
    failed: list[str] = field(default_factory=list)
    counts: list[str] = field(default_factory=list)


CHECKS = Layer(
    "checks",
    2.5,
    [
        Part(*STYLE),
        Part("front end: built", "bash -c 'source ops/ground.sh; need_web'"),
        Part("the demo that walks begin with: loaded", 'python -m tests.browser.demos "$FT_TEST_DEMO"'),
        Part(*IMPORTS),
        Part("worked cases are those of the core", "python ops/cases.py --check"),
        Part("settings are those of the docs", "python -m fieldtally.server.hosting.listing --check"),
        Part("API types are those of the server", "bash ops/api-types.sh --check"),
        Part(*TYPES),
        Part(*FRONT_TYPES),
        Part("front end: unit tests", "cd web && npm run --silent test"),
        Part("front end: style", "cd web && npm run --silent lint"),
    ],
)
CORE = Layer(
    "core",
    2.5,
    [
        Part("tests of the core", f"{TESTS} --dist worksteal fieldtally/core tests/core"),
        Part("trials told in words, as they are read", "python -m benchmarks.descriptions | grep right"),
    ],
)
SERVER = Layer("server", 3, [Part("tests of the server", f"{TESTS} --dist worksteal tests/server")])
BROWSER = Layer("browser", 5, [Part("walks in a browser", f"{TESTS} --dist loadfile tests/browser")])
WHOLE = (CORE, SERVER, BROWSER)
QUICK_CHECKS = Layer("checks", 1.5, [Part(*one) for one in (STYLE, IMPORTS, FRONT_TYPES, TYPES)])
QUICK_CORE = Layer(
    "core", 1.5, [Part("quick tests of the core", f'{TESTS} --dist worksteal -m "not slow" fieldtally/core tests/core')]
)

_telling = threading.Lock()


def say(text: str) -> None:
    """Write a text of several lines in one piece, whoever else is writing."""
    with _telling:
        sys.stdout.write(text.rstrip("\n") + "\n")
        sys.stdout.flush()


def run(layer: Layer, *, aside: bool) -> None:
    """Run the parts of ``layer``; ``aside``: what they print is told only where they fail, and they give way to what runs before them."""
    began = time.monotonic()
    for part in layer.parts:
        if not aside:
            say(f"\n── {part.name}")
        lines: list[str] = []
        process = subprocess.Popen(
            ["nice", "-n", "5", "bash", "-c", part.command] if aside else ["bash", "-c", part.command],
            cwd=ROOT,
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            errors="replace",
        )
        assert process.stdout is not None
        since = time.monotonic()
        for line in process.stdout:
            lines.append(line)
            if not aside:
                say(line)
        wrong = process.wait() != 0
        layer.counts += re.findall(
            r"^=*\s*((?:\d+ \w+, )*\d+ (?:passed|failed|error)\b.*? in )", "".join(lines), re.MULTILINE
        )
        if wrong:
            layer.failed.append(part.name)
            say(f"\n── {part.name}: FAILED\n{''.join(lines) if aside else ''}")
        elif aside:
            say(f"── {part.name}: {time.monotonic() - since:.0f} s")
    layer.minutes = (time.monotonic() - began) / 60


def counted(layers: Sequence[Layer]) -> str:
    """How many tests of pytest passed and failed in all, as one line."""
    told = " ".join(one for layer in layers for one in layer.counts)
    passed, failed = (
        sum(int(many) for many in re.findall(rf"(\d+) {word}", told)) for word in ("passed", "(?:failed|errors?)")
    )
    return f"{passed} passed, {failed} failed"


def git(*words: str) -> str:
    """What git answers; empty where this is no checkout."""
    told = subprocess.run(["git", *words], cwd=ROOT, capture_output=True, text=True, check=False)
    return told.stdout.strip() if told.returncode == 0 else ""


def beside(checks: Layer, layers: Sequence[Layer], everything: bool) -> list[str]:
    """Run ``layers`` one after the other and ``checks`` behind them, done before the last one where there are several; what failed."""
    behind = threading.Thread(target=run, args=(checks,), kwargs={"aside": True})
    behind.start()
    for layer in layers:
        if layer is BROWSER:
            behind.join()
        run(layer, aside=False)
    behind.join()
    say("\n" + "\n".join(_line(layer, everything) for layer in (checks, *layers)))
    failed = [name for layer in (checks, *layers) for name in layer.failed]
    if failed:
        say("\nFailed: " + "; ".join(failed))
    return failed


def whole(everything: bool) -> int:
    """Run every layer; the exit code."""
    before = "" if git("status", "--porcelain") else git("rev-parse", "HEAD")
    failed = beside(CHECKS, WHOLE, everything)
    if not failed and before and git("rev-parse", "HEAD") == before and not git("status", "--porcelain"):
        stamp = {
            "commit": before,
            "at": datetime.now(UTC).isoformat(timespec="seconds"),
            "deep": everything,
            "minutes": {layer.name: round(layer.minutes, 1) for layer in (CHECKS, *WHOLE)},
        }
        GREEN.write_text(json.dumps(stamp) + "\n")
    say(counted(WHOLE))
    return 1 if failed else 0


def quick() -> int:
    """Run what takes no time; the exit code."""
    failed = beside(QUICK_CHECKS, [QUICK_CORE], False)
    say(counted([QUICK_CORE]))
    return 1 if failed else 0


def _line(layer: Layer, everything: bool) -> str:
    over = layer.minutes > layer.budget and not everything
    budget = "" if everything else f" of {layer.budget:g}{', over its budget' if over else ''}"
    return f"{layer.name:8} {layer.minutes:5.1f} min{budget}{'  FAILED' if layer.failed else ''}"


def green() -> int:
    """Say whether the whole of ``./test`` passed on HEAD, as it is now."""
    head = git("rev-parse", "HEAD")
    try:
        stamp = json.loads(GREEN.read_text())
    except (OSError, ValueError):
        stamp = {}
    if not head or stamp.get("commit") != head:
        print(f"Not green: ./test has not passed on {head[:12] or 'this tree'}.")
        return 1
    if git("status", "--porcelain"):
        print(f"{head[:12]} is green, but what lies here has been changed since.")
        return 1
    minutes = ", ".join(f"{name} {value:g}" for name, value in stamp["minutes"].items())
    print(f"Green: {head[:12]}, {stamp['at']}{' (--all)' if stamp.get('deep') else ''}; minutes: {minutes}.")
    return 0


def main(asked: Sequence[str]) -> int:
    """What ``./test`` asks for; the exit code."""
    os.environ["PYTHONUNBUFFERED"] = "1"
    if "--green" in asked:
        return green()
    return quick() if "--quick" in asked else whole("--all" in asked)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
