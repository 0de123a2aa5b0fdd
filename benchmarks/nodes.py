"""What a second web node adds: readings a second through one node and through two, each held to so much of a core as if it were a
machine of its own; ``python -m benchmarks.nodes [SECONDS] [SHARE]``, as root, on Debian 12.

Starts ``ops/cluster``; the nodes' processor time is bounded by the kernel (control groups), so that the database and whoever asks, which
are on the same machine here, keep the rest.  Where that rest is not enough the figure says nothing, so what was left of it is printed too.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import httpx

from benchmarks.cluster import Device, begun, environment, ports

SECONDS, SHARE, SCORERS, SAMPLES = 40.0, 0.3, 12, 60
PERIOD = 20_000
"""Microseconds over which a share is kept."""
AIM = 1.6
GROUPS = Path("/sys/fs/cgroup")


def _tree(of: int) -> list[int]:
    """A process and all that it began."""
    found, waiting = [], [of]
    while waiting:
        one = waiting.pop()
        found.append(one)
        with suppress(OSError):
            waiting += [int(x) for x in Path(f"/proc/{one}/task/{one}/children").read_text().split()]
    return found


@contextmanager
def held(folder: Path, node: str, share: float) -> Iterator[None]:
    """A node with no more than so much of a core."""
    old = (GROUPS / "cpu/cpu.cfs_quota_us").parent.is_dir() and not (GROUPS / "cgroup.controllers").exists()
    group = (GROUPS / "cpu" if old else GROUPS) / f"field-tally-{node}-{os.getpid()}"
    group.mkdir()
    try:
        if old:
            (group / "cpu.cfs_period_us").write_text(str(PERIOD))
            (group / "cpu.cfs_quota_us").write_text(str(int(share * PERIOD)))
        else:
            (group / "cpu.max").write_text(f"{int(share * PERIOD)} {PERIOD}")
        for process in _tree(int((folder / f"{node}.pid").read_text())):
            (group / "cgroup.procs").write_text(str(process))
        yield
    finally:
        for left in (group / "cgroup.procs").read_text().split():
            with suppress(OSError):
                (group.parent / "cgroup.procs").write_text(left)
        with suppress(OSError):
            group.rmdir()


class Straight(Device):
    """Somebody who scores without a pause."""

    def run(self) -> None:
        """One reading after the other."""
        number = 0
        with httpx.Client(base_url=self.at, headers=self.headers, timeout=30) as client:
            while time.monotonic() < self.until:
                self._sent(client, [self._reading(number)])
                number += 1


def _idle() -> float:
    """Seconds that all cores together had nothing to do."""
    fields = Path("/proc/stat").read_text().splitlines()[0].split()
    return (int(fields[4]) + int(fields[5])) / os.sysconf("SC_CLK_TCK")


def _rate(one: Any, ends: list[str], seconds: float) -> tuple[float, float]:
    """Readings stored a second through these nodes, and how many cores had nothing to do meanwhile."""
    from fieldtally.server.rounds.models import Reading

    path, until = f"/api/trials/{one.trial.pk}/readings", time.monotonic() + seconds
    devices: list[threading.Thread] = [
        Straight(ends[i % len(ends)], token, path, round_, one.samples, until)
        for i, (token, round_) in enumerate(one.scorers)
    ]
    before, idle = Reading.objects.filter(trial=one.trial).count(), _idle()
    for device in devices:
        device.start()
    for device in devices:
        device.join(seconds + 60)
    return (Reading.objects.filter(trial=one.trial).count() - before) / seconds, (_idle() - idle) / seconds


def main(seconds: float, share: float) -> None:
    """Print the table."""
    folder = Path(tempfile.mkdtemp(prefix="field-tally-nodes.", dir="/var/tmp"))
    running = begun(folder)
    try:
        os.environ |= environment(folder)
        os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fieldtally.server.settings")
        import django

        django.setup()
        from benchmarks.load import prepared

        one = prepared(SCORERS, 0, SAMPLES)
        at = ports(folder)
        ends = [f"http://127.0.0.1:{at['web1']}", f"http://127.0.0.1:{at['web2']}"]
        with held(folder, "web1", share), held(folder, "web2", share):
            _rate(one, ends, 5.0)
            alone = [_rate(one, [end], seconds)[0] for end in ends]
            both, rest = _rate(one, ends, seconds)
        print(
            f"each node held to {share:g} of a core: {alone[0]:.1f} and {alone[1]:.1f} readings a second through either alone, "
            f"{both:.1f} through both, {2 * both / sum(alone):.2f} times (aim: {AIM:g}); {rest:.2f} of "
            f"{os.cpu_count()} cores had nothing to do meanwhile"
        )
    finally:
        running.terminate()
        running.wait(60)
        subprocess.run(["rm", "-rf", str(folder)], check=False)  # noqa: S603, S607


if __name__ == "__main__":
    given = [float(x) for x in sys.argv[1:]]
    main(*(given + [SECONDS, SHARE][len(given) :]))
