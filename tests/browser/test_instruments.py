"""Hostile instruments on a running server: whoever has nothing to do with them is served meanwhile.  How fast is for ./bench to tell."""

import json
import socket
import threading
import time
import urllib.error
import urllib.request

import pytest

from tests.browser.conftest import Visitor, served

INSTRUMENTS = 10
"""More than the server has threads."""
HELD = 6
"""Readings that trickle until they are given up."""


@pytest.fixture(scope="module")
def hostile():
    """A port at which whatever connects is held by a byte now and then, or flooded."""
    listening = socket.create_server(("127.0.0.1", 0))
    over = threading.Event()

    def held(connection, flood):
        with connection:
            try:
                while not over.wait(0 if flood else 0.8):
                    connection.sendall(b"x" * 4_096 if flood else b"[")
            except OSError:
                return

    def serve():
        number = 0
        while not over.is_set():
            try:
                connection, _ = listening.accept()
            except OSError:
                return
            number += 1
            threading.Thread(target=held, args=(connection, number % 2 == 0), daemon=True).start()

    threading.Thread(target=serve, daemon=True).start()
    yield listening.getsockname()[1]
    over.set()
    listening.close()


def test_ten_hostile_instruments_keep_nobody_else_waiting(browser, demo, hostile):
    with served(demo) as running:
        running.kill()
        devices = [
            # One machine, many names: each is an instrument of its own.
            {
                "key": f"d{i}",
                "form": "json",
                "at": f"127.0.0.{i + 1}:{hostile}" if i else f"127.0.0.1:{hostile}",
                "units": ["g"],
            }
            for i in range(INSTRUMENTS)
        ]
        running.environment["FT_DEVICES"] = json.dumps(devices)
        running.start()
        who = Visitor(browser, running)
        who.sign_in("scorer@tarnlane.example")
        cookies = {one["name"]: one["value"] for one in who.context.cookies()}
        told = "; ".join(f"{name}={value}" for name, value in cookies.items())
        headers = {"Cookie": told, "X-CSRFToken": cookies["csrftoken"], "Content-Type": "application/json"}
        over, answers, held = threading.Event(), [], []

        def reading(key):
            while not over.is_set():
                asked = urllib.request.Request(
                    f"{running.address}/api/devices/{key}/read",
                    b'{"unit": "g"}',
                    {**headers, "Referer": running.address},
                )
                began = time.monotonic()
                try:
                    urllib.request.urlopen(asked, timeout=20)
                    answers.append(200)
                except urllib.error.HTTPError as error:
                    answers.append(error.code)
                    if "does not answer" in error.read().decode():
                        held.append(time.monotonic() - began)
                over.wait(0.05)

        readers = [threading.Thread(target=reading, args=(f"d{i}",), daemon=True) for i in range(INSTRUMENTS)]
        for one in readers:
            one.start()
        served_meanwhile = 0
        while len(held) < HELD:
            asked = urllib.request.Request(f"{running.address}/api/me", headers=headers)
            urllib.request.urlopen(asked, timeout=20).read()
            served_meanwhile += 1
            over.wait(0.02)
        over.set()
        for one in readers:
            one.join(25)
        who.context.close()
    assert set(answers) == {503}
    # Each of these held a thread for the whole second that an answer may take.
    assert min(held) > 0.9
    # Were others kept waiting by instruments, they would have been served about once for each of them.
    assert served_meanwhile > 4 * HELD
