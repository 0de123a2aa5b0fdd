"""Instruments that stand beside somebody's own computer: a small program there (:mod:`.agent`) reads them and pushes, with a token,
what they say.

The server never reaches out to such a computer.  It says that a reading is asked for, and takes what is pushed from then on.
"""

from __future__ import annotations

import time
from uuid import uuid4

from django.core.cache import cache

from fieldtally.server.devices.driver import DeviceFault, Raw
from fieldtally.server.devices.drivers import LONGEST_LINE, in_json

ASKED_FOR, KEPT_FOR = 8, 10
ANSWERS_WITHIN = 2.5
LOOKS_EVERY = 0.1
PREFIX = "agent:"


def pushed(key: str, told: str) -> bool:
    """Take what the agent of a device (key) says, a piece of JSON, empty where it has nothing to say; whether a reading is asked for.

    :raises DeviceFault: it is too long.
    """
    if len(told) > LONGEST_LINE:
        raise DeviceFault("talks without end")
    if told:
        cache.set(_told(key), (uuid4().hex, told), KEPT_FOR)
    return cache.get(_asked(key)) is not None


def _asked(key: str) -> str:
    return f"devices/asked/{key}"


def _told(key: str) -> str:
    return f"devices/told/{key}"


class Pushed:
    """A driver of what an agent pushes."""

    def __init__(self, where: str) -> None:
        self.key = where.removeprefix(PREFIX)
        self.last = ""

    def open(self) -> None:
        """Ask for readings; only those that come from now on count."""
        cache.set(_asked(self.key), True, ASKED_FOR)
        self.last = (cache.get(_told(self.key)) or ("", ""))[0]

    def read(self) -> Raw:
        """The next reading."""
        until = time.monotonic() + ANSWERS_WITHIN
        while time.monotonic() < until:
            number, told = cache.get(_told(self.key)) or ("", "")
            if number and number != self.last:
                self.last = number
                return in_json(told)
            time.sleep(LOOKS_EVERY)
        raise DeviceFault("does not answer: does the program beside it run?")

    def close(self) -> None:
        """Nothing is asked for any more."""
        cache.delete(_asked(self.key))
