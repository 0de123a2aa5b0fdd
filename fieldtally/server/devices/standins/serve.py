"""Serve stand-ins: ``python -m fieldtally.server.devices.standins.serve scale:json:7301 meter:text:7302 --seed 7``.

Beside the protocol of docs/devices.md a stand-in can be told what is put on it, and to fail::

    {"ask": "put", "channel": "mass", "value": 83.2}      P mass 83.2
    {"ask": "fault", "mode": "nonsense"}                  F nonsense

With ``--settings`` it prints what ``FT_DEVICES`` is to be for them, and ends.

Modes of failure are ``none``, ``silent``, ``nonsense``, ``overload``, ``unplugged`` and ``restless``.
"""

from __future__ import annotations

import argparse
import json
import socketserver
import threading
import time
from dataclasses import dataclass, field
from typing import Any

from fieldtally.server.devices.standins.nature import KINDS, Nature

FAULTS = ("none", "silent", "nonsense", "overload", "unplugged", "restless")
NAMES = {"scale": "Bench scale", "meter": "Bench meter", "weather": "Weather station"}
HALF_A_LINE = "\x02 ..7g%%"


@dataclass
class StandIn:
    """One instrument: what it measures, the form it talks, and how it fails just now."""

    kind: str
    form: str
    seed: int
    nature: Nature = field(init=False)
    fault: str = "none"
    lock: threading.Lock = field(default_factory=threading.Lock)

    def __post_init__(self) -> None:
        self.nature = Nature(KINDS[self.kind], self.seed, time.monotonic())

    def answer(self, line: str) -> str | None:
        """What it says to a line; None where it hangs up, an empty text where it keeps silent."""
        with self.lock:
            ask, rest = self._understood(line)
            if ask == "put" and rest[0] in self.nature.channels:
                self.nature.put(rest[0], float(rest[1]), time.monotonic())
                return self._said({"done": "put"}, "OK")
            if ask == "fault" and rest[0] in FAULTS:
                self.fault = rest[0]
                return self._said({"done": "fault"}, "OK")
            if ask == "who":
                units = {name: channel.unit for name, channel in self.nature.channels.items()}
                return self._said({"kind": self.kind, "channels": units}, f"{self.kind} {' '.join(units)}")
            if ask != "reading":
                return self._said({"error": "unknown request"}, "E unknown request")
            return self._reading()

    def _reading(self) -> str | None:
        if self.fault == "unplugged":
            return None
        if self.fault == "silent":
            return ""
        if self.fault == "nonsense":
            return HALF_A_LINE
        if self.fault == "overload":
            return self._said({"error": "overload"}, "E overload")
        shown, rests = self.nature.shows(time.monotonic())
        stable = rests and self.fault != "restless"
        channels = {name: {"value": v, "unit": self.nature.channels[name].unit} for name, v in shown.items()}
        text = "; ".join(f"{name} {one['value']} {one['unit']}" for name, one in channels.items())
        return self._said(
            {"kind": self.kind, "channels": channels, "stable": stable}, f"{text}; {'S' if stable else 'D'}"
        )

    def _understood(self, line: str) -> tuple[str, list[Any]]:
        if self.form == "text":
            word, *rest = line.split() or [""]
            return {"R": "reading", "W": "who", "P": "put", "F": "fault"}.get(word, ""), [*rest, "", ""]
        try:
            told = json.loads(line)
            rest = [told.get("channel", told.get("mode", "")), told.get("value", 0)]
            return str(told.get("ask", "")), rest
        except (ValueError, AttributeError):
            return "", ["", ""]

    def _said(self, as_json: dict[str, Any], as_text: str) -> str:
        return json.dumps(as_json) if self.form == "json" else as_text


def server_for(standin: StandIn, port: int, host: str = "127.0.0.1") -> socketserver.ThreadingTCPServer:
    """A server that speaks for ``standin``; port 0 takes a free one."""

    class Talk(socketserver.StreamRequestHandler):
        def handle(self) -> None:
            for line in self.rfile:
                said = standin.answer(line.decode("utf-8", "replace").strip())
                if said is None:
                    return
                if said:
                    self.wfile.write(said.encode() + (b"\r\n" if standin.form == "text" else b"\n"))

    class Server(socketserver.ThreadingTCPServer):
        allow_reuse_address = True
        daemon_threads = True

    return Server((host, port), Talk)


def _setting(kind: str, form: str, port: int) -> dict[str, Any]:
    """One entry of ``FT_DEVICES``."""
    units = [channel.unit for channel in KINDS[kind].values()]
    told = {"key": kind, "name": NAMES[kind], "form": form, "at": f"127.0.0.1:{port}", "units": units}
    return {**told, "weather": True} if kind == "weather" else told


def main() -> None:
    """Serve the stand-ins named on the command line until interrupted."""
    parser = argparse.ArgumentParser(description="Stand-ins for instruments")
    parser.add_argument("standins", nargs="+", help="KIND:FORM:PORT, as in scale:json:7301")
    parser.add_argument("--seed", type=int, default=7)
    parser.add_argument("--settings", action="store_true", help="print the setting FT_DEVICES for them, and end")
    given = parser.parse_args()
    asked = [(kind, form, int(port)) for kind, form, port in (text.split(":") for text in given.standins)]
    if given.settings:
        print(json.dumps([_setting(*one) for one in asked]))
        return
    for i, (kind, form, port) in enumerate(asked):
        server = server_for(StandIn(kind, form, given.seed + i), port)
        threading.Thread(target=server.serve_forever, daemon=True).start()
    threading.Event().wait()


if __name__ == "__main__":
    main()
