"""The devices that this server may read, as its settings name them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from hashlib import sha256
from typing import Any

from django.conf import settings
from django.core.cache import cache
from django.utils import timezone

from fieldtally.core.limits import LONGEST_DEVICE
from fieldtally.core.quantities.converting import converted
from fieldtally.server.devices.agents import PREFIX, Pushed
from fieldtally.server.devices.driver import DeviceFault, Driver, Raw, settled
from fieldtally.server.devices.drivers import FORMS

AGENT = "agent"
"""The form of an instrument that a program beside it pushes."""
HELD_FOR = 10
"""Seconds after which a device is free again, should whoever reads it have died."""
AT_ONCE = 3
"""So many instruments are read at once: each keeps one of the server's threads busy, and there are eight."""


@dataclass(frozen=True)
class Device:
    """A device: its key and name, the form it talks, where it is (as its form has it: ``host:port``, a serial port, an address), and the
    units it measures in.  ``channel`` names the one that is read where several are told in one unit, ``pushed_by`` (an e-mail
    address) whose program pushes what it says."""

    key: str
    name: str
    form: str
    at: str
    units: tuple[str, ...]
    channel: str = ""
    pushed_by: str = ""

    def measures(self, unit: str) -> bool:
        """Whether it measures something of a sample that can be told in ``unit``."""
        return any(_told_in(1.0, own, unit) is not None for own in self.units)

    def driver(self) -> Driver:
        """A driver for it."""
        return Pushed(self.at) if self.form == AGENT else FORMS[self.form](self.at)


@dataclass(frozen=True)
class DeviceReading:
    """A stable reading in the unit that was asked for, with its moment and device; ``device`` tells beside its name what was read
    raw, where that is another number."""

    value: float
    unit: str
    spread: float
    at: datetime
    device: str


class BadSetting(Exception):
    """A setting of the server that names instruments cannot be read; the message says which and why."""


def device_in(told: Mapping[str, Any], setting: str) -> Device:
    """A device as a setting names it.

    :raises BadSetting: something of it is missing, or cannot be.
    """
    key = str(told.get("key") or "")
    where = str(told.get("at") or (f"{told['host']}:{told['port']}" if "host" in told and "port" in told else ""))
    form = str(told.get("form") or "json")
    by = str(told.get("pushed_by") or "").strip().casefold()
    where = f"{PREFIX}{key}" if form == AGENT else where
    for says in (
        "" if key else "a device has no key",
        "" if where else f"{key} has no place (at, or host and port)",
        "" if form in (*FORMS, AGENT) else f"{key} speaks {form}, which is none of {', '.join((*FORMS, AGENT))}",
        "" if by or form != AGENT else f"{key} is pushed by nobody (pushed_by)",
    ):
        if says:
            raise BadSetting(f"{setting}: {says}.")
    units = tuple(str(unit) for unit in told.get("units") or ())
    return Device(key, str(told.get("name") or key)[:30], form, where, units, str(told.get("channel") or ""), by)


def _named() -> list[Mapping[str, Any]]:
    if not isinstance(settings.DEVICES, list):
        raise BadSetting("FT_DEVICES: it is no list.")
    return settings.DEVICES


def devices() -> list[Device]:
    """The instruments of this server that samples may be measured with.

    :raises BadSetting: its settings name one that cannot be.
    """
    of_weather = settings.WEATHER if isinstance(settings.WEATHER, str) else ""
    told = [one for one in _named() if not one.get("weather") and one.get("key") != of_weather]
    return [device_in(one, "FT_DEVICES") for one in told]


def station() -> Device | None:
    """The weather station: what ``FT_WEATHER`` names (a key of ``FT_DEVICES``, or a device of its own), or else what is marked as one
    there.

    :raises BadSetting: the settings name one that cannot be.
    """
    if isinstance(settings.WEATHER, dict):
        return device_in({"key": "weather", "name": "Weather station", **settings.WEATHER}, "FT_WEATHER")
    named = [
        one for one in _named() if one.get("key") == settings.WEATHER or (not settings.WEATHER and one.get("weather"))
    ]
    if settings.WEATHER and not named:
        raise BadSetting(f"FT_WEATHER: there is no device {settings.WEATHER} in FT_DEVICES.")
    return device_in(named[0], "FT_DEVICES") if named else None


def held_as(device: Device) -> str:
    """The name under which a device is held by whoever reads it."""
    return f"devices/{sha256(device.at.encode()).hexdigest()[:32]}"


def read(device: Device, unit: str) -> DeviceReading:
    """A stable reading of ``device`` in ``unit``.

    One person at a time reads it: others are told so at once, and wait for nobody.

    :raises DeviceFault: it gives none, or somebody else is reading it.
    """

    def channel_for(raw: Raw) -> str | None:
        fit = [name for name, (_, own) in raw.channels.items() if _told_in(1.0, own, unit) is not None]
        if device.channel:
            return device.channel if device.channel in fit else None
        if len(fit) > 1:
            raise DeviceFault(f"measures {' and '.join(fit)[:80]} in a unit that fits; its settings have to name one")
        return fit[0] if fit else None

    name = held_as(device)
    if not cache.add(name, True, HELD_FOR):
        raise DeviceFault("is being read by somebody else")
    places = (f"devices/place/{one}" for one in range(AT_ONCE))
    place = next((one for one in places if cache.add(one, True, HELD_FOR)), None)
    try:
        if place is None:
            raise DeviceFault("has to wait, since other instruments are being read")
        found = settled(device.driver(), channel_for, lambda value: max(0.002 * value, 0.05))
    finally:
        cache.delete_many([one for one in (name, place) if one])
    value = _told_in(found.value, found.unit, unit)
    if value is None:
        raise DeviceFault("measures nothing in a unit that fits here")
    value = round(value, 6)
    raw = "" if found.unit.strip() == unit.strip() else f", read {found.value:.6g} {found.unit}"
    return DeviceReading(value, unit, found.spread, timezone.now(), f"{device.name}{raw}"[:LONGEST_DEVICE])


def _told_in(value: float, own: str, wanted: str) -> float | None:
    """``value`` in the unit that is wanted; units that no registry knows (pH) must be spelt alike."""
    if own.strip().casefold() == wanted.strip().casefold():
        return value
    return converted(value, own, wanted)
