"""The devices that this server may read, as its settings name them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from django.conf import settings
from django.core.cache import cache
from django.utils import timezone

from fieldtally.core.quantities.converting import converted
from fieldtally.server.devices.driver import DeviceFault, Raw, settled
from fieldtally.server.devices.drivers import FORMS

HELD_FOR = 10
"""Seconds after which a device is free again, should whoever reads it have died."""


@dataclass(frozen=True)
class Device:
    """A device: its key and name, the form it talks, where, and the units it measures in.  ``channel`` names the one that is read where
    several are told in one unit; ``weather`` says whether it is the weather station (None: what its units say)."""

    key: str
    name: str
    form: str
    host: str
    port: int
    units: tuple[str, ...]
    channel: str = ""
    weather: bool | None = None

    @property
    def outdoors(self) -> bool:
        """Whether this is a weather station, whose millimetres are of rain and no sample's."""
        if self.weather is not None:
            return self.weather
        return "°C" in self.units and bool({"mm", "lx"} & set(self.units))

    def measures(self, unit: str) -> bool:
        """Whether it measures something of a sample that can be told in ``unit``."""
        return not self.outdoors and any(_told_in(1.0, own, unit) is not None for own in self.units)


@dataclass(frozen=True)
class DeviceReading:
    """A stable reading in the unit that was asked for, with its moment and device."""

    value: float
    unit: str
    spread: float
    at: datetime
    device: str


def devices() -> list[Device]:
    """All devices of this server."""
    return [
        Device(
            one["key"],
            one["name"],
            one["form"],
            one["host"],
            int(one["port"]),
            tuple(one["units"]),
            str(one.get("channel", "")),
            one.get("weather"),
        )
        for one in settings.DEVICES
    ]


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

    name = f"devices/{device.host}/{device.port}"
    if not cache.add(name, True, HELD_FOR):
        raise DeviceFault("is being read by somebody else")
    try:
        driver = FORMS[device.form](device.host, device.port)
        found = settled(driver, channel_for, lambda value: max(0.002 * value, 0.05))
    finally:
        cache.delete(name)
    value = _told_in(found.value, found.unit, unit)
    if value is None:
        raise DeviceFault("measures nothing in a unit that fits here")
    return DeviceReading(round(value, 6), unit, found.spread, timezone.now(), device.name)


def _told_in(value: float, own: str, wanted: str) -> float | None:
    """``value`` in the unit that is wanted; units that no registry knows (pH) must be spelt alike."""
    if own.strip().casefold() == wanted.strip().casefold():
        return value
    return converted(value, own, wanted)
