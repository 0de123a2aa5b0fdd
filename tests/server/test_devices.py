"""Instruments that are slow, trickle, flood, nest, lie or answer what nobody asked: refused in a sentence, and nobody waits for them."""

import json
import select
import socket
import threading
import time
from contextlib import contextmanager

import pytest
from django.core.cache import cache

from fieldtally.server.devices.driver import LONGEST, DeviceFault, Raw, settled
from fieldtally.server.devices.drivers import ANSWERS_WITHIN, JsonLines, SerialText
from fieldtally.server.devices.registry import Device, read

pytestmark = pytest.mark.django_db


@pytest.fixture(autouse=True)
def nobody_reads():
    cache.clear()


def told(**channels):
    return json.dumps({"channels": {n: {"value": v, "unit": u} for n, (v, u) in channels.items()}, "stable": True})


@contextmanager
def instrument(behave):
    """Something on a port that does with each connection what ``behave`` says."""
    listening = socket.create_server(("127.0.0.1", 0))
    over = threading.Event()

    def serve():
        while not over.is_set():
            try:
                connection, _ = listening.accept()
            except OSError:
                return
            threading.Thread(target=_held, args=(connection,), daemon=True).start()

    def _held(connection):
        with connection:
            try:
                behave(connection, over)
            except OSError:
                return

    threading.Thread(target=serve, daemon=True).start()
    try:
        yield listening.getsockname()[1]
    finally:
        over.set()
        listening.close()


def answering(lines):
    """Each question is answered by the next of ``lines``, the last one over and over."""

    def behave(connection, over):
        asked = 0
        while not over.is_set() and connection.recv(200):
            connection.sendall(lines[min(asked, len(lines) - 1)].encode() + b"\n")
            asked += 1

    return behave


def trickling(connection, over):
    connection.recv(200)
    for byte in (told(mass=(12.0, "g")) + "\n").encode():
        if over.wait(0.4):
            return
        connection.sendall(bytes([byte]))


def flooding(connection, over):
    while not over.is_set():
        connection.sendall(b"x" * 4_096)


def silent(connection, over):
    over.wait(10)


HOSTILE = {
    "trickles": (trickling, "does not answer"),
    "floods": (flooding, "talks without end"),
    "is silent": (silent, "does not answer"),
    "nests": (answering(["[" * 3_900]), "cannot be understood"),
    "tells no number": (
        answering(['{"channels": {"mass": {"value": "heavy", "unit": "g"}}, "stable": true}']),
        "understood",
    ),
    "tells what cannot be": (answering([told(mass=(1e300, "g"))]), "cannot be"),
    "tells nothing": (answering([told()]), "cannot be understood"),
    "reports with bells": (answering(['{"error": "over\\u0007load\\u001b[2J"}']), "reports: over"),
    "has two in one unit": (answering([told(mass=(12.0, "g"), tare=(3.0, "g"))]), "measures mass and tare"),
    "changes its unit": (answering([told(mass=(12.0, u)) for u in ("g", "kg") * 20]), "does not come to rest"),
    "creeps": (answering([told(mass=(12 + 0.02 * i, "g")) for i in range(60)]), "does not come to rest"),
}


def scale(port, **more):
    return Device("scale", "Bench scale", "json", "127.0.0.1", port, ("g",), **more)


@pytest.mark.parametrize("how", HOSTILE)
def test_a_hostile_instrument_is_told_of_in_a_sentence_and_in_time(how):
    behave, says = HOSTILE[how]
    with instrument(behave) as port:
        began = time.monotonic()
        with pytest.raises(DeviceFault, match=says):
            read(scale(port), "g")
    assert time.monotonic() - began < LONGEST + 2 * ANSWERS_WITHIN + 0.5


def test_a_sound_one_is_read_and_a_named_channel_where_there_are_several():
    with instrument(answering([told(mass=(12.0, "g"), tare=(3.0, "g"))])) as port:
        assert read(scale(port, channel="tare"), "g").value == 3.0
        assert read(scale(port, channel="mass"), "kg").value == 0.012


def test_lines_that_nobody_asked_for_are_no_answers():
    def behave(connection, over):
        connection.sendall((told(mass=(999.0, "g")) + "\n").encode() * 3)
        answering([told(mass=(12.0, "g"))])(connection, over)

    with instrument(behave) as port:
        driver = JsonLines("127.0.0.1", port)
        driver.open()
        select.select([driver.socket], [], [], 5)  # until what nobody asked for has come
        assert driver.read().channels == {"mass": (12.0, "g")}
        driver.close()


def test_noise_that_happens_to_rise_is_not_creeping():
    rising = iter([Raw({"mass": (12 + 0.001 * i, "g")}, True) for i in range(3)])

    class Bench:
        def open(self):
            """There."""

        def close(self):
            """Gone."""

        def read(self):
            return next(rising)

    found = settled(Bench(), lambda raw: "mass", lambda value: 0.05, sleep=lambda seconds: None)
    assert found.value == pytest.approx(12.001)


def test_one_person_reads_it_at_a_time_and_others_do_not_wait():
    with instrument(silent) as port:
        faults = []

        def reading():
            try:
                read(scale(port), "g")
            except DeviceFault as fault:
                faults.append(fault.says)

        cache.add(f"devices/127.0.0.1/{port}", True, 10)
        began = time.monotonic()
        reading()
        assert (faults, time.monotonic() - began < 0.1) == (["is being read by somebody else"], True)
        cache.clear()
        reading()
        assert faults[1] == "does not answer"
        # Whatever became of it, it is free again.
        assert cache.add(f"devices/127.0.0.1/{port}", True, 1)


def test_what_tells_degrees_and_light_is_weather_unless_its_settings_say_otherwise():
    units = ("°C", "lx")
    assert Device("w", "Station", "json", "x", 1, units).outdoors
    bench = Device("b", "Bench logger", "json", "x", 1, units, weather=False)
    assert not bench.outdoors
    assert bench.measures("°C")
    assert Device("t", "Thermometer", "json", "x", 1, ("°C",), weather=True).outdoors


def test_text_with_control_characters_is_read_without_them():
    assert SerialText("x", 1).meant("mass 12.3 g; S").channels == {"mass": (12.3, "g")}
