"""What hostile instruments cost whoever has nothing to do with them: the time of a plain request, with and without them."""

from __future__ import annotations

import json
import socket
import threading
import time

import httpx
from playwright.sync_api import sync_playwright

from tests.browser.conftest import CHROMIUM, SESSIONS, Visitor, served
from tests.browser.demos import DEMO, made

INSTRUMENTS, ASKED = 10, 150


def _trickling(listening: socket.socket, over: threading.Event) -> None:
    def held(connection: socket.socket) -> None:
        with connection:
            try:
                while not over.wait(0.8):
                    connection.sendall(b"[")
            except OSError:
                return

    while not over.is_set():
        try:
            connection, _ = listening.accept()
        except OSError:
            return
        threading.Thread(target=held, args=(connection,), daemon=True).start()


PRESSED_AGAIN = 1.0
"""Seconds after an answer at which somebody presses *Read* again."""


def main() -> None:
    """Print the table's line."""
    import shutil

    listening, over = socket.create_server(("127.0.0.1", 0)), threading.Event()
    threading.Thread(target=_trickling, args=(listening, over), daemon=True).start()
    SESSIONS.update(made())
    with sync_playwright() as playwright, served(DEMO) as running:
        running.kill()
        at = [f"127.0.0.{i + 1}:{listening.getsockname()[1]}" for i in range(INSTRUMENTS)]
        told = [{"key": f"d{i}", "form": "json", "at": where, "units": ["g"]} for i, where in enumerate(at)]
        running.environment["FT_DEVICES"] = json.dumps(told)
        running.start()
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=list(CHROMIUM))
        who = Visitor(browser, running)
        who.sign_in("scorer@tarnlane.example")
        cookies = {str(one["name"]): str(one["value"]) for one in who.context.cookies()}
        headers = {
            "Cookie": "; ".join(f"{name}={value}" for name, value in cookies.items()),
            "X-CSRFToken": cookies["csrftoken"],
            "Referer": running.address,
        }

        # Making a client takes longer than a request: each person has one, as a browser has.
        def person() -> httpx.Client:
            return httpx.Client(base_url=running.address, headers=headers, timeout=20, verify=False, trust_env=False)  # noqa: S501

        plain = person()

        def waits() -> list[float]:
            found = []
            for _ in range(ASKED):
                began = time.monotonic()
                plain.get("/api/me").raise_for_status()
                found.append(1000 * (time.monotonic() - began))
                time.sleep(0.02)
            return sorted(found)

        def reading(key: str) -> None:
            own = person()
            while not over.is_set():
                own.post(f"/api/devices/{key}/read", json={"unit": "g"})
                # Whoever gets no value presses again after a moment.
                over.wait(PRESSED_AGAIN)

        quiet = waits()
        for i in range(INSTRUMENTS):
            threading.Thread(target=reading, args=(f"d{i}",), daemon=True).start()
        time.sleep(1)
        hostile = waits()
        over.set()
        listening.close()
        browser.close()
    half, most = ASKED // 2, int(0.95 * ASKED)
    print(
        f"a plain request: half within {quiet[half]:.0f} ms, 95 of 100 within {quiet[most]:.0f} ms; while ten people read ten hostile "
        f"instruments {hostile[half]:.0f} and {hostile[most]:.0f} ms (aim: 100 more)"
    )


if __name__ == "__main__":
    main()
