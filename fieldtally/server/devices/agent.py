"""The program beside an instrument: it reads it when the server asks, and pushes what it says.

::

FT_TOKEN=ft_... python -m fieldtally.server.devices.agent --server https://tally.example --key scale --form serial-text --at
/dev/ttyUSB0@9600

The token belongs to the person whom the server's ``FT_DEVICES`` names in ``pushed_by``, and may write.  Ctrl-C ends it.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
import time
from collections.abc import Callable
from contextlib import suppress

import httpx

from fieldtally.server.devices.driver import DeviceFault, Driver
from fieldtally.server.devices.drivers import FORMS

IDLE, ASKED = 1.0, 0.15
"""Seconds between two turns while nobody asks, and while somebody does."""
AGAIN_AFTER = 5.0
HTTP_TIMEOUT = 10.0
Post = Callable[[str, dict[str, str]], httpx.Response]


def said(driver: Driver) -> str:
    """What an instrument says now, as a piece of JSON; why it says nothing, where it does not."""
    try:
        driver.open()
        raw = driver.read()
    except DeviceFault as fault:
        return json.dumps({"error": fault.says})
    finally:
        driver.close()
    channels = {name: {"value": value, "unit": unit} for name, (value, unit) in raw.channels.items()}
    return json.dumps({"channels": channels, "stable": raw.stable})


def turn(post: Post, key: str, driver: Driver, asked: bool) -> bool:
    """One turn: push what the instrument says, if that was ``asked`` for; whether it is asked for now.

    :raises SystemExit: the server does not know this instrument or token.
    """
    answer = post(f"/api/devices/{key}/push", {"told": said(driver) if asked else ""})
    if answer.status_code in (401, 403, 404):
        sys.exit(
            f"The server turned it down ({answer.status_code}): is {key} in FT_DEVICES, and the token that of pushed_by, for writing?"
        )
    answer.raise_for_status()
    return bool(answer.json()["asked"])


def main() -> None:
    """Push until interrupted."""
    parser = argparse.ArgumentParser(description="Pushes what an instrument says to a Field Tally server")
    parser.add_argument("--server", required=True, help="its address, as in https://tally.example")
    parser.add_argument("--key", required=True, help="the key of the instrument in the server's FT_DEVICES")
    parser.add_argument("--form", choices=sorted(FORMS), required=True)
    parser.add_argument("--at", required=True, help="where it is: host:port, a serial port, an address")
    given = parser.parse_args()
    token = os.environ.get("FT_TOKEN", "")
    if not token:
        sys.exit("Put a token that may write into FT_TOKEN; one is made under You, Tokens.")
    driver, asked = FORMS[given.form](given.at), False
    with httpx.Client(
        base_url=given.server, headers={"Authorization": f"Bearer {token}"}, timeout=HTTP_TIMEOUT
    ) as client:
        while True:
            with suppress(KeyboardInterrupt):
                try:
                    asked = turn(lambda path, body: client.post(path, json=body), given.key, driver, asked)
                    time.sleep(ASKED if asked else IDLE)
                except httpx.HTTPError as error:
                    print(
                        f"The server is not to be reached ({type(error).__name__}); it is tried again.", file=sys.stderr
                    )
                    asked = False
                    time.sleep(AGAIN_AFTER)
                continue
            return


if __name__ == "__main__":
    main()
