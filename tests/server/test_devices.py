"""Instruments that are slow, trickle, flood, nest, lie or answer what nobody asked: refused in a sentence, and nobody waits for them."""

import json
import os
import select
import socket
import threading
import time
import tty
from contextlib import contextmanager
from datetime import timedelta

import httpx
import pytest
from django.core.cache import cache
from django.utils import timezone

from fieldtally.server.devices import agents
from fieldtally.server.devices.agent import turn
from fieldtally.server.devices.driver import LONGEST, DeviceFault, Raw, settled
from fieldtally.server.devices.drivers import ANSWERS_WITHIN, JsonLines, SerialText
from fieldtally.server.devices.registry import AT_ONCE, BadSetting, Device, devices, held_as, read, station
from fieldtally.server.log.conditions import read_for_all
from fieldtally.server.log.models import Condition
from tests.server.conftest import make

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
    return Device("scale", "Bench scale", "json", f"127.0.0.1:{port}", ("g",), **more)


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

        cache.add(held_as(scale(port)), True, 10)
        began = time.monotonic()
        reading()
        assert (faults, time.monotonic() - began < 0.1) == (["is being read by somebody else"], True)
        cache.clear()
        reading()
        assert faults[1] == "does not answer"
        # Whatever became of it, it is free again.
        assert cache.add(held_as(scale(port)), True, 1)


def test_only_so_many_are_read_at_once_so_that_threads_are_left_for_others():
    for one in range(AT_ONCE):
        cache.add(f"devices/place/{one}", True, 10)
    with instrument(answering([told(mass=(12.0, "g"))])) as port:
        with pytest.raises(DeviceFault, match="other instruments"):
            read(scale(port), "g")
        cache.delete("devices/place/1")
        assert read(scale(port), "g").value == 12.0
        assert cache.add("devices/place/1", True, 1)


def test_what_was_read_raw_stands_beside_a_reading_in_another_unit():
    with instrument(answering([told(mass=(0.01246, "kg"))])) as port:
        found = read(scale(port), "g")
        assert (found.value, found.device) == (12.46, "Bench scale, read 0.01246 kg")
        assert read(scale(port), "kg").device == "Bench scale"


@contextmanager
def on_a_serial_port(answer):
    """A serial port with something on it that answers each line."""
    ours, theirs = os.openpty()
    tty.setraw(theirs)
    over = threading.Event()

    def serve():
        held = b""
        while not over.is_set():
            if not select.select([ours], [], [], 0.05)[0]:
                continue
            held += os.read(ours, 200)
            while b"\n" in held:
                _, held = held.split(b"\n", 1)
                os.write(ours, answer)

    serving = threading.Thread(target=serve, daemon=True)
    serving.start()
    try:
        yield os.ttyname(theirs)
    finally:
        over.set()
        serving.join(5)
        os.close(ours)
        os.close(theirs)


@pytest.mark.parametrize(
    ("form", "answer"),
    [("serial-text", b"mass 12.3 g; S\r\n"), ("serial-json", told(mass=(12.3, "g")).encode() + b"\n")],
)
def test_an_instrument_on_a_serial_port_is_read(form, answer):
    with on_a_serial_port(answer) as port:
        assert read(Device("scale", "Scale", form, f"{port}@9600", ("g",)), "g").value == 12.3


def test_a_serial_port_that_says_nothing_or_is_not_there_is_said():
    with on_a_serial_port(b"mass 12") as port, pytest.raises(DeviceFault, match="does not answer"):
        read(Device("scale", "Scale", "serial-text", port, ("g",)), "g")
    with pytest.raises(DeviceFault, match="not there"):
        read(Device("scale", "Scale", "serial-text", "/dev/nothing", ("g",)), "g")


def page(status, body):
    head = f"HTTP/1.1 {status}\r\nContent-Type: application/json\r\nContent-Length: {len(body)}\r\n\r\n"
    return (head + body).encode()


def answering_http(answer, each=None):
    def behave(connection, over):
        connection.recv(2_000)
        if each is None:
            connection.sendall(answer)
            return
        for byte in answer:
            if over.wait(each):
                return
            connection.sendall(bytes([byte]))

    return behave


def by_http(port, **more):
    return Device("logger", "Logger", "http", f"http://127.0.0.1:{port}/reading", ("g",), **more)


def test_an_instrument_that_answers_by_http_is_read():
    with instrument(answering_http(page("200 OK", told(mass=(12.3, "g"))))) as port:
        assert read(by_http(port), "g").value == 12.3


@pytest.mark.parametrize(
    ("behave", "says"),
    [
        (answering_http(page("500 No", "")), "answers with an error"),
        (answering_http(page("302 Found", "")), "answers with an error"),
        (answering_http(page("200 OK", "<html>")), "cannot be understood"),
        (answering_http(page("200 OK", " " * 9_000)), "talks without end"),
        (answering_http(page("200 OK", told(mass=(12.3, "g"))), each=0.05), "does not answer"),
        (silent, "does not answer"),
    ],
)
def test_one_that_answers_badly_by_http_is_told_of_in_time(behave, says):
    with instrument(behave) as port:
        began = time.monotonic()
        with pytest.raises(DeviceFault, match=says):
            read(by_http(port), "g")
    assert time.monotonic() - began < LONGEST + 2 * ANSWERS_WITHIN


