"""Drivers for the two forms of the open line protocol: JSON lines, and the plain text of a serial port.  See docs/devices.md."""

from __future__ import annotations

import json
import math
import re
import socket
import time
from contextlib import suppress

from fieldtally.server.devices.driver import DeviceFault, Raw

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
        return "".join(one for one in line.decode("utf-8", "replace") if one.isprintable()).strip()

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
        try:
            told = json.loads(line)
            if "error" in told:
                raise DeviceFault(f"reports: {str(told['error'])[:80]}")
            channels = {
                str(name): (float(one["value"]), str(one["unit"])) for name, one in dict(told["channels"]).items()
            }
            stable = told["stable"] is True
        except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
            raise DeviceFault("sends something that cannot be understood") from error
        return _sensible(channels, stable)


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


FORMS = {"json": JsonLines, "text": SerialText}
