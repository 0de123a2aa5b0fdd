"""Drivers of instruments: the open line protocol in its two forms (JSON lines, plain text) over a network or a serial port, and JSON over
HTTP.  See docs/devices.md."""

from __future__ import annotations

import asyncio
import json
import math
import re
import socket
import time
from collections.abc import Callable, Mapping
from contextlib import suppress
from typing import Any
from urllib.parse import urlsplit

import httpx
import serial

from fieldtally.server.devices.driver import DeviceFault, Driver, Raw

ANSWERS_WITHIN = 1.0
LONGEST_LINE = 4_000
TEXT_CHANNEL = re.compile(r"([a-z_]+)\s+([+-]?\d+(?:\.\d+)?)\s+(\S+)")


class Line:
    """A connection that sends a line and gets one back."""

    ask = b""

    def __init__(self, host: str, port: int) -> None:
        self.host, self.port = host, port
        self.socket: socket.socket | None = None
        self.rest = b""

    def open(self) -> None:
        """Connect."""
        try:
            self.socket = socket.create_connection((self.host, self.port), timeout=ANSWERS_WITHIN)
        except OSError as error:
            raise DeviceFault("is not there, or is switched off") from error

    def close(self) -> None:
        """Let go of it."""
        if self.socket is not None:
            with suppress(OSError):
                self.socket.close()
        self.socket, self.rest = None, b""

    def read(self) -> Raw:
        """One reading."""
        return self.meant(self.line())

    def meant(self, line: str) -> Raw:
        """What a line means."""
        raise NotImplementedError

    def line(self) -> str:
        """Ask, and wait for one line."""
        if self.socket is None:
            raise DeviceFault("is not there, or is switched off")
        # One deadline for the whole answer: a byte now and then does not keep anybody waiting.
        until = time.monotonic() + ANSWERS_WITHIN
        try:
            self._drain(self.socket)
            self.socket.settimeout(ANSWERS_WITHIN)
            self.socket.sendall(self.ask)
            while b"\n" not in self.rest:
                self.socket.settimeout(max(0.001, until - time.monotonic()))
                more = self.socket.recv(1024)
                if not more:
                    raise DeviceFault("was unplugged")
                self.rest += more
                if len(self.rest) > LONGEST_LINE:
                    raise DeviceFault("talks without end")
        except TimeoutError as error:
            raise DeviceFault("does not answer") from error
        except OSError as error:
            raise DeviceFault("was unplugged") from error
        line, self.rest = self.rest.split(b"\n", 1)
        return _plain(line.decode("utf-8", "replace"))

    def _drain(self, connection: socket.socket) -> None:
        """Lines that nobody asked for are no answers: what has come before the question is passed over."""
        self.rest = b""
        connection.setblocking(False)
        passed = 0
        with suppress(BlockingIOError):
            while more := connection.recv(1024):
                passed += len(more)
                if passed > LONGEST_LINE:
                    raise DeviceFault("talks without end")


class JsonLines(Line):
    """``{"ask": "reading"}`` and ``{"channels": {"mass": {"value": 12.3, "unit": "g"}}, "stable": true}``."""

    ask = b'{"ask": "reading"}\n'

    def meant(self, line: str) -> Raw:
        """The reading in a line of JSON."""
        return in_json(line)


class SerialText(Line):
    """``R`` and ``mass 12.3 g; S`` (S for stable, D for drifting), or ``E overload``; each line ends with CR LF."""

    ask = b"R\r\n"

    def meant(self, line: str) -> Raw:
        """The reading in a line of text."""
        if line.startswith("E "):
            raise DeviceFault(f"reports: {line[2:82]}")
        *parts, state = (part.strip() for part in line.split(";"))
        found = [TEXT_CHANNEL.fullmatch(part) for part in parts]
        if state not in ("S", "D") or not parts or None in found:
            raise DeviceFault("sends something that cannot be understood")
        return _sensible({one[1]: (float(one[2]), one[3]) for one in found if one}, state == "S")


def _sensible(channels: dict[str, tuple[float, str]], stable: bool) -> Raw:
    if not channels or not all(math.isfinite(value) for value, _ in channels.values()):
        raise DeviceFault("sends something that cannot be understood")
    return Raw(channels, stable)


def in_json(told_as: str) -> Raw:
    """The reading in a piece of JSON."""
    try:
        told = json.loads(told_as)
        if "error" in told:
            raise DeviceFault(f"reports: {_plain(str(told['error']))[:80]}")
        channels = {
            _plain(str(name)): (float(one["value"]), _plain(str(one["unit"])))
            for name, one in dict(told["channels"]).items()
        }
        stable = told["stable"] is True
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        raise DeviceFault("sends something that cannot be understood") from error
    return _sensible(channels, stable)


