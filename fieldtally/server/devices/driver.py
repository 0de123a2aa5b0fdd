"""The one interface to a device, and the reading it gives."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from statistics import median
from typing import Protocol

AGREE = 3
"""So many readings one after another must agree."""
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


def settled(
    driver: Driver,
    channel_for: Callable[[Raw], str | None],
    tolerance: Callable[[float], float],
    *,
    clock: Callable[[], float] = time.monotonic,
    sleep: Callable[[float], None] = time.sleep,
) -> Settled:
    """Read until three readings in a row are called stable and agree to ``tolerance`` (of the value, same unit).

    ``channel_for`` names the channel that is wanted.

    :raises DeviceFault: the device fails, has no such channel, or does not settle in three seconds.
    """
    driver.open()
    try:
        run: list[float] = []
        until = clock() + LONGEST
        while clock() < until:
            raw = driver.read()
            channel = channel_for(raw)
            if channel is None:
                raise DeviceFault("measures nothing in a unit that fits here")
            value, unit = raw.channels[channel]
            if not abs(value) < LARGEST:
                raise DeviceFault("shows a number that cannot be")
            run = [*run[-(AGREE - 1) :], value] if raw.stable else []
            middle = median(run) if run else 0.0
            spread = max(run) - min(run) if run else 0.0
            if len(run) == AGREE and spread <= tolerance(abs(middle)):
                return Settled(middle, unit, spread)
            sleep(PAUSE)
        raise DeviceFault("does not come to rest")
    finally:
        driver.close()
