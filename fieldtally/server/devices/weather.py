"""What the weather station says, in words for whoever goes out."""

from __future__ import annotations

from dataclasses import dataclass
from hashlib import sha256

from django.core.cache import cache

from fieldtally.server.devices.driver import DeviceFault, Raw
from fieldtally.server.devices.registry import Device, station

KEPT_FOR = 60
KEPT_FAULT_FOR = 20
DARK, BRIGHT = 400.0, 40_000.0
"""lx: below the first grades and photos need a lamp, above the second one looks from the shaded side."""


@dataclass(frozen=True)
class WeatherTold:
    """The weather: temperature (°C), humidity (%), rain (mm), light (lx), None where not measured; and a sentence."""

    temperature: float | None
    humidity: float | None
    rain: float | None
    light: float | None
    says: str


def weather_now() -> WeatherTold | None:
    """One raw reading of the station, kept for a minute; None where there is none or it fails."""
    device = station()
    if device is None:
        return None
    name = f"weather/{sha256(device.at.encode()).hexdigest()[:32]}"
    kept = cache.get(name)
    if kept is not None:
        return kept or None
    try:
        told = told_of(_read(device))
    except DeviceFault:
        cache.set(name, "", KEPT_FAULT_FOR)
        return None
    cache.set(name, told, KEPT_FOR)
    return told


def _read(device: Device) -> Raw:
    driver = device.driver()
    driver.open()
    try:
        return driver.read()
    finally:
        driver.close()


def told_of(raw: Raw) -> WeatherTold:
    """A raw reading in words."""
    by_unit = {unit: value for value, unit in raw.channels.values()}
    temperature, rain, light = by_unit.get("°C"), by_unit.get("mm"), by_unit.get("lx")
    parts = []
    if temperature is not None:
        parts.append(f"{temperature:.0f} °C".replace("-", "−"))
    if rain is not None:
        parts.append(f"rain, {rain:.1f} mm: cover the sheets, and note it" if rain > 0.1 else "dry")
    if light is not None and light < DARK:
        parts.append("dim: take a lamp")
    elif light is not None and light > BRIGHT:
        parts.append("glaring: grade from the shaded side")
    if temperature is not None and temperature < 2:
        parts.append("frost is near: instruments may be slow")
    return WeatherTold(temperature, by_unit.get("%"), rain, light, f"{', '.join(parts)}." if parts else "")