class Bench:
    """An instrument beside somebody's own computer."""

    def __init__(self, *values):
        self.values = list(values)

    def open(self):
        """There."""

    def close(self):
        """Gone."""

    def read(self):
        if not self.values:
            raise DeviceFault("was unplugged")
        return Raw({"mass": (self.values.pop(0), "g")}, True)


def test_what_a_program_beside_an_instrument_pushes_is_read(settings, monkeypatch):
    world = make("running")
    settings.DEVICES = [
        {"key": "scale", "name": "Scale", "form": "agent", "units": ["g"], "pushed_by": "Lead@x.example"}
    ]
    told = {"Content-Type": "application/json"}

    def post(path, body, who="lead"):
        answer = world.clients[who].post(path, body, "application/json")
        return httpx.Response(
            answer.status_code, content=answer.content, headers=told, request=httpx.Request("POST", "http://x")
        )

    bench, asked = Bench(12.0, 12.4, 12.41, 12.39), []

    def meanwhile(seconds):
        asked.append(turn(post, "scale", bench, bool(asked)))

    assert turn(post, "scale", bench, False) is False
    monkeypatch.setattr(agents.time, "sleep", meanwhile)
    scale_there = devices()[0]
    assert read(scale_there, "g").value == pytest.approx(12.4, abs=0.02)
    # It is asked only while somebody reads; what was pushed before is no answer, and where nothing comes that is said.
    assert turn(post, "scale", Bench(), False) is False
    monkeypatch.setattr(agents, "ANSWERS_WITHIN", 0.05)
    monkeypatch.setattr(agents.time, "sleep", lambda seconds: threading.Event().wait(0.01))
    with pytest.raises(DeviceFault, match="does not answer"):
        read(scale_there, "g")
    # A fault of the instrument is told as such.
    monkeypatch.setattr(agents, "ANSWERS_WITHIN", 2.5)
    monkeypatch.setattr(agents.time, "sleep", lambda seconds: turn(post, "scale", Bench(), True))
    with pytest.raises(DeviceFault, match="reports: was unplugged"):
        read(scale_there, "g")
    # Nobody else pushes for it.
    assert post("/api/devices/scale/push", {"told": ""}, "scorer").status_code == 404
    with pytest.raises(SystemExit, match="turned it down"):
        turn(lambda path, body: post(path, body, "scorer"), "scale", Bench(), False)
    assert post("/api/devices/scale/push", {"told": "[" * 5_000}).status_code == 422


def named(key, **more):
    return {
        "key": key,
        "name": key.title(),
        "form": "json",
        "host": "127.0.0.1",
        "port": 1,
        "units": ["°C", "lx"],
        **more,
    }


def test_the_settings_alone_say_what_is_the_weather(settings):
    settings.DEVICES, settings.WEATHER = [named("logger"), named("roof")], ""
    # Telling °C and lux makes nothing a weather station.
    assert station() is None
    assert [one.key for one in devices()] == ["logger", "roof"]
    assert devices()[0].measures("°C")
    settings.WEATHER = "roof"
    assert station().name == "Roof"
    assert [one.key for one in devices()] == ["logger"]
    settings.WEATHER = {"form": "http", "at": "http://127.0.0.1:1/now"}
    assert (station().key, station().form, station().at) == ("weather", "http", "http://127.0.0.1:1/now")
    settings.DEVICES, settings.WEATHER = [named("roof", weather=True)], ""
    assert station().key == "roof"
    assert devices() == []


@pytest.mark.parametrize(
    ("told_of", "weather", "says"),
    [
        ([{"name": "Scale"}], "", "FT_DEVICES: a device has no key"),
        ([{"key": "scale"}], "", "FT_DEVICES: scale has no place"),
        ([{"key": "scale", "at": "x:1", "form": "smoke"}], "", "scale speaks smoke, which is none of json, text"),
        ([{"key": "scale", "form": "agent"}], "", "scale is pushed by nobody"),
        ({"key": "scale"}, "", "it is no list"),
        ([], "roof", "FT_WEATHER: there is no device roof"),
    ],
)
def test_settings_that_cannot_be_are_said(settings, told_of, weather, says):
    settings.DEVICES, settings.WEATHER = told_of, weather
    with pytest.raises(BadSetting, match=says):
        station()
        devices()


def test_conditions_are_read_into_running_trials_by_themselves_every_six_hours(settings):
    world = make("running")
    with instrument(answering([told(temperature=(11.5, "°C"), humidity=(80, "%"))])) as port:
        settings.DEVICES, settings.WEATHER = [], {"form": "json", "at": f"127.0.0.1:{port}"}
        now = timezone.now()
        assert read_for_all(now) == 1
        kept = Condition.objects.get(trial=world.trial)
        assert (kept.temperature, kept.humidity, kept.device, kept.by) == (
            11.5,
            80,
            "Weather station",
            world.users["lead"],
        )
        cache.clear()
        assert read_for_all(now + timedelta(hours=5)) == 0
        assert read_for_all(now + timedelta(hours=7)) == 1
    settings.WEATHER = {"form": "json", "at": "127.0.0.1:1"}
    cache.clear()
    assert read_for_all(now + timedelta(hours=20)) == 0


def test_text_with_control_characters_is_read_without_them():
    assert SerialText("x", 1).meant("mass 12.3 g; S").channels == {"mass": (12.3, "g")}
