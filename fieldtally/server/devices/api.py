"""Doors of the devices: which there are, and a stable reading of one.  Nothing is stored here."""

from datetime import datetime

from django.http import HttpRequest
from ninja import Router, Schema

from fieldtally.server.answers import Declined, ProblemsOut, missing
from fieldtally.server.devices.agents import pushed
from fieldtally.server.devices.driver import DeviceFault
from fieldtally.server.devices.registry import devices, read

router = Router(tags=["devices"])


class DeviceOut(Schema):
    """A device and the units it measures in."""

    key: str
    name: str
    units: list[str]


class DevicesOut(Schema):
    """Those that can be told in a unit, or all."""

    devices: list[DeviceOut]


@router.get("/devices", response=DevicesOut)
def all_devices(request: HttpRequest, unit: str = "") -> DevicesOut:
    """The devices of this server that measure in ``unit``; all of them where none is named."""
    found = [one for one in devices() if not unit.strip() or one.measures(unit[:40])]
    return DevicesOut(devices=[DeviceOut(key=one.key, name=one.name, units=list(one.units)) for one in found])


class PushIn(Schema):
    """What an instrument says, a piece of JSON as of a JSON line; empty: nothing was asked for."""

    told: str = ""


class PushedOut(Schema):
    """Whether a reading is asked for."""

    asked: bool


@router.post("/devices/{key}/push", response={200: PushedOut, 404: ProblemsOut, 422: ProblemsOut})
def push(request: HttpRequest, key: str, body: PushIn) -> PushedOut:
    """Take what a program beside an instrument pushes, by the token of the person whom the settings name."""
    device = next((one for one in devices() if one.key == key and one.pushed_by), None)
    if device is None or device.pushed_by != request.user.get_username().casefold():
        raise missing()
    try:
        return PushedOut(asked=pushed(key, body.told))
    except DeviceFault as fault:
        raise Declined(422, f"{device.name} {fault.says}.") from fault


class ReadIn(Schema):
    """The unit that the value is wanted in."""

    unit: str


class DeviceReadingOut(Schema):
    """A stable reading with its moment and device."""

    value: float
    unit: str
    spread: float
    at: datetime
    device: str


@router.post("/devices/{key}/read", response={200: DeviceReadingOut, 404: ProblemsOut, 503: ProblemsOut})
def take(request: HttpRequest, key: str, body: ReadIn) -> DeviceReadingOut:
    """Read a device until it has come to rest; where it fails, say so and let people type."""
    device = next((one for one in devices() if one.key == key), None)
    if device is None:
        raise missing()
    try:
        found = read(device, body.unit[:40])
    except DeviceFault as fault:
        raise Declined(503, f"{device.name} {fault.says}. Type the value instead, or try again.") from fault
    return DeviceReadingOut(value=found.value, unit=found.unit, spread=found.spread, at=found.at, device=found.device)