def _plain(told: str) -> str:
    """Words of a device without what moves a cursor or hides."""
    return "".join(one for one in told if one.isprintable()).strip()


class SerialLine(Line):
    """A line of the protocol over a serial port of the server's own machine: a ``port`` such as ``/dev/ttyUSB0``, at ``speed`` bits
    a second."""

    def __init__(self, port: str, speed: int, spoken: type[Line]) -> None:
        super().__init__(port, speed)
        self.spoken = spoken(port, speed)
        self.ask = spoken.ask
        self.serial: Any = None

    def open(self) -> None:
        """Connect."""
        try:
            self.serial = serial.serial_for_url(
                self.host, baudrate=self.port, timeout=ANSWERS_WITHIN, write_timeout=ANSWERS_WITHIN
            )
        except (OSError, ValueError) as error:
            raise DeviceFault("is not there, or is switched off") from error

    def close(self) -> None:
        """Let go of it."""
        if self.serial is not None:
            with suppress(OSError):
                self.serial.close()
        self.serial = None

    def meant(self, line: str) -> Raw:
        """What a line means in the form that is spoken over this port."""
        return self.spoken.meant(line)

    def line(self) -> str:
        """Ask, and wait for one line."""
        if self.serial is None:
            raise DeviceFault("is not there, or is switched off")
        until = time.monotonic() + ANSWERS_WITHIN
        held = b""
        try:
            self.serial.reset_input_buffer()
            self.serial.write(self.ask)
            while b"\n" not in held:
                left = until - time.monotonic()
                if left <= 0:
                    raise DeviceFault("does not answer")
                self.serial.timeout = left
                held += self.serial.read(max(1, min(1024, self.serial.in_waiting)))
                if len(held) > LONGEST_LINE:
                    raise DeviceFault("talks without end")
        except OSError as error:
            raise DeviceFault("was unplugged") from error
        return _plain(held.split(b"\n", 1)[0].decode("utf-8", "replace"))


class JsonOverHttp:
    """A reading in JSON, fetched from an address of the device: the same document as of a JSON line."""

    def __init__(self, address: str) -> None:
        self.address = address

    def open(self) -> None:
        """Nothing is held between two readings."""

    def close(self) -> None:
        """Nothing is held between two readings."""

    def read(self) -> Raw:
        """One reading."""
        return in_json(asyncio.run(self._fetched()))

    async def _fetched(self) -> str:
        held = b""
        try:
            # One deadline for the whole answer, head and body, however it trickles in.
            async with (
                asyncio.timeout(ANSWERS_WITHIN),
                httpx.AsyncClient(follow_redirects=False, trust_env=False) as client,
                client.stream("GET", self.address, headers={"Accept": "application/json"}) as answer,
            ):
                if answer.status_code != httpx.codes.OK:
                    raise DeviceFault(f"answers with an error ({answer.status_code})")
                async for more in answer.aiter_raw(1024):
                    held += more
                    if len(held) > LONGEST_LINE:
                        raise DeviceFault("talks without end")
        except (TimeoutError, httpx.TimeoutException) as error:
            raise DeviceFault("does not answer") from error
        except httpx.ConnectError as error:
            raise DeviceFault("is not there, or is switched off") from error
        except httpx.HTTPError as error:
            raise DeviceFault("was unplugged") from error
        return held.decode("utf-8", "replace")


SPOKEN: Mapping[str, type[Line]] = {"json": JsonLines, "text": SerialText}
DEFAULT_SPEED = 9_600


def _over_serial(spoken: str) -> Callable[[str], Driver]:
    def made(where: str) -> Driver:
        port, _, speed = where.partition("@")
        return SerialLine(port, int(speed or DEFAULT_SPEED), SPOKEN[spoken])

    return made


def _over_network(spoken: str) -> Callable[[str], Driver]:
    def made(where: str) -> Driver:
        told = urlsplit(f"//{where}")
        return SPOKEN[spoken](told.hostname or "", told.port or 0)

    return made


FORMS: Mapping[str, Callable[[str], Driver]] = {
    "json": _over_network("json"),
    "text": _over_network("text"),
    "serial-json": _over_serial("json"),
    "serial-text": _over_serial("text"),
    "http": JsonOverHttp,
}
"""How an instrument is spoken with, by the name of its form: from where it is (``host:port``, ``/dev/ttyUSB0@9600``, an address) a
driver."""
