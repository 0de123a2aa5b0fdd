"""The one interface to a device, and the reading it gives."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import median
from typing import Protocol

AGREE, LOOKED_BACK = 3, 5
"""So many readings one after another must agree, and over so many it must not creep on."""
LONGEST = 3.0
PAUSE = 0.12
LARGEST = 1e9


class DeviceFault(Exception):
    """The device gives no reading; ``says`` why, in words that end a sentence beginning with its name."""

    def __init__(self, says: str) -> None:
        self.says = says
        super().__init__(says)


@dataclass(frozen=True)
class Raw:
    """One raw reading: a value and its unit for each channel (``mass``: 12.3 g), and whether the device calls it stable."""

    channels: Mapping[str, tuple[float, str]]
    stable: bool


class Driver(Protocol):
    """Something that can be read.  A driver holds a connection from :meth:`open` to :meth:`close`."""

    def open(self) -> None:
        """Connect.

        :raises DeviceFault: nothing answers there.
        """

    def read(self) -> Raw:
        """One raw reading.

        :raises DeviceFault: it does not answer in time, answers nonsense, or reports an error.
        """

    def close(self) -> None:
        """Let go of it, whatever state it is in."""


@dataclass(frozen=True)
class Settled:
    """A stable reading: the median of those that agreed, its unit, and how far they lay apart."""

    value: float
    unit: str
    spread: float


def _creeps(run: Sequence[float], allowed: float) -> bool:
    """Whether readings go on one way, each beyond the one before, by more than noise would: over three of them that is not told yet unless
    they do so by half of what is ``allowed``, and then more are waited for."""
    steps = [later - earlier for earlier, later in pairwise(run)]
    one_way = all(step > 0 for step in steps) or all(step < 0 for step in steps)
    return one_way and abs(run[-1] - run[0]) > allowed / 2


def settled(
    driver: Driver,
    channel_for: Callable[[Raw], str | None],
    tolerance: Callable[[float], float],
    *,
    clock: Callable[[], float] = time.monotonic,
    sleep: Callable[[float], None] = time.sleep,
) -> Settled:
    """Read until three readings in a row are called stable, agree to ``tolerance`` (of the value, same unit) and do not creep on one way.

    ``channel_for`` names the channel that is wanted.

    :raises DeviceFault: the device fails, has no such channel, or does not settle in three seconds.
    """
    driver.open()
    try:
        run: list[float] = []
        told_in = ""
        until = clock() + LONGEST
        while clock() < until:
            raw = driver.read()
            channel = channel_for(raw)
            if channel is None:
                raise DeviceFault("measures nothing in a unit that fits here")
            value, unit = raw.channels[channel]
            if not abs(value) < LARGEST:
                raise DeviceFault("shows a number that cannot be")
            if unit != told_in:
                # A number in another unit is no second reading of the same thing.
                run, told_in = [], unit
            run = [*run[-(LOOKED_BACK - 1) :], value] if raw.stable else []
            last = run[-AGREE:]
            middle = median(last) if last else 0.0
            spread = max(last) - min(last) if last else 0.0
            allowed = tolerance(abs(middle))
            if len(last) == AGREE and spread <= allowed and not _creeps(run, allowed):
                return Settled(middle, unit, spread)
            sleep(PAUSE)
        raise DeviceFault("does not come to rest")
    finally:
        driver.close()
